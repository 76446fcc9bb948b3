/** One feature at one station in full: the parts as drawn at random, every contributor with its reason, and what would bring it in. */
import { Button } from "@mui/material";

import type { VerdictDetail } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { useScale } from "../../drawing/drawing";
import { useUnits } from "../../ui/units";
import { percent } from "../../charts/percent";
import { size } from "../../charts/Stack";
import { Copy } from "../../ui/Copy";
import { Said } from "../../ui/Said";
import { pen } from "../../ui/pen";

export function AddsUp({ detail }: { detail: VerdictDetail }) {
  const { figure, shownUnit, withUnit, says } = useUnits();
  const along = detail.adds.some((add) => add.y_mm === null);
  return (
    <div className="beside grid gap-20 grow may-shrink halves">
      <div className="flex down may-shrink">
        <h2>
          Parts drawn at random{" "}
          <Copy
            what="the histogram"
            rows={() => [
              [`From (${shownUnit("mm")})`, `To (${shownUnit("mm")})`, "Parts"],
              ...detail.counts.map((count, index) => [
                figure(detail.edges_mm[index] ?? 0, "mm", 5),
                figure(detail.edges_mm[index + 1] ?? 0, "mm", 5),
                count,
              ]),
            ]}
          />
        </h2>
        <Histogram detail={detail} />
        <h2 className="above-8">
          {detail.state === "over" ? "What would bring it in" : "What would give it more room"}
        </h2>
        <Remedies detail={detail} />
      </div>
      <div className="scroll" tabIndex={0}>
        <h2 className="first-up">{says(`${detail.what}, ${detail.said}`)}</h2>
        <table className="lines tight">
          <thead>
            <tr>
              <th>Contributor</th>
              <th className="num">{along ? "± along" : "± X, ± Y"}</th>
              <th>Spread</th>
            </tr>
          </thead>
          <tbody>
            {detail.adds.map((add, index) => (
              <tr key={add.name}>
                <td>
                  <i className={`swatch shade-${String(index % 4)}`} />
                  {says(add.name)}
                  <div className="quiet smaller">
                    {says(add.why.slice(0, 3).join("; "))}
                    {add.why.length > 3 ? `; and ${String(add.why.length - 3)} more` : ""}
                  </div>
                </td>
                <td className="num mono one-line from-top">
                  {add.y_mm === null
                    ? figure(add.x_mm, "mm", 4)
                    : `${figure(add.x_mm, "mm", 4)} ${figure(add.y_mm ?? 0, "mm", 4)}`}
                </td>
                <td className="from-top">{add.spread}</td>
              </tr>
            ))}
            {detail.adds.length === 0 && (
              <tr>
                <td colSpan={3}>Nothing moves it.</td>
              </tr>
            )}
          </tbody>
        </table>
        <p className="quiet smaller above-6">
          Largest first:{" "}
          {detail.adds[0]
            ? `${says(detail.adds[0].name)} moves it by up to ${withUnit(size(detail.adds[0]), "mm", 4)}`
            : "none"}
          . Normal ranges are three standard deviations, uniform ones their ends.
        </p>
      </div>
    </div>
  );
}

function Remedies({ detail }: { detail: VerdictDetail }) {
  const { change, mayEdit } = useEditor();
  if (detail.remedies.length === 0) return <p className="quiet">No single change would make a difference.</p>;
  const value = (text: string | number | null) => (text === "true" ? true : text);
  return (
    <div className="scroll grow">
      <table className="lines tight" data-testid="brings-in">
        <tbody>
          {detail.remedies.map((item) => (
            <tr key={item.what}>
              <td>
                <Said text={item.what} />
              </td>
              <td className={`num mono one-line ${item.brings_in ? "stands" : "stands-not"}`}>
                {percent(item.share)} %
              </td>
              <td className="num wide-70">
                {item.field !== "" && item.value !== null && (
                  <Button
                    size="small"
                    disabled={!mayEdit}
                    onClick={() => change(item.field, value(item.value))}
                    aria-label={`Set: ${item.what}`}
                  >
                    Set it
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}

const WIDE = 420;
const HIGH = 150;

function Histogram({ detail }: { detail: VerdictDetail }) {
  const { withUnit } = useUnits();
  const { ref, px, viewBox } = useScale(WIDE, HIGH + 20, 10);
  const edges = detail.edges_mm;
  const first = edges[0] ?? 0;
  const last = edges.at(-1) ?? 1;
  const most = Math.max(1, ...detail.counts);
  const x = (value: number) => (WIDE * (value - first)) / (last - first);
  const limits = first < 0 ? [-detail.limit_mm, detail.limit_mm] : [detail.limit_mm];
  return (
    <div ref={ref} className="drawing low least-160">
      <svg
        viewBox={viewBox}
        role="img"
        data-testid="histogram"
        aria-label={`Histogram of ${detail.feature} with its limit at ${withUnit(detail.limit_mm, "mm", 3)}`}
      >
        {detail.counts.map((count, index) => {
          const [from = 0, to = 0] = [edges[index], edges[index + 1]];
          const out =
            Math.max(Math.abs(from), Math.abs(to)) > detail.limit_mm * 1.0001 &&
            Math.min(Math.abs(from), Math.abs(to)) >= detail.limit_mm * 0.98;
          const high = (HIGH * count) / most;
          return (
            <rect
              key={index}
              x={x(from)}
              y={HIGH - high}
              width={Math.max(0, x(to) - x(from) - px)}
              height={high}
              fill={out ? "var(--over)" : "var(--mark)"}
              fillOpacity={0.8}
            >
              <title>{`${withUnit(from, "mm", 4)} to ${withUnit(to, "mm", 4)}: ${String(count)} parts`}</title>
            </rect>
          );
        })}
        <path d={pen`M0 ${HIGH}H${WIDE}`} stroke="var(--ink)" strokeWidth={1.3 * px} />
        {limits.map((limit) => (
          <g key={limit}>
            <path d={pen`M${x(limit)} 0V${HIGH}`} stroke="var(--over)" strokeWidth={1.8 * px} />
            <text
              x={x(limit)}
              y={HIGH + 15 * px}
              fontSize={12.5 * px}
              textAnchor="middle"
              fill="var(--over)"
              fontFamily="IBM Plex Mono"
            >
              {withUnit(limit, "mm", 3)}
            </text>
          </g>
        ))}
        <text
          x={x(0)}
          y={HIGH + 15 * px}
          fontSize={12.5 * px}
          textAnchor={first < 0 ? "middle" : "start"}
          fill="var(--quiet)"
        >
          0
        </text>
      </svg>
    </div>
  );
}
