/** Values one after another, with the limits of the moving range and what broke a run rule. */
import type { LogSaid } from "../../api/log";
import { Curve } from "../../charts/lazy";
import { Copy } from "../../ui/Copy";
import { clock, useUnits } from "../../ui/units";
import { counted } from "../../ui/words";

type Chart = LogSaid["charts"][number];

export function Control({ chart }: { chart: Chart }) {
  const { withUnit, figure, shownUnit } = useUnits();
  const show = (value: number) => (chart.unit === "s" ? clock(value) : withUnit(value, chart.unit, 3));
  const broken = new Map(chart.signals);
  const said = (k: number) => `${show(chart.values[k] ?? 0)}${broken.has(k) ? `: ${broken.get(k) ?? ""}` : ""}`;
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
        </span>{" "}
        <Copy
          what={chart.what}
          rows={() => [
            ["No.", `${chart.what} (${shownUnit(chart.unit)})`, "Signal"],
            ...chart.values.map((value, k) => [k + 1, figure(value, chart.unit, 4), broken.get(k) ?? ""]),
          ]}
        />
      </figcaption>
      <Curve
        says={`${chart.what}: ${counted(chart.values.length, "value")}, ${counted(chart.signals.length, "signal")}`}
        size="strip-150"
        points={chart.values.map((value, k) => [k + 1, value])}
        told={said}
        marked={(k) => broken.has(k)}
        across={{ from: 1, to: Math.max(2, chart.values.length), show: (place) => String(Math.round(place)) }}
        up={{ ...ends(chart), show, wide: 78 }}
        lines={[
          ...[chart.centre, chart.low, chart.high].map((y) => ({ y, look: "quiet" as const })),
          ...tolerance(chart).map((y) => ({ y, look: "limit" as const })),
        ]}
      />
      {chart.signals.length > 0 && (
        <p className="small">
          {chart.signals.length === 1 ? "One signal: " : `${String(chart.signals.length)} signals, the first: `}
          {chart.signals[0]?.[1]}
        </p>
      )}
    </figure>
  );
}

/** The ends of the drawing's tolerance, about nothing off. */
const tolerance = ({ tolerance_mm: width }: Chart): number[] => (width != null ? [-width / 2, width / 2] : []);

/** From the lowest to the highest of values and lines, all of them in sight. */
function ends(chart: Chart): { from: number; to: number } {
  const all = [chart.low, chart.high, ...chart.values, ...tolerance(chart)];
  const [min, max] = [Math.min(...all), Math.max(...all)];
  const air = (max - min) * 0.06 || 1;
  return { from: min - air, to: max + air };
}
