/** One bar for each of a few things, with the range of its true value where that is known: pointed at or walked along
 * by keys each says itself. */
import { BarChart } from "@mui/x-charts/BarChart";
import { useXScale, useYScale } from "@mui/x-charts/hooks";

import { useRoom } from "../ui/room";

export interface Bar {
  name: string;
  value: number;
  low: number;
  high: number;
  /** It is the one to look at. */
  stands?: boolean;
}

export interface BarsProps {
  says: string;
  /** What one of them is, as "Station". */
  each: string;
  bars: readonly Bar[];
  told: (index: number) => string;
  show: (value: number) => string;
  wide?: number;
}

export default function Bars({ says, each, bars, told, show, wide }: BarsProps) {
  const { ref, size } = useRoom();
  const named = bars.length <= 40 ? undefined : bars.filter((bar) => bar.stands).map((bar) => bar.name);
  return (
    <div ref={ref} role="group" aria-label={says} className="chart strip-120">
      <BarChart
        width={size.width}
        height={size.height}
        skipAnimation
        hideLegend
        margin={{ left: 2, right: 4, top: 8, bottom: 0 }}
        xAxis={[
          {
            data: bars.map((bar) => bar.name),
            height: 24,
            categoryGapRatio: 0.4,
            valueFormatter: (name: string, { location }: { location: string }) =>
              location === "tick" ? name : `${each} ${name}`,
            ...(named ? { tickInterval: named, tickLabelInterval: () => true } : {}),
            colorMap: {
              type: "ordinal",
              values: bars.map((bar) => bar.name),
              colors: bars.map((bar) => (bar.stands === false ? "var(--steel)" : "var(--mark)")),
            },
          },
        ]}
        yAxis={[
          {
            min: 0,
            max: Math.max(1e-9, ...bars.map((bar) => bar.high)),
            domainLimit: "strict",
            width: wide ?? 44,
            tickNumber: 3,
            valueFormatter: (value: number) => show(value),
          },
        ]}
        series={[{ data: bars.map((bar) => bar.value), valueFormatter: (_value, { dataIndex }) => told(dataIndex) }]}
      >
        <Ranges bars={bars} />
      </BarChart>
    </div>
  );
}

/** Where each true value lies: a line over its bar, with feet. */
function Ranges({ bars }: { bars: readonly Bar[] }) {
  const across = useXScale<"band">();
  const up = useYScale<"linear">();
  const foot = Math.min(5, across.bandwidth() / 4);
  return (
    <g stroke="var(--ink)" strokeWidth={1.4} pointerEvents="none">
      {bars.map((bar) => {
        const middle = (across(bar.name) ?? 0) + across.bandwidth() / 2;
        const ends = [up(bar.low), up(bar.high)];
        return (
          <g key={bar.name}>
            <line x1={middle} x2={middle} y1={ends[0]} y2={ends[1]} />
            {ends.map((y, end) => (
              <line key={end} x1={middle - foot} x2={middle + foot} y1={y} y2={y} />
            ))}
          </g>
        );
      })}
    </g>
  );
}
