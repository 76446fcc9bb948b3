/** Factor over screw torque, with the window in which it holds and does not mark; the slider sets the torque, and
 * shows what it would give. */
import { Slider } from "@mui/material";

import { useScale } from "../drawing/drawing";
import { useUnits } from "../ui/units";
import type { Hold } from "../api/hold";
import { pen } from "../ui/pen";

const HIGH = 120;
const WIDE = 300;

interface Props {
  hold: Hold;
  rated: number;
  torque: number;
  disabled: boolean;
  move: (torque: number) => void;
  settle: (torque: number) => void;
}

/** Straight between the points that were solved, for the cases worst at the torque that is set. */
export function factorAt(hold: Hold, torque: number): number {
  const points = [{ torque_nm: 0, factor: 0 }, ...(hold.curve ?? [])];
  const after = points.findIndex((point) => point.torque_nm >= torque);
  const [a, b] = [points[Math.max(0, after - 1)], points[after < 0 ? points.length - 1 : after]];
  if (!a || !b || b.torque_nm === a.torque_nm) return b?.factor ?? 0;
  return a.factor + ((b.factor - a.factor) * (torque - a.torque_nm)) / (b.torque_nm - a.torque_nm);
}

export function TorqueWindow({ hold, rated, torque, disabled, move, settle }: Props) {
  const { withUnit } = useUnits();
  const { ref, px, viewBox } = useScale(WIDE, HIGH, 4);
  const curve = hold.curve ?? [];
  const most = Math.max(1.6 * hold.needed, ...curve.map((point) => Math.min(point.factor, 3 * hold.needed)));
  const x = (nm: number) => (WIDE * nm) / rated;
  const y = (factor: number) => HIGH - (HIGH * Math.min(factor, most)) / most;
  const line = [{ torque_nm: 0, factor: 0 }, ...curve]
    .map((point) => `${x(point.torque_nm).toFixed(2)} ${y(point.factor).toFixed(2)}`)
    .join("L");
  const from = hold.least_torque_nm;
  const to = hold.marks_from_nm ?? rated;
  const holds = from ? `Holds from ${withUnit(from, "N·m", 1)}` : "Does not hold with this screw";
  const marks = typeof hold.marks_from_nm === "number" ? `, marks from ${withUnit(hold.marks_from_nm, "N·m", 1)}` : "";
  return (
    <div data-testid="torque-window">
      <div ref={ref} className="drawing keep strip-120">
        <svg viewBox={viewBox} role="img" aria-label={`Factor over torque. ${holds}${marks}.`}>
          {from && to > from && (
            <rect x={x(from)} y={0} width={x(to) - x(from)} height={HIGH} fill="var(--within)" fillOpacity="0.14" />
          )}
          {typeof hold.marks_from_nm === "number" && (
            <rect
              x={x(hold.marks_from_nm)}
              y={0}
              width={x(rated) - x(hold.marks_from_nm)}
              height={HIGH}
              fill="var(--close)"
              fillOpacity="0.14"
            />
          )}
          {typeof hold.sinks_from_nm === "number" && (
            <rect
              x={x(hold.sinks_from_nm)}
              y={0}
              width={x(rated) - x(hold.sinks_from_nm)}
              height={HIGH}
              fill="var(--over)"
              fillOpacity="0.16"
            />
          )}
          <path d={pen`M0 ${HIGH}H${WIDE}`} stroke="var(--ink)" strokeWidth={px} />
          <path d={pen`M0 ${y(hold.needed)}H${WIDE}`} stroke="var(--over)" strokeWidth={1.4 * px} />
          <text x={WIDE - 2} y={y(hold.needed) - 4 * px} fontSize={12 * px} fill="var(--over)" textAnchor="end">
            needs {hold.needed}
          </text>
          <path d={`M${line}`} fill="none" stroke="var(--mark)" strokeWidth={2 * px} />
          <circle cx={x(torque)} cy={y(factorAt(hold, torque))} r={4.5 * px} fill="var(--mark)" />
        </svg>
      </div>
      <Slider
        size="small"
        aria-label="Torque on the clamp screw"
        value={torque}
        min={0.5}
        max={rated}
        step={0.5}
        disabled={disabled}
        sx={{ py: 0.6 }}
        onChange={(_event, value) => move(value as number)}
        onChangeCommitted={(_event, value) => settle(value as number)}
      />
    </div>
  );
}
