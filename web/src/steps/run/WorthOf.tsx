/** What a minute is worth: parts a day that each change would buy, most first. */
import type { WorthTable } from "../../api/types";
import { ProblemNotice } from "../../ui/Notice";

export function WorthOf({
  table,
  error,
  counted,
}: {
  table: WorthTable | undefined;
  error: Error | null;
  counted: string;
}) {
  const most = Math.max(1e-9, ...(table?.rows ?? []).map((row) => row.gains));
  return (
    <section aria-label="What a minute is worth">
      <h2>What a minute is worth</h2>
      {error ? <ProblemNotice error={error} /> : null}
      {!table && !error && <p className="quiet">Trying each change</p>}
      {table && (
        <table className="lines worth" data-testid="worth">
          <thead>
            <tr>
              <th>Change</th>
              <th className="num">more {counted} a day</th>
              <td className="third" />
              <td />
            </tr>
          </thead>
          <tbody>
            {table.rows.map((row) => (
              <tr key={row.what}>
                <td>{row.what}</td>
                <td className="num mono">{row.why ? "nothing" : row.gains.toFixed(1)}</td>
                <td>
                  <svg className="worth-bar" viewBox="0 0 100 6" preserveAspectRatio="none" aria-hidden="true">
                    <rect width={row.why ? 0 : (100 * row.gains) / most} height={6} className="day-cuts" />
                  </svg>
                </td>
                <td className="quiet small">{row.why}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
