/** A drawing or a solid brought in: read first, looked at, then taken. Nothing changes until it is taken. */
import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
} from "@mui/material";
import { useState } from "react";

import { Problem } from "../../api/client";
import { useDrawing, useSolidUpload } from "../../api/queries";
import type { OutlinesFound, Part } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { bounds, path, useScale } from "../../drawing/drawing";
import { DropFile } from "../../ui/DropFile";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { ofAnotherPart } from "./another";
import { SolidPick } from "./SolidPick";
import { pen } from "../../ui/pen";

interface Asked {
  file: File;
  units?: string | undefined;
  layers?: string[] | undefined;
  join?: string | undefined;
}

export function BringIn({ index, part }: { index: number; part: Part }) {
  const { mayEdit, change } = useEditor();
  const drawing = useDrawing();
  const solid = useSolidUpload();
  const [asked, setAsked] = useState<Asked | null>(null);
  const [looking, setLooking] = useState(false);
  const at = `job.parts.${String(index)}`;

  const read = (next: Asked) => {
    setAsked(next);
    drawing.mutate(next, { onSuccess: () => setLooking(true) });
  };
  const choose = (file: File | undefined) => {
    if (!file || !mayEdit) return;
    drawing.reset();
    solid.reset();
    if (/\.(step|stp|stl|3mf|glb)$/i.test(file.name)) solid.mutate({ file });
    else read({ file });
  };
  const problem = drawing.error instanceof Problem ? drawing.error : null;
  const unitsMissing = problem?.type === "units-missing";
  const svg = asked ? /\.svg$/i.test(asked.file.name) : false;
  return (
    <div className="flex down gap-10">
      <DropFile
        name="drawing"
        label={drawing.isPending ? "Reading the drawing" : "Load a DXF, SVG or STEP file"}
        hint="or drop it here. Up to 25 MB. You see what was found before anything changes."
        busy={drawing.isPending || solid.isPending}
        disabled={!mayEdit || drawing.isPending || solid.isPending}
        choose={choose}
      />
      {unitsMissing && asked && (
        <Notice title="Which units?" kind="info">
          <p>{problem.message}</p>
          <div className="flex gap-8 above-8">
            <Button variant="contained" onClick={() => read({ ...asked, units: "mm" })}>
              It is mm
            </Button>
            <Button variant="contained" onClick={() => read({ ...asked, units: "inch" })}>
              It is inch
            </Button>
            {svg && (
              <Button variant="contained" onClick={() => read({ ...asked, units: "px" })}>
                It is pixels, 96 to the inch
              </Button>
            )}
          </div>
        </Notice>
      )}
      {drawing.error && !unitsMissing && !looking && (
        <>
          <ProblemNotice error={drawing.error} />
          {asked && /open|gap/.test(drawing.error.message) && (
            <JoinAgain start={asked.join ?? "0.1"} read={(join) => read({ ...asked, join })} />
          )}
        </>
      )}
      {solid.error && <ProblemNotice error={solid.error} />}
      {solid.data && (
        <SolidPick key={solid.data.id} upload={solid.data.id} part={part} index={index} close={() => solid.reset()} />
      )}
      {looking && drawing.data && asked && (
        <Look
          found={drawing.data}
          asked={asked}
          busy={drawing.isPending}
          error={drawing.error}
          read={read}
          close={() => setLooking(false)}
          take={(outline) => {
            change(at, { ...part, outline, solid: null, ...ofAnotherPart(part) });
            setLooking(false);
          }}
        />
      )}
    </div>
  );
}

const counted = (count: number, what: string): string => `${String(count)} ${what}${count === 1 ? "" : "s"}`;

function JoinAgain({ start, read }: { start: string; read: (join: string) => void }) {
  const [join, setJoin] = useState(start);
  const { shownUnit, system } = useUnits();
  return (
    <div className="flex gap-8 middle">
      <TextField
        label={`Join ends up to, ${shownUnit("mm")}`}
        name="join"
        value={join}
        onChange={(event) => setJoin(event.target.value)}
        className="wide-170"
      />
      <Button
        variant="outlined"
        onClick={() => read(/[a-zA-Z"]/.test(join) || system === "metric" ? join : `${join} in`)}
      >
        Read again
      </Button>
    </div>
  );
}

function Look({
  found,
  asked,
  busy,
  error,
  read,
  close,
  take,
}: {
  found: OutlinesFound;
  asked: Asked;
  busy: boolean;
  error: Error | null;
  read: (next: Asked) => void;
  close: () => void;
  take: (outline: OutlinesFound["outlines"][number]["outline"]) => void;
}) {
  const [chosen, setChosen] = useState(0);
  const { withUnit, plain, shownUnit } = useUnits();
  const outline = found.outlines[Math.min(chosen, found.outlines.length - 1)];
  const layers = found.layers ?? [];
  const healed = found.healed ?? [];
  const open = found.open ?? [];
  if (!outline) return null;
  return (
    <Dialog open onClose={close} maxWidth="lg" fullWidth>
      <DialogTitle>
        {asked.file.name}:{" "}
        <span className="mono">
          {withUnit(outline.width_mm, "mm", 2)} × {withUnit(outline.depth_mm, "mm", 2)}
        </span>
      </DialogTitle>
      <DialogContent className="grid gap-20 bring-in">
        <FoundDrawing found={found} chosen={chosen} choose={setChosen} />
        <div className="scroll flex down gap-12">
          {error && <ProblemNotice error={error} />}
          <p>
            {found.outlines.length === 1
              ? "One outline"
              : `${String(found.outlines.length)} outlines: pick the part in the drawing`}
            , {counted(outline.outline.holes?.length ?? 0, "hole")}
            {(outline.outline.islands?.length ?? 0) > 0 &&
              `, ${counted(outline.outline.islands?.length ?? 0, "island")}`}
            . Units: {found.units}.
          </p>
          {layers.length > 1 && (
            <fieldset className="boxed">
              <legend>Layers</legend>
              {layers.map((layer) => (
                <FormControlLabel
                  key={layer.name}
                  className="flex"
                  control={
                    <Checkbox
                      size="small"
                      checked={layer.used}
                      disabled={busy}
                      onChange={() => {
                        setChosen(0);
                        read({
                          ...asked,
                          layers: layers
                            .filter((item) => (item.name === layer.name ? !item.used : item.used))
                            .map((item) => item.name),
                        });
                      }}
                    />
                  }
                  label={
                    <span>
                      {layer.name} <span className="mono quiet">{layer.curves}</span>
                    </span>
                  }
                />
              ))}
            </fieldset>
          )}
          <p>
            Ends up to{" "}
            <span className="mono">
              {plain(found.join_mm, "mm")} {shownUnit("mm")}
            </span>{" "}
            apart were joined:{" "}
            {healed.length === 0
              ? "there were no gaps."
              : `${counted(healed.length, "gap")}, the widest ${withUnit(healed[0]?.gap_mm ?? 0, "mm", 4)}, ringed in the drawing.`}
          </p>
          <JoinAgain start={plain(found.join_mm, "mm")} read={(join) => read({ ...asked, join })} />
          {open.length > 0 && (
            <p className="problem-list">
              {open.length} open {open.length === 1 ? "chain was" : "chains were"} left out; the nearest ends are{" "}
              {withUnit(Math.min(...open.map((gap) => gap.gap_mm)), "mm", 3)} apart.
            </p>
          )}
          {(found.notes ?? []).map((note) => (
            <p key={note} className="quiet">
              {note}
            </p>
          ))}
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Leave it</Button>
        <Button variant="contained" disabled={busy} onClick={() => take(outline.outline)}>
          Take this outline
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function FoundDrawing({
  found,
  chosen,
  choose,
}: {
  found: OutlinesFound;
  chosen: number;
  choose: (index: number) => void;
}) {
  const all = found.outlines.map((item) => bounds(item.outline.outer));
  const box = {
    left: Math.min(...all.map((b) => b.left)),
    low: Math.min(...all.map((b) => b.low)),
    right: Math.max(...all.map((b) => b.right)),
    high: Math.max(...all.map((b) => b.high)),
  };
  const { ref, px, viewBox } = useScale(box.right - box.left, box.high - box.low, 24);
  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="What was found in the drawing">
        <g transform={pen`translate(${-box.left} ${box.high}) scale(1 -1)`}>
          {found.outlines.map((item, index) => (
            <path
              key={index}
              d={path([item.outline.outer, ...(item.outline.holes ?? []), ...(item.outline.islands ?? [])])}
              fillRule="evenodd"
              fill={index === chosen ? "var(--wash)" : "var(--face)"}
              stroke={index === chosen ? "var(--mark)" : "var(--steel)"}
              strokeWidth={(index === chosen ? 2.2 : 1.2) * px}
              className="pressable"
              tabIndex={found.outlines.length > 1 ? 0 : -1}
              role="button"
              aria-label={`Outline ${String(index + 1)}`}
              aria-pressed={index === chosen}
              onClick={() => choose(index)}
              onKeyDown={(event) => event.key === "Enter" && choose(index)}
            />
          ))}
          {[...(found.healed ?? [])].map((gap, index) => (
            <circle
              key={index}
              cx={gap.x_mm}
              cy={gap.y_mm}
              r={7 * px}
              fill="none"
              stroke="var(--mark)"
              strokeWidth={1.8 * px}
            />
          ))}
          {[...(found.open ?? [])].map((gap, index) => (
            <path
              key={index}
              d={pen`M${gap.x_mm - 6 * px} ${gap.y_mm - 6 * px}l${12 * px} ${12 * px}m0 ${-12 * px}l${-12 * px} ${12 * px}`}
              stroke="var(--ink)"
              strokeWidth={1.8 * px}
            />
          ))}
        </g>
      </svg>
    </div>
  );
}
