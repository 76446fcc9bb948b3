/** A state cut level: where the next op clamps it, or at any height with the finished part inside it. */
import { Button, Slider } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { call } from "../../api/client";
import { useHeld } from "../../api/queries";
import type { Part, SectionCut, Workpiece } from "../../api/types";
import { bounds, path, useScale } from "../../drawing/drawing";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { pen } from "../../ui/pen";
import { useUnits } from "../../ui/units";
import { HeldView } from "./HeldView";

interface Cut {
  index: number;
  state: number;
  part: Part;
  piece: Workpiece;
}

export function StateSection(cut: Cut) {
  const { job } = useEditor();
  const [level, setLevel] = useState(false);
  const next = cut.state < cut.piece.states.length ? cut.piece.states[cut.state] : undefined;
  const holds = job.setups.some(({ held }) => held.some((item) => item.part === cut.index && item.op === cut.state));
  const clamped = next !== undefined && holds && !level;
  return (
    <div>
      {next && holds && (
        <div className="flex gap-8 under-4 small" role="group" aria-label="Where it is cut">
          <Button variant={level ? "outlined" : "contained"} aria-pressed={!level} onClick={() => setLevel(false)}>
            Where op {next.op} clamps it
          </Button>
          <Button variant={level ? "contained" : "outlined"} aria-pressed={level} onClick={() => setLevel(true)}>
            At any height
          </Button>
        </div>
      )}
      {clamped ? <Clamped {...cut} /> : <Level {...cut} />}
    </div>
  );
}

function Clamped({ index, state, part }: Cut) {
  const { job } = useEditor();
  const held = useHeld(job.id, index, state, job.version);
  if (held.error) return <ProblemNotice error={held.error} />;
  if (!held.data) return <p className="quiet small">Looking where it is clamped</p>;
  return <HeldView held={held.data} name={part.name} />;
}

/** The state cut level at a height of the part, the finished part inside it. */
function Level({ index, state, part, piece }: Cut) {
  const { job } = useEditor();
  const { withUnit } = useUnits();
  const [share, setShare] = useState(0.3);
  const address = `/api/jobs/${job.id}/parts/${String(index)}`;
  const [low, high] = [piece.blank.low_mm[2], piece.blank.high_mm[2]];
  const height = Number((low + (high - low) * share).toFixed(2));
  const slice = (which: number) => ({
    queryKey: ["slice", address, job.version, which, height],
    queryFn: () =>
      call<SectionCut>("GET", `${address}/workpiece/slice?state=${String(which)}&height_mm=${String(height)}`),
    placeholderData: (before: SectionCut | undefined) => before,
    staleTime: Infinity,
  });
  const now = useQuery(slice(state)).data;
  const done = useQuery(slice(piece.states.length + 1)).data;
  const last = useQuery(slice(Math.max(0, state - 1))).data;
  const { low_mm, high_mm } = piece.blank;
  const box = bounds([
    [low_mm[0], low_mm[1]],
    [high_mm[0], high_mm[1]],
  ]);
  const { ref, px, viewBox } = useScale(box.right - box.left, box.high - box.low, 14);
  return (
    <div>
      <div className="drawing least-240" ref={ref}>
        <svg viewBox={viewBox} role="img" aria-label={`${part.name} cut at ${withUnit(height, "mm", 1)}`}>
          <defs>
            <pattern
              id="gone"
              width={6 * px}
              height={6 * px}
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <line x1="0" y1="0" x2="0" y2={6 * px} stroke="var(--steel)" strokeWidth={1.2 * px} />
            </pattern>
          </defs>
          <g transform={pen`translate(${-box.left} ${box.high}) scale(1 -1)`}>
            <path d={path(last?.rings ?? [])} fillRule="evenodd" fill="url(#gone)" className="slice-gone" />
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
