/** Values one after another, with the limits of the moving range and what broke a run rule. */
import type { LogSaid } from "../../api/log";
import { clock, useUnits } from "../../ui/units";
import { counted } from "../../ui/words";

type Chart = LogSaid["charts"][number];
const WIDE = 440;
const HIGH = 110;

export function Control({ chart }: { chart: Chart }) {
  const { withUnit } = useUnits();
  const show = (value: number) => (chart.unit === "s" ? clock(value) : withUnit(value, chart.unit, 3));
  const ends = [chart.low, chart.high, ...chart.values];
  const half = chart.tolerance_mm != null ? chart.tolerance_mm / 2 : null;
  if (half !== null) ends.push(-half, half);
  const [low, high] = [Math.min(...ends), Math.max(...ends)];
  const y = (value: number) => HIGH - 6 - ((HIGH - 12) * (value - low)) / Math.max(1e-9, high - low);
  const x = (k: number) => 4 + ((WIDE - 8) * k) / Math.max(1, chart.values.length - 1);
  const broken = new Map(chart.signals);
  return (
    <figure className="control">
      <figcaption>
        <b>
          {chart.what}, setup {chart.setup}
          {chart.station != null ? `, station ${String(chart.station)}` : ""}
        </b>{" "}
        <span className="quiet small">
          mean {show(chart.centre)}, limits {show(chart.low)} to {show(chart.high)}, n = {chart.values.length}
          {chart.cpk != null && chart.cpk_low != null && chart.cpk_high != null
            ? `; Cpk ${chart.cpk.toFixed(2)} (${chart.cpk_low.toFixed(2)} to ${chart.cpk_high.toFixed(2)})`
            : ""}
        </span>
      </figcaption>
      <svg
        viewBox={`0 0 ${String(WIDE)} ${String(HIGH)}`}
        role="img"
        aria-label={`${chart.what}: ${counted(chart.values.length, "value")}, ${counted(chart.signals.length, "signal")}`}
      >
        {[chart.low, chart.high].map((value) => (
          <line key={value} x1={0} x2={WIDE} y1={y(value)} y2={y(value)} className="bound" />
        ))}
        {half !== null &&
          [-half, half].map((value) => (
            <line key={value} x1={0} x2={WIDE} y1={y(value)} y2={y(value)} className="tolerance" />
          ))}
        <line x1={0} x2={WIDE} y1={y(chart.centre)} y2={y(chart.centre)} className="centre" />
        <polyline points={chart.values.map((value, k) => `${String(x(k))},${String(y(value))}`).join(" ")} />
        {[...broken].map(([k, why]) => (
          <circle key={k} cx={x(k)} cy={y(chart.values[k] ?? 0)} r={3}>
            <title>{`${show(chart.values[k] ?? 0)}: ${why}`}</title>
          </circle>
        ))}
      </svg>
      {chart.signals.length > 0 && (
        <p className="small">
          {chart.signals.length === 1 ? "One signal: " : `${String(chart.signals.length)} signals, the first: `}
          {chart.signals[0]?.[1]}
        </p>
      )}
    </figure>
  );
}
