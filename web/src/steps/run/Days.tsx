/** What each setup's machine does while people are there: one bar a setup, and what ends an evening by itself. */
import type { RunResult } from "../../api/types";
import { Strip } from "../../charts/Strip";
import { clock } from "../../ui/units";

type StageRun = RunResult["stages"][number];
type Doing = StageRun["doing"][number]["what"];

/** Cutting is blue; what goes on without it is steel; what stands and waits is hatched. */
const LOOK: Record<Doing, string> = {
  cuts: "day-cuts",
  "changes tools, indexes, moves": "day-moves",
  "is loaded": "day-loads",
  "changes pallets": "day-moves",
  "has its fixtures swapped": "day-loads",
  "waits for a person": "day-waits",
  "waits for a loaded fixture": "day-waits",
  "waits for a new edge": "day-wears",
  "stands, something went wrong": "day-wears",
  "would run alone": "day-nobody",
  "stands, nobody there": "day-nobody",
};

const percent = (share: number) => `${(100 * share).toFixed(share < 0.095 ? 1 : 0)} %`;

export function Days({ stages, limits }: { stages: StageRun[]; limits: number | null | undefined }) {
  return (
    <section className="days" aria-label="What the machines do" data-testid="days">
      {stages.map((stage) => (
        <div key={stage.number} className="day">
          <h2>
            Setup {stage.number}, {stage.name}
            <span className="quiet small">
              {" "}
              {stage.machine}; cycle {clock(stage.cycle_s)} by {stage.source}, loading {clock(stage.load_s)},{" "}
              {stage.fixtures === 1 ? "loaded where it stands" : `${String(stage.fixtures)} fixtures go round`}
              {stage.number === limits ? "; it has the fewest" : ""}
            </span>
          </h2>
          <Bar stage={stage} />
          <table className="lines tight">
            <tbody>
              {stage.doing
                .filter((item) => item.share >= 0.001)
                .map((item) => (
                  <tr key={item.what}>
                    <td>
                      <svg className="key" viewBox="0 0 10 10" aria-hidden="true">
                        <rect width="10" height="10" className={LOOK[item.what]} />
                      </svg>{" "}
                      {item.what}
                    </td>
                    <td className="num mono">{percent(item.share)}</td>
                  </tr>
                ))}
            </tbody>
          </table>
          <Evening stage={stage} />
        </div>
      ))}
    </section>
  );
}

function Bar({ stage }: { stage: StageRun }) {
  return (
    <Strip
      look="day-bar"
      says={`What the machine of setup ${String(stage.number)} does`}
      pieces={stage.doing.map((item) => ({
        key: item.what,
        share: item.share,
        says: `${item.what}: ${percent(item.share)}`,
        drawn: (
          <svg viewBox="0 0 1 1" preserveAspectRatio="none" aria-hidden="true">
            <rect width="1" height="1" className={LOOK[item.what]} />
          </svg>
        ),
      }))}
    />
  );
}

function Evening({ stage }: { stage: StageRun }) {
  if (stage.stops_first.length === 0) return null;
  return (
    <>
      <p className="small">
        Alone of an evening <span className="mono">{stage.alone_hours.mean.toFixed(1)} h</span> (
        <span className="mono">
          {stage.alone_hours.low.toFixed(1)} to {stage.alone_hours.high.toFixed(1)}
        </span>
        ), over the weekend <span className="mono">{percent(stage.over_the_weekend)}</span> still cut on Monday.
      </p>
      <table className="lines tight" aria-label="What ends an evening">
        <tbody>
          {stage.stops_first.slice(0, 3).map(([why, often]) => (
            <tr key={why}>
              <td>ends it: {why}</td>
              <td className="num mono">{percent(often)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
