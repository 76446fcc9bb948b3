/** The first page: what is pressing, by role; each line one press from its place. */
import { CircularProgress } from "@mui/material";
import { Link } from "react-router";

import { useToday } from "../api/shelf";
import type { Me } from "../api/types";
import { ProblemNotice } from "../ui/Notice";
import { Said } from "../ui/Said";
import { useTitle } from "../ui/useTitle";

const HEADS: Record<string, string> = {
  load: "Load next",
  late: "Late, or close to it",
  plan: "Lacks something",
  outdated: "Out of date",
  log: "The log contradicts",
  shelf: "On the shelf",
};

export function TodayPage({ me }: { me: Me }) {
  useTitle("Today");
  const { data, error, isPending } = useToday();
  const lines = data?.lines ?? [];
  const kinds = Object.keys(HEADS).filter((kind) => lines.some((line) => line.kind === kind));
  return (
    <>
      <header className="bar">
        <h1>Today</h1>
        <span className="quiet">
          {new Date().toLocaleDateString("en-GB", { weekday: "long", day: "numeric", month: "long" })}
        </span>
      </header>
      <div className="page today">
        {isPending && <CircularProgress size={22} aria-label="Looking at the jobs" />}
        {error && <ProblemNotice error={error} />}
        {data && lines.length === 0 && (
          <p>
            Nothing is pressing, {me.name}. <Link to="/jobs">All jobs</Link>
          </p>
        )}
        {kinds.map((kind) => (
          <section key={kind} aria-label={HEADS[kind]}>
            <h2>{HEADS[kind]}</h2>
            <table className="lines">
              <tbody>
                {lines
                  .filter((line) => line.kind === kind)
                  .map((line) => (
                    <tr key={`${line.job_id} ${line.says}`}>
                      <td className="name">
                        <Link to={`/jobs/${line.job_id}/${line.step}`}>{line.title}</Link>
                      </td>
                      <td className={line.urgent ? "strong" : ""}>
                        <Said text={line.says} />
                      </td>
                    </tr>
                  ))}
              </tbody>
            </table>
          </section>
        ))}
      </div>
    </>
  );
}
