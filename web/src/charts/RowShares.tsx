/** A row between jaws: what each part gets of the force, on average and in all but one clamping of a hundred either way. */
import { useScale } from "../drawing/drawing";
import type { Figure } from "../api/types";
import { Ask } from "../ui/Ask";
import { useUnits } from "../ui/units";
import type { Hold } from "../api/hold";
import { pen } from "../ui/pen";

export function RowShares({ row, figure }: { row: NonNullable<Hold["row"]>; figure: Figure | undefined }) {
  const { withUnit } = useUnits();
  const high = 96;
  const wide = 300;
  const { ref, px, viewBox } = useScale(wide, high + 16, 4);
  const most = Math.max(...row.parts.map((part) => part.high_n), 1);
  const step = wide / row.parts.length;
  const y = (force: number) => high - (high * force) / most;
  return (
    <div data-testid="row-shares">
      <h2>Row between the jaws</h2>
      <div ref={ref} className="drawing keep strip-120">
        <svg viewBox={viewBox} role="img" aria-label="Force on each part of the row">
          <path d={pen`M0 ${high}H${wide}`} stroke="var(--ink)" strokeWidth={px} />
          {row.parts.map((part, index) => {
            const middle = (index + 0.5) * step;
            return (
              <g key={index}>
                <rect
                  x={middle - step * 0.28}
                  y={y(part.mean_n)}
                  width={step * 0.56}
                  height={high - y(part.mean_n)}
                  fill="var(--wash)"
                  stroke="var(--mark)"
                  strokeWidth={1.2 * px}
                />
                <path
                  d={pen`M${middle} ${y(part.low_n)}V${y(part.high_n)}M${middle - 5 * px} ${y(part.low_n)}h${10 * px}
                     M${middle - 5 * px} ${y(part.high_n)}h${10 * px}`}
                  stroke="var(--ink)"
                  strokeWidth={1.6 * px}
                />
                <text x={middle} y={high + 14 * px} fontSize={12 * px} textAnchor="middle" fill="var(--quiet)">
                  {index + 1}
                </text>
              </g>
            );
          })}
        </svg>
      </div>
      <p className="small">
        The least-held part gets{" "}
        <Ask className="mono" figure={figure}>
          {withUnit(row.least_n, "N", 0)}
        </Ask>{" "}
        in 99 of 100 clampings; one is loose in <span className="mono">{(100 * row.chance_loose).toFixed(1)}</span> of
        100. Two parts would always share alike.
      </p>
    </div>
  );
}
