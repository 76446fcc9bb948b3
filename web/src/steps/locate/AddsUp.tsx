/** One feature at one station in full: the parts as drawn at random, every contributor with its reason, and what would bring it in. */
import { Button } from "@mui/material";

import type { VerdictDetail } from "../../api/types";
import { Curve } from "../../charts/lazy";
import { useEditor } from "../../editing/editor";
import { useUnits } from "../../ui/units";
import { percent } from "../../charts/percent";
import { size } from "../../charts/Stack";
import { Copy } from "../../ui/Copy";
import { Said } from "../../ui/Said";
import { counted } from "../../ui/words";

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

/** How many of the parts drawn at random lie where, with the drawing's limits; what is out of them is red. */
function Histogram({ detail }: { detail: VerdictDetail }) {
  const { withUnit } = useUnits();
  const { edges_mm: edges, counts, limit_mm: limit } = detail;
  const [first, last] = [edges[0] ?? 0, edges.at(-1) ?? 1];
  const limits = first < 0 ? [-limit, limit] : [limit];
  const most = Math.max(1, ...counts);
  const place = (mm: number) => withUnit(mm, "mm", 4);
  return (
    <Curve
      testid="histogram"
      says={`${detail.feature}: parts drawn at random, with the limit at ${withUnit(limit, "mm", 3)}`}
      points={edges.map((edge, k) => [edge, counts[Math.min(k, counts.length - 1)] ?? 0])}
      told={(k) => {
        const at = Math.min(k, counts.length - 1);
        return `${place(edges[at] ?? 0)} to ${place(edges[at + 1] ?? 0)}: ${counted(counts[at] ?? 0, "part")}`;
      }}
      steps
      filled
      over={[first < 0 ? -limit : first - 1, limit]}
      across={{
        from: Math.min(first, ...limits),
        to: Math.max(last, ...limits),
        show: (mm) => withUnit(mm, "mm", 3),
        named: [0, ...limits],
      }}
      up={{ from: 0, to: most, show: (count) => String(Math.round(count)) }}
      lines={limits.map((x) => ({ x, look: "limit" as const }))}
    />
  );
}
