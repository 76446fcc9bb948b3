/** A job of which only the part is known: what is being found, or why nothing was. */
import { Button, LinearProgress } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { call } from "../api/client";
import { active, keepJob, usePlan } from "../api/queries";
import type { JobState } from "../api/types";
import { Notice, ProblemNotice } from "../ui/Notice";

export function Drafting({ job, mayEdit }: { job: JobState; mayEdit: boolean }) {
  const cache = useQueryClient();
  const again = usePlan(job.id);
  const byHand = useMutation({
    mutationFn: () => call<JobState>("POST", `/api/jobs/${job.id}/route`),
    onSuccess: (found) => keepJob(cache, found),
  });
  const run = job.latest?.run;
  const wait = active(job.latest);
  const title = wait
    ? `Drafting ${job.name}: ${run?.step ?? "waiting for a worker"}`
    : `${job.name} could not be drafted`;
  return (
    <>
      <header className="bar">
        <h1>{job.name}</h1>
        <span className="tag">
          <span className="mono">{job.quantity}</span> wanted
        </span>
      </header>
      <div className="page" tabIndex={0}>
        <Notice
          title={title}
          kind={wait ? "info" : "plain"}
          action={
            !wait &&
            mayEdit && (
              <>
                <Button variant="contained" onClick={() => byHand.mutate()}>
                  Go on by hand
                </Button>
                <Button onClick={() => again.mutate()}>Try again</Button>
              </>
            )
          }
        >
          {wait ? (
            <LinearProgress variant="determinate" value={100 * (run?.share ?? 0)} aria-label="Drafting" />
          ) : (
            <p>{run?.error ?? "It was stopped before anything was found."}</p>
          )}
        </Notice>
        {byHand.error && <ProblemNotice error={byHand.error} />}
      </div>
    </>
  );
}
