/** What gives under clamps and cutter, how far, what of it counts in the tolerance; and how the part comes out again. */
import { Ask } from "../../ui/Ask";
import { useUnits } from "../../ui/units";
import type { Hold } from "../../api/hold";

export function Gives({ hold }: { hold: Hold }) {
  const { withUnit, says } = useUnits();
  const gives = hold.gives ?? [];
  const most = Math.max(1e-6, ...gives.map((item) => item.value));
  return (
    <div data-testid="gives" className="scrolls">
      <table className="lines tight">
        <thead>
          <tr>
            <th>What gives</th>
            <th className="num">How far</th>
            <td />
            <th>In the tolerance</th>
          </tr>
        </thead>
        <tbody>
          {gives.map((item) => (
            <tr key={item.id}>
              <td>{item.label}</td>
              <td className="num mono">
                <Ask figure={item}>
                  {item.value > 0 && item.value < 5e-5
                    ? `under ${withUnit(1e-4, "mm", 4)}`
                    : withUnit(item.value, "mm", 4)}
                </Ask>
              </td>
              <td className="wide-120">
                <span
                  aria-hidden
                  className="block"
                  style={{
                    height: 8,
                    width: `${String(Math.max(1, (100 * item.value) / most))}%`,
                    background: item.counted ? "var(--mark)" : "var(--steel)",
                  }}
                />
              </td>
              <td className={item.counted ? "" : "quiet"}>{item.counted ? "counted" : "for you to judge"}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <h2 className="above-14">Taking the part out</h2>
      {(hold.release ?? []).map((line) => (
        <p key={line}>{says(line)}</p>
      ))}
    </div>
  );
}
