import type { PlanRequest } from "../api/types";
import { useUnits } from "../ui/units";
import { bounds, path, useScale } from "./drawing";

/** The part from above, dimensioned, with its datum wedge. */
export function OutlineDrawing({ outline }: { outline: PlanRequest["part"]["outline"] }) {
  const { left, low, right, high } = bounds(outline.outer);
  const width = right - left;
  const depth = high - low;
  const { ref, px, viewBox } = useScale(width, depth, 60);
  const { withUnit } = useUnits();
  const line = { stroke: "var(--quiet)", strokeWidth: px };
  const text = { fontSize: 13.5 * px, fontFamily: "IBM Plex Mono", fill: "var(--ink)", textAnchor: "middle" as const };
  const gap = 26 * px;
  const w = 14 * px;
  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label={`Outline, ${withUnit(width, "mm", 2)} by ${withUnit(depth, "mm", 2)}`}>
        <g transform={`translate(${String(-left)} ${String(high)}) scale(1 -1)`}>
          <path d={path([outline.outer, ...(outline.holes ?? [])])} fill="var(--wash)" fillRule="evenodd" stroke="var(--ink)" strokeWidth={1.6 * px} />
          <path d={`M${String(left - w)} ${String(low)}L${String(left - w)} ${String(low - w)}L${String(left)} ${String(low - w)}Z`} fill="var(--mark)" />
        </g>
        <line x1={0} x2={width} y1={depth + gap} y2={depth + gap} {...line} />
        <line x1={0} x2={0} y1={depth + gap - 5 * px} y2={depth + gap + 5 * px} {...line} />
        <line x1={width} x2={width} y1={depth + gap - 5 * px} y2={depth + gap + 5 * px} {...line} />
        <text x={width / 2} y={depth + gap + 18 * px} {...text}>{withUnit(width, "mm", 2)}</text>
        <line x1={width + gap} x2={width + gap} y1={0} y2={depth} {...line} />
        <line x1={width + gap - 5 * px} x2={width + gap + 5 * px} y1={0} y2={0} {...line} />
        <line x1={width + gap - 5 * px} x2={width + gap + 5 * px} y1={depth} y2={depth} {...line} />
        <text transform={`translate(${String(width + gap + 16 * px)} ${String(depth / 2)}) rotate(-90)`} {...text}>{withUnit(depth, "mm", 2)}</text>
      </svg>
    </div>
  );
}
