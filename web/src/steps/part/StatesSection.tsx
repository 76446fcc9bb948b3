/** A part from blank to finished: step through what every op leaves, and what to look at. */
import { Slider } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { lazy, Suspense, useState } from "react";

import { call } from "../../api/client";
import { useSession, useWorkpiece } from "../../api/queries";
import type { Part, SectionCut, Workpiece } from "../../api/types";
import { bounds, path, useScale } from "../../drawing/drawing";
import { pen } from "../../ui/pen";
import { useEditor } from "../../editing/editor";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

const WorkpieceView = lazy(() => import("../../drawing/WorkpieceView"));

export function StatesSection({ index, part }: { index: number; part: Part }) {
  const { job } = useEditor();
  const found = useWorkpiece(job.id, index, job.version);
  const [asked, setAsked] = useState(0);
  const dark = useSession().data?.person?.theme === "dark";
  if (found.error) return <ProblemNotice error={found.error} />;
  const piece = found.data;
  if (!piece) return <p className="quiet pad">Working out what every cut takes</p>;
  const last = piece.states.length + 1;
  const state = Math.min(asked, last);
  const address = `/api/jobs/${job.id}/parts/${String(index)}`;
  const version = `state=${String(state)}&version=${String(job.version)}`;
  return (
    <>
      <StateStrip piece={piece} state={state} choose={setAsked} />
      <div className="beside grid gap-20 grow may-shrink halves pad">
        <div className="drawing grow least-240">
          <Suspense fallback={<p className="quiet">Fetching the solid</p>}>
            <WorkpieceView address={`${address}/workpiece.glb?${version}`} dark={dark} />
          </Suspense>
        </div>
        <div className="scroll flex down gap-10 may-shrink">
          <Doubts piece={piece} />
          <Section address={address} state={state} version={job.version} part={part} piece={piece} />
          <Cuts piece={piece} part={part} state={state} />
        </div>
      </div>
    </>
  );
}

/** Blank, after each op, finished: pressed, or gone through with the arrow keys. */
function StateStrip({ piece, state, choose }: { piece: Workpiece; state: number; choose: (state: number) => void }) {
  const { withUnit } = useUnits();
  const steps = [
    { name: "Blank", kg: piece.blank.mass_kg },
    ...piece.states.map(({ op, up, after }) => ({ name: `After op ${String(op)}, ${up} up`, kg: after.mass_kg })),
    { name: "Finished", kg: piece.finished.mass_kg },
  ];
  return (
    <div
      className="setup-bar"
      role="tablist"
      aria-label="States of the part"
      onKeyDown={(event) => {
        if (event.key === "ArrowRight") choose(Math.min(state + 1, steps.length - 1));
        if (event.key === "ArrowLeft") choose(Math.max(state - 1, 0));
      }}
    >
      {steps.map(({ name, kg }, number) => (
        <button
          key={name}
          type="button"
          role="tab"
          aria-selected={number === state}
          aria-pressed={number === state}
          onClick={() => choose(number)}
        >
          {name} <span className="mono quiet">{withUnit(kg, "kg", 3)}</span>
        </button>
      ))}
    </div>
  );
}

function Doubts({ piece }: { piece: Workpiece }) {
  const doubts = piece.doubts ?? [];
  if (doubts.length === 0)
    return (
      <p className="said stands" data-testid="doubts">
        Every cut takes what it should, and nothing is left that no cut takes.
      </p>
    );
  return (
    <div className="rows" data-testid="doubts">
      {doubts.map((doubt) => (
        <Notice key={`${doubt.field} ${doubt.says}`} kind={doubt.wrong ? "over" : "info"} title={`${doubt.says}.`} />
      ))}
    </div>
  );
}

function Cuts({ piece, part, state }: { piece: Workpiece; part: Part; state: number }) {
  const { figure, shownUnit } = useUnits();
  const op = piece.states[state - 1];
  const typed = part.ops?.[state - 1]?.cuts ?? [];
  if (!op) return null;
  return (
    <table className="lines tight small">
      <thead>
        <tr>
          <th>Op {op.op} takes</th>
          <th className="num">{shownUnit("cm³")}</th>
          <th className="num">at least s</th>
          <th className="num">s typed</th>
        </tr>
      </thead>
      <tbody>
        {op.cuts.map((cut, number) => (
          <tr key={number}>
            <td>{cut.name}</td>
            <td className="num mono">{figure(cut.volume_mm3 / 1000, "cm³", 2)}</td>
            <td className="num mono">{cut.least_seconds?.toFixed(1) ?? "–"}</td>
            <td className="num mono">{typed[number]?.seconds?.toFixed(1) ?? "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface Cut {
  address: string;
  state: number;
  version: number;
  part: Part;
  piece: Workpiece;
}

/** The state cut level at a height, the finished part inside it. */
function Section({ address, state, version, part, piece }: Cut) {
  const { withUnit } = useUnits();
  const [share, setShare] = useState(0.3);
  const [low, high] = [piece.blank.low_mm[2], piece.blank.high_mm[2]];
  const height = Number((low + (high - low) * share).toFixed(2));
  const slice = (which: number) => ({
    queryKey: ["slice", address, version, which, height],
    queryFn: () =>
      call<SectionCut>("GET", `${address}/workpiece/slice?state=${String(which)}&height_mm=${String(height)}`),
    placeholderData: (before: SectionCut | undefined) => before,
    staleTime: Infinity,
  });
  const now = useQuery(slice(state)).data;
  const done = useQuery(slice(piece.states.length + 1)).data;
  const { low_mm, high_mm } = piece.blank;
  const box = bounds([
    [low_mm[0], low_mm[1]],
    [high_mm[0], high_mm[1]],
  ]);
  const { ref, px, viewBox } = useScale(box.right - box.left, box.high - box.low, 14);
  return (
    <div>
      <div className="drawing least-160" ref={ref}>
        <svg viewBox={viewBox} role="img" aria-label={`${part.name} cut at ${withUnit(height, "mm", 1)}`}>
          <g transform={pen`translate(${-box.left} ${box.high}) scale(1 -1)`}>
            <path d={path(now?.rings ?? [])} fillRule="evenodd" className="slice-now" strokeWidth={1.4 * px} />
            <path d={path(done?.rings ?? [])} fillRule="evenodd" className="slice-done" strokeWidth={1.2 * px} />
          </g>
        </svg>
      </div>
      <label className="grid gap-10 middle slider-short small">
        <span>Cut at</span>
        <Slider
          size="small"
          aria-label="Height of the cut"
          value={share}
          min={0.01}
          max={0.99}
          step={0.01}
          onChange={(_, value) => setShare(value as number)}
        />
        <span className="mono">{withUnit(height, "mm", 1)}</span>
      </label>
    </div>
  );
}
