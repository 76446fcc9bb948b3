/** The jobs as rows: a small picture of each design, what a cycle gives, how every step stands, what it waits for. */
import { Link } from "react-router";

import type { JobList } from "../api/types";
import { StateMark, STEPS } from "../ui/StateMark";
import { LayoutPicture } from "./LayoutPicture";
import { dayOf } from "../ui/words";

type JobSummary = JobList["jobs"][number];

export function JobCards({ jobs }: { jobs: JobSummary[] }) {
  return (
    <table className="lines jobs" data-testid="jobs">
      <thead>
        <tr>
          <td />
          <th>Job</th>
          <th className="num">Parts a cycle</th>
          <th className="num if-wide">Cycles</th>
          <th className="if-wide">Due</th>
          <th>
            <span className="step-marks heads" aria-label="Steps">
              {STEPS.map(({ name, number, label }) => (
                <span key={name} title={label}>
                  {number}
                </span>
              ))}
            </span>
          </th>
          <th>Waits for</th>
        </tr>
      </thead>
      <tbody>
        {jobs.map((job) => (
          <Row key={job.id} job={job} />
        ))}
      </tbody>
    </table>
  );
}

function Row({ job }: { job: JobSummary }) {
  const to = `/jobs/${job.id}/layout`;
  return (
    <tr>
      <td className="small-picture">
        <Link to={to} tabIndex={-1} aria-hidden>
          <LayoutPicture picture={job.picture ?? null} stale={!job.current} />
        </Link>
      </td>
      <td className="name">
        <Link to={to}>{job.name}</Link>
        <div className="quiet small plain-weight">
          <span className="mono">{job.quantity}</span> on {job.machine}
        </div>
      </td>
      <td className="num mono count">{job.parts_per_cycle ?? <span className="quiet">–</span>}</td>
      <td className="num mono if-wide">{job.cycles ?? "–"}</td>
      <td className="one-line if-wide">{job.due ? dayOf(job.due) : <span className="quiet">none</span>}</td>
      <td>
        <Steps job={job} />
      </td>
      <td className="waits-for" title={job.waits_for}>
        <span>{job.planning ? "being planned" : job.waits_for || "nothing: it can run"}</span>
      </td>
    </tr>
  );
}

/** Each step's mark leads to it. */
function Steps({ job }: { job: JobSummary }) {
  return (
    <span className="step-marks">
      {job.states.map((state) => (
        <Link key={state.step} to={`/jobs/${job.id}/${state.step}`} title={labelOf(state.step)}>
          <StateMark {...state} why={`${labelOf(state.step)}, ${state.why}`} />
        </Link>
      ))}
    </span>
  );
}

const labelOf = (step: string): string => STEPS.find(({ name }) => name === step)?.label ?? step;
