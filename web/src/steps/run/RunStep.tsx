/** Step 9: how many a day, what the spindle waits for, when it stops at night, what a minute is worth, and the money. */
import { useRun, useWorth } from "../../api/queries";
import type { RunResult } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { Days } from "./Days";
import { MoneyPage } from "./MoneyPage";
import { RunFields } from "./RunFields";
import { WorthOf } from "./WorthOf";

export function RunStep() {
  const { job } = useEditor();
  const run = useRun(job);
  const worth = useWorth(job, run.data?.feasible ?? false);
  const { data } = run;
  return (
    <div className="run-page">
      <div className="run-main">
        {!data && run.isFetching && <p className="quiet">Running weeks of it</p>}
        {run.error && <ProblemNotice error={run.error} />}
        {data && !data.feasible && (
          <Notice title="Nothing runs yet">
            <Said text={data.reasons.join("; ")} />
          </Notice>
        )}
        {data?.feasible && (
          <>
            {!(job.latest?.run.current ?? false) && (
              <Notice title="Out of date">The job was changed since it was planned: this is the design before.</Notice>
            )}
            <Head run={data} />
            <WorthOf table={worth.data} error={worth.error} counted={data.counted} />
            <Days stages={data.stages} limits={data.limits} />
            {data.money && <MoneyPage money={data.money} run={data} />}
          </>
        )}
      </div>
      <aside className="side" tabIndex={0} aria-label="What it is run with">
        <RunFields />
      </aside>
    </div>
  );
}

const weekday = (days: number) => (days < 10 ? `${days.toFixed(1)} days` : `${(days / 7).toFixed(1)} weeks`);

function Head({ run }: { run: RunResult }) {
  if (!run.a_day || !run.done_days) return null;
  const limiting = run.stages.find((stage) => stage.number === run.limits) ?? run.stages[0];
  return (
    <>
      <div className="headline" data-testid="run-head">
        <div>
          <div className="big mono">
            <Ask figure={run.figures[0]}>{Math.floor(run.a_day.mean)}</Ask>
          </div>
          <div className="label">
            {run.counted} a working day, {Math.floor(run.a_day.low)} to {Math.ceil(run.a_day.high)}
          </div>
        </div>
        <div>
          <div className="mid mono">{weekday(run.done_days.mean)}</div>
          <div className="label">until {run.quantity} are done</div>
        </div>
        {limiting && (
          <>
            <div>
              <div className="mid mono">{(100 * limiting.spindle.mean).toFixed(0)} %</div>
              <div className="label">of the day the spindle cuts{run.limits ? `, ${limiting.name}` : ""}</div>
            </div>
            <div>
              <div className="mid mono">{limiting.alone_hours.mean.toFixed(1)} h</div>
              <div className="label">on by itself in the evening</div>
            </div>
          </>
        )}
      </div>
      {[run.says.slice(0, 2).join(" "), ...run.says.slice(2)].map((sentence) => (
        <p key={sentence} className="said">
          <Said text={sentence} />
        </p>
      ))}
      {run.cautions.map((caution) => (
        <p key={caution} className="quiet small">
          <Said text={caution} />
        </p>
      ))}
    </>
  );
}
