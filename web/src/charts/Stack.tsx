/** What adds up in one feature at one station: one bar of all shares, and each contributor by itself. */
import type { VerdictDetail } from "../api/types";
import { useUnits } from "../ui/units";

const SHADES = ["var(--mark)", "var(--close)", "var(--steel)", "var(--within)", "var(--ink)", "var(--over)"];
export const shade = (index: number) => SHADES[index % SHADES.length] ?? "var(--steel)";

export function size(add: VerdictDetail["adds"][number]): number {
  return Math.hypot(add.x_mm, add.y_mm ?? 0);
}

export function Stack({ detail }: { detail: VerdictDetail }) {
  const { figure, shownUnit, says } = useUnits();
  const largest = Math.max(1e-9, ...detail.adds.map(size));
  return (
    <div data-testid="stack">
      <h2>
        {detail.feature}: {says(`${detail.what}, ${detail.said}`)}
      </h2>
      <div className="flex gap-2 under-10 high-18" role="img" aria-label="Shares of the variance">
        {detail.adds.map((add, index) => (
          <i
            key={add.name}
            title={`${says(add.name)}: ${(100 * add.variance_share).toFixed(0)} % of the variance`}
            style={{
              width: `${String(100 * add.variance_share)}%`,
              background: shade(index),
              opacity: index < 6 ? 1 : 0.55,
            }}
          />
        ))}
      </div>
      <table className="lines tight">
        <thead>
          <tr>
            <th>Contributor, ±</th>
            <th className="num">{shownUnit("mm")}</th>
            <th className="third" />
            <th className="num">Variance</th>
          </tr>
        </thead>
        <tbody>
          {detail.adds.map((add, index) => (
            <tr key={add.name} title={says(add.why.join("; "))}>
              <td>
                <i
                  style={{
                    display: "inline-block",
                    width: 9,
                    height: 9,
                    background: shade(index),
                    opacity: index < 6 ? 1 : 0.55,
                    marginRight: 6,
                  }}
                />
                {says(add.name)}
              </td>
              <td className="num mono">{figure(size(add), "mm", 4)}</td>
              <td>
                <span className="track block bare-track">
                  <i
                    style={{
                      width: `${String((100 * size(add)) / largest)}%`,
                      background: shade(index),
                      opacity: index < 6 ? 1 : 0.55,
                    }}
                  />
                </span>
              </td>
              <td className="num mono">
                {add.spread === "fixed" ? "fixed" : `${(100 * add.variance_share).toFixed(0)} %`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
