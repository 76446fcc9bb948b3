/** Factor over screw torque, with the window in which it holds and does not mark; the slider sets the torque, and
 * shows what it would give. */
import { Slider } from "@mui/material";

import type { Hold } from "../api/hold";
import { useUnits } from "../ui/units";
import { Curve } from "./lazy";

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
  const curve = [{ torque_nm: 0, factor: 0 }, ...(hold.curve ?? [])];
  const most = Math.max(1.6 * hold.needed, ...curve.map((point) => Math.min(point.factor, 3 * hold.needed)));
  const from = hold.least_torque_nm;
  const { marks_from_nm: marking, sinks_from_nm: sinking } = hold;
  const to = marking ?? rated;
  const holds = from ? `Holds from ${withUnit(from, "N·m", 1)}` : "Does not hold with this screw";
  const marks = typeof marking === "number" ? `, marks from ${withUnit(marking, "N·m", 1)}` : "";
  return (
    <div data-testid="torque-window">
      <Curve
        says={`Factor over torque. ${holds}${marks}.`}
        size="strip-140"
        onPaper={{ width: 330, height: 140 }}
        points={curve.map((point) => [point.torque_nm, Math.min(point.factor, most)])}
        told={(k) => `factor ${(curve[k]?.factor ?? 0).toFixed(2)}`}
        across={{ from: 0, to: rated, show: (nm) => (nm === 0 ? "0" : withUnit(nm, "N·m", 0)), named: [0, rated] }}
        up={{ from: 0, to: most, show: (factor) => String(Math.round(100 * factor) / 100), wide: 26 }}
        windows={[
          ...(from && to > from ? [{ from, to, state: "within" as const }] : []),
          ...(typeof marking === "number" ? [{ from: marking, to: rated, state: "close" as const }] : []),
          ...(typeof sinking === "number" ? [{ from: sinking, to: rated, state: "over" as const }] : []),
        ]}
        lines={[{ y: hold.needed, label: `needs ${String(hold.needed)}`, look: "limit" }]}
        dot={{ x: torque, y: Math.min(factorAt(hold, torque), most) }}
      />
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
