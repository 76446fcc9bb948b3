/** What the stand-in for a control found, worst first; each leads to its line, its station and its place in the dry run. */
import type { Finding, Tried } from "../../api/types";
import { StateMark } from "../../ui/StateMark";
import { Said } from "../../ui/Said";
import { capital, clock } from "../../ui/units";

interface Shown {
  tried: Tried;
  /** Seconds of the cycle at work, as planned. */
  planned: number | null;
  go: (finding: Finding) => void;
}

export function Trial({ tried, planned, go }: Shown) {
  return (
    <section aria-label="Tried on the stand-in" className="trial" tabIndex={0}>
      <h2>
        <Verdict tried={tried} /> <span className="mono">{clock(tried.seconds)}</span> min
        {planned !== null && (
          <span className="quiet">
            {" "}
            at work, planned <span className="mono">{clock(planned)}</span>
          </span>
        )}
      </h2>
      <table className="lines tight" data-testid="findings">
        <tbody>
          {tried.findings.map((item, place) => (
            <tr
              key={place}
              className={item.line || item.part || item.move != null ? "row-link" : ""}
              onClick={() => go(item)}
            >
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
                <Said text={capital(item.says)} />
              </td>
              <td className="num mono">
                {(item.line || item.move != null) && (
                  <button type="button" className="link">
                    {item.line ? `line ${String(item.line)}` : "look"}
                  </button>
                )}
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

function Verdict({ tried }: { tried: Tried }) {
  const wrong = tried.findings.filter((item) => item.stands === false).length;
  const unsaid = tried.findings.filter((item) => item.stands === null).length;
  if (wrong > 0) return <span className="over-text">Not accepted, {wrong} wrong.</span>;
  if ((tried.envelopes ?? []).length > 0) return <>What the cuts sweep, no program yet.</>;
  if (unsaid > 0) return <>Not accepted yet, {unsaid} not looked at.</>;
  return <span className="strong">Accepted by the stand-in.</span>;
}
