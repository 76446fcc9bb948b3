/** What the stand-in for a control found, worst first; each leads to its line and station. */
import type { Finding, Tried } from "../../api/types";
import { StateMark } from "../../editing/route";
import { Said } from "../../ui/Said";
import { capital, clock } from "../../ui/units";

export function Trial({ tried, go }: { tried: Tried; go: (finding: Finding) => void }) {
  const wrong = tried.findings.filter((item) => item.stands === false).length;
  return (
    <section aria-label="Tried on the stand-in" className="trial">
      <h2>
        Tried on the stand-in <span className="mono">{clock(tried.seconds)}</span> min,{" "}
        {wrong === 0 ? "nothing wrong in what was looked at" : `${String(wrong)} wrong`}
      </h2>
      <table className="lines tight" data-testid="findings">
        <tbody>
          {tried.findings.map((item, place) => (
            <tr key={place} className={item.line || item.part ? "row-link" : ""} onClick={() => go(item)}>
              <td>
                <StateMark
                  step="program"
                  state={item.stands === null ? "not checked" : item.stands ? "within" : "over"}
                  why={item.says}
                  fields={[]}
                />
              </td>
              <td>{capital(item.check)}</td>
              <td className={item.stands === false ? "over-text" : "quiet"}>
                <Said text={item.says} />
              </td>
              <td className="num mono">
                {item.line ? (
                  <button type="button" className="link">
                    line {item.line}
                  </button>
                ) : null}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="quiet smaller">
        A stand-in is no control: the machine builder&apos;s own, and a first article in single block, come before
        trust.
      </p>
    </section>
  );
}
