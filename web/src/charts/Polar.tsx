/** The lowest factor for each direction the cut can push in, with the ring that is needed. */
import { useDrawingArea, useFocusedItem } from "@mui/x-charts/hooks";
import { RadarChart } from "@mui/x-charts/RadarChart";

import type { Hold } from "../api/hold";
import { useRoom } from "../ui/room";

export default function Polar({ hold }: { hold: Hold }) {
  const { ref, size } = useRoom({ width: 330, height: 330 });
  const { needed } = hold;
  const highest = Math.max(needed * 1.4, ...hold.by_direction.map((item) => Math.min(item.factor, needed * 4)));
  const step = highest <= 5 ? 1 : 2; // whole factors, as they are read
  const rings = Math.ceil(highest / step);
  const most = rings * step;
  const worst = hold.by_direction.reduce(
    (low, item) => (item.factor < low.factor ? item : low),
    hold.by_direction[0] ?? { angle_deg: 0, factor: 0 },
  );
  // The package goes round clockwise from the top; a machinist counterclockwise from X+.
  const round = [...hold.by_direction].sort((a, b) => b.angle_deg - a.angle_deg);
  const first = round[0]?.angle_deg ?? 0;
  return (
    <div
      ref={ref}
      role="group"
      aria-label={`Factor by direction of cut; lowest ${worst.factor.toFixed(2)} at ${worst.angle_deg.toFixed(0)}°`}
      className="chart grow least-180"
      data-testid="polar"
    >
      <RadarChart
        width={size.width}
        height={size.height}
        hideLegend
        skipAnimation
        margin={{ left: 22, right: 22, top: 18, bottom: 18 }}
        shape="circular"
        divisions={rings}
        stripeColor={null}
        highlight="axis"
        radar={{
          max: most,
          startAngle: 90 - first,
          metrics: round.map((item) => `${item.angle_deg.toFixed(1).replace(".0", "")}°`),
          labelFormatter: (name, { location }) => (location === "tick" ? (ENDS[name] ?? "") : `Pushing ${name}`),
        }}
        series={[
          {
            data: round.map((item) => Math.min(item.factor, most)),
            color: "var(--mark)",
            fillArea: true,
            hideMark: true,
            valueFormatter: (_value, { dataIndex }) => `factor ${(round[dataIndex]?.factor ?? 0).toFixed(2)}`,
          },
        ]}
      >
        <Rings most={most} rings={rings} needed={needed} worst={worst} />
        <Reached round={round} />
      </RadarChart>
    </div>
  );
}

const ENDS: Record<string, string> = { "0°": "X+", "90°": "Y+" };

/** What each ring is worth, the factor needed, and where it is lowest: red only where that is under what is needed. */
function Rings({
  most,
  rings,
  needed,
  worst,
}: {
  most: number;
  rings: number;
  needed: number;
  worst: { angle_deg: number; factor: number };
}) {
  const { left, top, width, height } = useDrawingArea();
  const [x, y] = [left + width / 2, top + height / 2];
  const radius = Math.min(width, height) / 2;
  const far = (factor: number) => (radius * Math.min(factor, most)) / most;
  const turn = (worst.angle_deg * Math.PI) / 180;
  return (
    <g pointerEvents="none">
      {Array.from({ length: rings - 1 }, (_, k) => ((k + 1) * most) / rings).map((value) => (
        <text key={value} x={x + 3} y={y - far(value) - 2} className="mono" fontSize={12} fill="var(--quiet)">
          {value.toFixed(1).replace(".0", "")}
        </text>
      ))}
      <circle cx={x} cy={y} r={far(needed)} fill="none" stroke="var(--over)" strokeWidth={1.6} />
      <circle
        cx={x + far(worst.factor) * Math.cos(turn)}
        cy={y - far(worst.factor) * Math.sin(turn)}
        r={5}
        fill={worst.factor < needed ? "var(--over)" : "var(--ink)"}
      />
    </g>
  );
}

/** Walked along by keys: the direction one stands on, in words; the pointer has the package's own. */
function Reached({ round }: { round: Hold["by_direction"] }) {
  const { left, top, height } = useDrawingArea();
  const item = round[useFocusedItem()?.dataIndex ?? -1];
  return item ? (
    <text x={left - 20} y={top + height + 14} fontSize={12} fill="var(--ink)">
      {`${item.angle_deg.toFixed(1).replace(".0", "")}°: factor ${item.factor.toFixed(2)}`}
    </text>
  ) : null;
}
