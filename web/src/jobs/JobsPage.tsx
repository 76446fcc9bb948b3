import { Button, CircularProgress, Dialog, DialogActions, DialogContent } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useLocation, useNavigate } from "react-router";

import { call, Problem } from "../api/client";
import { type JobOrder, keepJob, useBringBack, useJobs } from "../api/queries";
import type { JobList, JobState, Me } from "../api/types";
import { Notice, ProblemNotice } from "../ui/Notice";
import { Finding } from "./Finding";
import { JobCards } from "./JobCards";
import { NewJob } from "./NewJob";
import { useTitle } from "../ui/useTitle";
import { dayOf } from "../ui/words";

export function JobsPage({ me }: { me: Me }) {
  useTitle("Jobs");
  const [deleted, setDeleted] = useState(false);
  const [search, find] = useState("");
  const [order, sort] = useState<JobOrder>("changed");
  const jobs = useJobs(deleted, deleted ? "" : search, order);
  const [making, setMaking] = useState(false);
  const mayPlan = me.role === "planner" || me.role === "admin";
  const pages = jobs.data?.pages ?? [];
  const listed = pages.flatMap((page) => page.jobs);
  const last = pages.at(-1);
  return (
    <>
      <header className="bar">
        <h1>{deleted ? "Deleted jobs" : "Jobs"}</h1>
        <span className="push" />
        {!deleted && <Finding search={search} find={find} order={order} sort={sort} />}
        {(deleted || (last?.deleted ?? 0) > 0) && (
          <Button variant="outlined" onClick={() => setDeleted(!deleted)}>
            {deleted ? "Back to the jobs" : `Deleted (${String(last?.deleted ?? 0)})`}
          </Button>
        )}
        {mayPlan && <ReadAgain />}
        {mayPlan && (
          <Button variant="contained" onClick={() => setMaking(true)}>
            New job
          </Button>
        )}
      </header>
      <div className="page" tabIndex={0}>
        {!deleted && <JustDeleted />}
        {jobs.isPending && !jobs.failureReason && <CircularProgress size={22} aria-label="Loading jobs" />}
        {jobs.failureReason instanceof Problem && jobs.failureReason.passing && (
          <Notice title={jobs.failureReason.title}>
            <p>{jobs.failureReason.message}</p>
          </Notice>
        )}
        {jobs.error && <ProblemNotice error={jobs.error} />}
        {last && listed.length === 0 && (
          <Notice
            title={deleted ? "Nothing was deleted" : search ? `No job or machine is called “${search}”` : "No jobs yet"}
            kind="info"
          >
            <p>
              {search && !deleted
                ? "Try fewer letters of it."
                : deleted
                  ? "A deleted job rests here for 30 days."
                  : mayPlan
                    ? "Make the first one: the part’s file, its material and a quantity are enough; the rest is proposed."
                    : "A planner has to make the first one."}
            </p>
          </Notice>
        )}
        {deleted && listed.length > 0 && (
          <p className="quiet">A deleted job rests here for 30 days, as it was; then it is gone.</p>
        )}
        {listed.length > 0 && (deleted ? <DeletedJobs jobs={listed} mayPlan={mayPlan} /> : <JobCards jobs={listed} />)}
        {last && listed.length < last.total && (
          <p className="more">
            <Button variant="outlined" onClick={() => void jobs.fetchNextPage()} disabled={jobs.isFetchingNextPage}>
              Show more
            </Button>
            <span className="quiet">
              <span className="mono">{listed.length}</span> of <span className="mono">{last.total}</span>
            </span>
          </p>
        )}
      </div>
      {making && <NewJob close={() => setMaking(false)} />}
    </>
  );
}

type JobSummary = JobList["jobs"][number];

function DeletedJobs({ jobs, mayPlan }: { jobs: JobSummary[]; mayPlan: boolean }) {
  return (
    <table className="lines jobs">
      <thead>
        <tr>
          <th>Job</th>
          <th className="num">Quantity</th>
          <th>Deleted</th>
          {mayPlan && <td />}
        </tr>
      </thead>
      <tbody>
        {jobs.map((job) => (
          <tr key={job.id}>
            <td className="name">{job.name}</td>
            <td className="num mono">{job.quantity}</td>
            <td>{job.deleted_at && dayOf(job.deleted_at)}</td>
            {mayPlan && (
              <td>
                <BringBack id={job.id} />
              </td>
            )}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** One press and the job stands again, opened. */
function BringBack({ id }: { id: string }) {
  const back = useBringBack();
  const navigate = useNavigate();
  return (
    <Button
      variant="outlined"
      disabled={back.isPending}
      onClick={() => back.mutate(id, { onSuccess: () => void navigate(`/jobs/${id}/layout`) })}
    >
      {back.error ? back.error.message : "Bring back"}
    </Button>
  );
}

/** Said where one lands after deleting a job: a wrong press costs nothing. */
function JustDeleted() {
  const state = useLocation().state as { deleted?: { id: string; name: string } } | null;
  if (!state?.deleted) return null;
  return (
    <Notice
      title={`“${state.deleted.name}” was deleted; it rests for 30 days`}
      kind="info"
      action={<BringBack id={state.deleted.id} />}
    ></Notice>
  );
}

/** Reads an exported job document as a new job. */
function ReadAgain() {
  const input = useRef<HTMLInputElement>(null);
  const cache = useQueryClient();
  const navigate = useNavigate();
  const read = useMutation({
    mutationFn: async (given: { file: File }) => {
      const { file } = given;
      let document: unknown;
      try {
        document = JSON.parse(await file.text());
      } catch {
        throw new Problem(
          422,
          "File not used",
          `${file.name} is not a job document: it is not JSON. Choose a file that was exported here.`,
        );
      }
      return call<JobState>("POST", "/api/jobs/documents", document, given);
    },
    onSuccess: (job) => {
      keepJob(cache, job);
      void navigate(`/jobs/${job.id}/layout`);
    },
  });
  return (
    <>
      {read.error && (
        <Dialog open onClose={() => read.reset()} maxWidth="sm">
          <DialogContent>
            <ProblemNotice error={read.error} />
          </DialogContent>
          <DialogActions>
            <Button onClick={() => read.reset()}>Close</Button>
          </DialogActions>
        </Dialog>
      )}
      <input
        ref={input}
        type="file"
        accept=".json,application/json"
        name="document"
        hidden
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) read.mutate({ file });
          event.target.value = "";
        }}
      />
      <Button variant="outlined" onClick={() => input.current?.click()}>
        Read a job document
      </Button>
    </>
  );
}
