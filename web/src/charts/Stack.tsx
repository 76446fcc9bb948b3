/** What adds up in one feature at one station, as a staircase: each contributor goes on from where those above it
 * had got to. Shares add as squares: the steps get shorter. */
import type { VerdictDetail } from "../api/types";
import { Copy } from "../ui/Copy";
import { useUnits } from "../ui/units";

type Add = VerdictDetail["adds"][number];

export const size = (add: Add): number => Math.hypot(add.x_mm, add.y_mm ?? 0);

/** Where each step begins and ends, of the whole, in percent. */
function steps(adds: readonly Add[]): [number, number][] {
  let squares = 0;
  return adds.map(({ variance_share: share }) => {
    const from = Math.sqrt(squares);
    squares += share;
    return [100 * from, 100 * Math.sqrt(squares)];
  });
}

export function Stack({ detail }: { detail: VerdictDetail }) {
  const { figure, shownUnit, says } = useUnits();
  const stairs = steps(detail.adds);
  return (
    <div data-testid="stack">
      <h2>
        {detail.feature}: {says(`${detail.what}, ${detail.said}`)}{" "}
        <Copy
          what="what adds up"
          rows={() => [
            ["What adds up", `± (${shownUnit("mm")})`, "Share of the variance"],
            ...detail.adds.map((add) => [says(add.name), figure(size(add), "mm", 5), add.variance_share.toFixed(4)]),
          ]}
        />
      </h2>
      <table className="lines tight">
        <thead>
          <tr>
            <th>What adds up, ±</th>
            <th className="num">{shownUnit("mm")}</th>
            <th>Together, up to the whole</th>
            <th className="num">Share</th>
          </tr>
        </thead>
        <tbody>
          {detail.adds.map((add, index) => {
            const [from, to] = stairs[index] ?? [0, 0];
            return (
              <tr key={add.name} title={says(add.why.join("; "))}>
                <td>{says(add.name)}</td>
                <td className="num mono">{figure(size(add), "mm", 4)}</td>
                <td className="stairs">
                  {add.spread === "fixed" ? (
                    <span className="quiet">fixed</span>
                  ) : (
                    <i
                      className={`stair shade-${String(index % 4)}`}
                      style={{ left: `${String(from)}%`, width: `${String(to - from)}%` }}
                    />
                  )}
                </td>
                <td className="num mono">
                  {add.spread === "fixed" ? "–" : `${(100 * add.variance_share).toFixed(0)} %`}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
