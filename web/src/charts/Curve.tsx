/** One quantity over another as a line, with the limits it is read against: pointed at or walked along by keys it says
 * each value. The package draws axes and says values; limits, windows and where one stands are ours. */
import { ChartsReferenceLine } from "@mui/x-charts/ChartsReferenceLine";
import { useDrawingArea, useXScale, useYScale } from "@mui/x-charts/hooks";
import { LineChart } from "@mui/x-charts/LineChart";

import { useRoom } from "../ui/room";

export interface Axis {
  from: number;
  to: number;
  /** What a place on it is called. */
  show: (value: number) => string;
  /** Only these are named. */
  named?: number[];
  label?: string;
  /** Pixels its names take. */
  wide?: number;
}

export interface CurveProps {
  /** What it shows, read aloud when it is reached. */
  says: string;
  points: readonly (readonly [number, number])[];
  across: Axis;
  up: Axis;
  /** What is said of a point; else its height. */
  told?: (index: number) => string;
  /** Steps: each height up to the next point. */
  steps?: boolean;
  filled?: boolean;
  marked?: (index: number) => boolean;
  /** Where it is over the limit: below the first, above the second. */
  over?: [number, number];
  windows?: { from: number; to: number; state: "within" | "close" | "over" }[];
  lines?: { x?: number; y?: number; label?: string; look: "limit" | "quiet" | "here" }[];
  dot?: { x: number; y: number };
  size?: string;
  testid?: string;
  onPaper?: { width: number; height: number };
}

const LOOK = {
  limit: { stroke: "var(--over)", strokeWidth: 1.6 },
  quiet: { stroke: "var(--steel)", strokeDasharray: "4 3" },
  here: { stroke: "var(--ink)", strokeWidth: 1.4, strokeDasharray: "4 3" },
};

export default function Curve(props: CurveProps) {
  const { says, points, across, up, told, over } = props;
  const { ref, size } = useRoom(props.onPaper);
  const heights = points.map(([, y]) => y);
  return (
    <div
      ref={ref}
      role="group"
      aria-label={says}
      className={`chart ${props.size ?? "grow least-160"}`}
      data-testid={props.testid}
    >
      <LineChart
        width={size.width}
        height={size.height}
        skipAnimation
        hideLegend
        margin={{ left: 2, right: 28, top: 10, bottom: 0 }}
        axisHighlight={{ x: "line" }}
        xAxis={[
          {
            data: points.map(([x]) => x),
            min: across.from,
            max: across.to,
            domainLimit: "strict",
            height: across.label ? 48 : 24,
            label: across.label ?? "",
            valueFormatter: (value: number) => across.show(value),
            ...(across.named ? { tickInterval: across.named } : { tickNumber: 5 }),
            ...(over && {
              colorMap: {
                type: "piecewise",
                thresholds: over,
                colors: ["var(--over)", "var(--mark)", "var(--over)"],
              },
            }),
          },
        ]}
        yAxis={[
          {
            min: up.from,
            max: up.to,
            width: up.wide ?? 44,
            label: up.label ?? "",
            valueFormatter: (value: number) => up.show(value),
            ...(up.named ? { tickInterval: up.named } : { tickNumber: 4 }),
          },
        ]}
        series={[
          {
            data: heights,
            curve: props.steps ? "stepAfter" : "linear",
            area: props.filled ?? false,
            color: "var(--mark)",
            showMark: props.marked ? ({ index }) => props.marked?.(index) ?? false : false,
            valueFormatter: (value, { dataIndex }) => (told ? told(dataIndex) : up.show(value ?? 0)),
          },
        ]}
      >
        {props.windows?.map((window) => (
          <Window key={window.state} {...window} />
        ))}
        {props.lines?.map(({ x, y, label, look }) =>
          x === undefined ? (
            <ChartsReferenceLine
              key={`y${String(y)}`}
              y={y as number}
              label={label ?? ""}
              labelAlign="end"
              lineStyle={LOOK[look]}
              labelStyle={{ fill: LOOK[look].stroke, fontSize: 12 }}
            />
          ) : (
            <ChartsReferenceLine
              key={`x${String(x)}`}
              x={x}
              label={label ?? ""}
              lineStyle={LOOK[look]}
              labelStyle={{ fill: LOOK[look].stroke, fontSize: 12 }}
            />
          ),
        )}
        {props.dot && <Dot {...props.dot} />}
      </LineChart>
    </div>
  );
}

/** From one place to another across, in the colour of a limit's state. */
function Window({ from, to, state }: { from: number; to: number; state: string }) {
  const scale = useXScale<"linear">();
  const { top, height } = useDrawingArea();
  const [left, right] = [scale(from), scale(to)];
  return (
    <rect
      x={left}
      y={top}
      width={Math.max(0, right - left)}
      height={height}
      fill={`var(--${state})`}
      fillOpacity="0.14"
      pointerEvents="none"
    />
  );
}

function Dot({ x, y }: { x: number; y: number }) {
  const across = useXScale<"linear">();
  const up = useYScale<"linear">();
  return <circle cx={across(x)} cy={up(y)} r={4.5} fill="var(--mark)" pointerEvents="none" />;
}
