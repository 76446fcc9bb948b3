/** A solid that was loaded: which way is up, what is then seen from above, the section at grip height, holes and faces. */
import {
  Button,
  CircularProgress,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  LinearProgress,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";

import { call } from "../../api/client";
import { useSession, useSolid } from "../../api/queries";
import type { Part, SectionCut, UploadState, WayUp } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { ofAnotherPart } from "./another";
import { bounds, path, useScale } from "../../drawing/drawing";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { pen } from "../../ui/pen";

const SolidView = lazy(() => import("../../drawing/SolidView"));

export function SolidPick({
  upload,
  part,
  index,
  close,
}: {
  upload: string;
  part: Part;
  index: number;
  close: () => void;
}) {
  const solid = useSolid(upload);
  const state = solid.data;
  if (solid.error) return <ProblemNotice error={solid.error} />;
  if (!state || state.status === "queued" || state.status === "running")
    return (
      <Notice
        title={`Reading the solid: ${state?.step ?? "waiting for a worker"}`}
        kind="info"
        action={<Button onClick={() => void call("DELETE", `/api/solids/${upload}`).finally(close)}>Cancel</Button>}
      >
        <LinearProgress
          variant="determinate"
          value={100 * (state?.share ?? 0)}
          className="above-6 least-wide-180"

          aria-label="Reading the solid"
        />
      </Notice>
    );
  if (state.status !== "done" || !state.result)
    return (
      <Notice title="File not used" action={<Button onClick={close}>Close</Button>}>
        <p>{state.error ?? "Reading was cancelled."}</p>
      </Notice>
    );
  return <Ways state={state} part={part} index={index} close={close} />;
}

function Ways({ state, part, index, close }: { state: UploadState; part: Part; index: number; close: () => void }) {
  const { change } = useEditor();
  const { withUnit, plain } = useUnits();
  const dark = useSession().data?.person?.theme === "dark";
  const reading = state.result;
  const ways = reading?.ways ?? [];
  const [chosen, setChosen] = useState(0);
  const way = ways[chosen];
  const [height, setHeight] = useState(0.3);
  const at = Number(((way?.height_mm ?? 0) * height).toFixed(2));
  const cut = useQuery({
    queryKey: ["section", state.id, chosen, at],
    queryFn: () =>
      call<SectionCut>(
        "GET",
        `/api/solids/${state.id}/section?x=${String(way?.up[0])}&y=${String(way?.up[1])}&z=${String(way?.up[2])}&height_mm=${String(at)}`,
      ),
    enabled: way !== undefined,
    placeholderData: (before) => before,
    staleTime: Infinity,
  });
  if (!reading || !way) return null;
  const take = () => {
    const solid = {
      upload: state.id,
      name: reading.name,
      up: way.up,
      volume_mm3: reading.volume_mm3,
      faces: reading.faces,
      holes: way.holes,
      section_mm: at,
      section: cut.data?.rings ?? [],
      mesh: reading.mesh,
    };
    change(`job.parts.${String(index)}`, {
      ...part,
      outline: way.outline,
      height_mm: Number(way.height_mm.toFixed(4)),
      solid,
      ...ofAnotherPart(part),
    });
    close();
  };
  const mass = reading.volume_mm3 * part.material.density_kg_m3 * 1e-9;
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth>
      <DialogTitle>{reading.name}: which way is up?</DialogTitle>
      <DialogContent className="grid gap-20 solid-pick">
        <div className="scroll flex down gap-4">
          <div className="net" role="group" aria-label="Side that is up, and how high the part is then">
            {ways.map((item, number) => (
              <button
                key={item.name}
                type="button"
                className={`net-side net-${item.name.replace("+", "p").replace("-", "m").toLowerCase()}`}
                onClick={() => setChosen(number)}
                aria-pressed={number === chosen}
              >
                <b>{item.name} up</b>
                <span className="mono one-line">{withUnit(item.height_mm, "mm", 1)}</span>
              </button>
            ))}
          </div>
          <table className="lines above-10">
            <tbody>
              <tr>
                <td>Volume</td>
                <td className="num mono">{withUnit(reading.volume_mm3, "mm³", 0)}</td>
              </tr>
              <tr>
                <td>Mass, {part.material.name}</td>
                <td className="num mono">{withUnit(mass, "kg", 3)}</td>
              </tr>
              <tr>
                <td>Planar faces</td>
                <td className="num mono">{reading.faces.length}</td>
              </tr>
              <tr>
                <td>Round holes</td>
                <td className="num mono">{(way.holes ?? []).length}</td>
              </tr>
            </tbody>
          </table>
          <table className="lines small" aria-label="Planar faces by direction">
            <thead>
              <tr>
                <th>Planar faces look to</th>
                <th className="num">Area</th>
              </tr>
            </thead>
            <tbody>
              {directions(reading.faces).map(([said, area]) => (
                <tr key={said}>
                  <td className="mono">{said}</td>
                  <td className="num mono">{withUnit(area, "mm²", 0)}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {(reading.notes ?? []).map((note) => (
            <p key={note} className="problem-list">
              {note}
            </p>
          ))}
        </div>
        <div className="flex down may-shrink">
          <div className="grow may-shrink">
            <Suspense fallback={<CircularProgress size={22} aria-label="Loading the 3-D view" />}>
              <SolidView upload={state.id} up={way.up} dark={dark} />
            </Suspense>
          </div>
          <p className="quiet small above-6">
            Drag to turn, wheel to come nearer. The arrow points up, to the spindle.
          </p>
        </div>
        <div className="flex down gap-8 may-shrink">
          {way.wrong ? (
            <Notice title="No outline from this side">
              <p>{way.wrong}</p>
            </Notice>
          ) : (
            <FromAbove way={way} section={cut.data ?? null} />
          )}
          <label className="grid gap-10 middle slider-short">
            Section at
            <input
              type="range"
              min={0.01}
              max={0.99}
              step={0.01}
              value={height}
              onChange={(event) => setHeight(Number(event.target.value))}
              aria-label="Height of the section"
            />
            <span className="mono">{withUnit(at, "mm", 2)}</span>
          </label>
          <p className="small">
            The section shows what jaws or stops meet at that height:{" "}
            <span className="mono">{withUnit(cut.data?.area_mm2 ?? 0, "mm²", 0)}</span>.{" "}
            {cut.error ? cut.error.message : ""}
          </p>
          <div className="scroll most-120">
            <table className="lines small">
              <tbody>
                {(way.holes ?? []).slice(0, 40).map((hole, number) => (
                  <tr key={number}>
                    <td className="mono">⌀{plain(Number(hole.diameter_mm.toFixed(3)), "mm")}</td>
                    <td className="mono">
                      at {plain(Number(hole.x_mm.toFixed(3)), "mm")}, {plain(Number(hole.y_mm.toFixed(3)), "mm")}
                    </td>
                    <td className="mono">
                      {withUnit(hole.depth_mm, "mm", 2)} {hole.through ? "through" : "deep"}
                    </td>
                    <td>{Math.abs(hole.axis[2] ?? 0) > 0.999 ? "" : "from the side"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            {(way.holes ?? []).length > 40 && <p className="quiet">and {(way.holes ?? []).length - 40} holes more</p>}
          </div>
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Leave it</Button>
        <Button variant="contained" disabled={way.outline === null} onClick={take}>
          Take it, {way.name} up
        </Button>
      </DialogActions>
    </Dialog>
  );
}

const AXES = ["X", "Y", "Z"];

/** Area of the planar faces by the way they look, the largest first. */
function directions(faces: { normal: number[]; area_mm2: number }[]): [string, number][] {
  const found = new Map<string, number>();
  for (const { normal, area_mm2 } of faces) {
    const axis = normal.findIndex((value) => Math.abs(value) > 0.9999);
    const said =
      axis >= 0
        ? `${(normal[axis] ?? 0) > 0 ? "+" : "-"}${AXES[axis] ?? ""}`
        : normal.map((value) => value.toFixed(2)).join(" ");
    found.set(said, (found.get(said) ?? 0) + area_mm2);
  }
  return [...found].sort((a, b) => b[1] - a[1]).slice(0, 9);
}

function FromAbove({ way, section }: { way: WayUp; section: SectionCut | null }) {
  const outer = way.outline?.outer ?? [[0, 0]];
  const box = bounds(outer);
  const { ref, px, viewBox } = useScale(box.right - box.left, box.high - box.low, 18);
  return (
    <div className="drawing least-160" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="Seen from above, with the section">
        <g transform={pen`translate(${-box.left} ${box.high}) scale(1 -1)`}>
          <path
            d={path([outer, ...(way.outline?.holes ?? [])])}
            fillRule="evenodd"
            fill="var(--face)"
            stroke="var(--ink)"
            strokeWidth={1.5 * px}
          />
          {section && (
            <path
              d={path(section.rings)}
              fillRule="evenodd"
              fill="var(--mark)"
              fillOpacity="0.28"
              stroke="var(--mark)"
              strokeWidth={1.4 * px}
            />
          )}
        </g>
      </svg>
    </div>
  );
}
