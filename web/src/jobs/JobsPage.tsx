import { Button, CircularProgress, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { call, Problem } from "../api/client";
import { keepJob, useJobs } from "../api/queries";
import type { JobState, Me } from "../api/types";
import { Notice, ProblemNotice } from "../ui/Notice";

export function JobsPage({ me }: { me: Me }) {
  const jobs = useJobs();
  const [making, setMaking] = useState(false);
  const mayPlan = me.role === "planner" || me.role === "admin";
  return (
    <>
      <header className="bar">
        <h1>Jobs</h1>
        <span className="push" />
        {mayPlan && <ReadAgain />}
        {mayPlan && (
          <Button variant="contained" onClick={() => setMaking(true)}>
            New job
          </Button>
        )}
      </header>
      <div className="page">
        {jobs.isPending && !jobs.failureReason && <CircularProgress size={22} aria-label="Loading jobs" />}
        {jobs.failureReason instanceof Problem && jobs.failureReason.passing && (
          <Notice title={jobs.failureReason.title}>
            <p>{jobs.failureReason.message}</p>
          </Notice>
        )}
        {jobs.error && <ProblemNotice error={jobs.error} />}
        {jobs.data?.jobs.length === 0 && (
          <Notice title="No jobs yet" kind="info">
            <p>{mayPlan ? "Make the first one: a name and a quantity are enough to begin; the outline comes from a DXF file." : "A planner has to make the first one."}</p>
          </Notice>
        )}
        {jobs.data && jobs.data.jobs.length > 0 && (
          <table className="lines" style={{ maxWidth: 980 }}>
            <thead>
              <tr>
                <th>Job</th>
                <th className="num">Quantity</th>
                <th>Due</th>
                <th>Machine</th>
                <th className="num">Parts a cycle</th>
                <th className="num">Cycles</th>
                <th></th>
              </tr>
            </thead>
            <tbody>
              {jobs.data.jobs.map((job) => (
                <tr key={job.id}>
                  <td>
                    <Link to={`/jobs/${job.id}/layout`} style={{ fontWeight: 600, fontSize: 15 }}>
                      {job.name}
                    </Link>
                  </td>
                  <td className="num mono">{job.quantity}</td>
                  <td>{job.due ? new Date(job.due).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" }) : <span className="quiet">none</span>}</td>
                  <td>{job.machine}</td>
                  <td className="num mono" style={{ fontSize: 17, fontWeight: 500 }}>
                    {job.parts_per_cycle ?? <span className="quiet">–</span>}
                  </td>
                  <td className="num mono">{job.cycles ?? "–"}</td>
                  <td className="quiet">{job.parts_per_cycle === null ? "not planned yet" : job.parts_per_cycle === 0 ? "no design: open it to see why" : job.current ? "" : "changed since planned"}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
      {making && <NewJob close={() => setMaking(false)} />}
    </>
  );
}

function NewJob({ close }: { close: () => void }) {
  const [name, setName] = useState("");
  const [quantity, setQuantity] = useState("100");
  const [due, setDue] = useState("");
  const cache = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: () => call<JobState>("POST", "/api/jobs", { name, quantity: Number.isFinite(Number(quantity)) ? Number(quantity) : quantity, due: due || null }),
    onSuccess: (job) => {
      keepJob(cache, job);
      void navigate(`/jobs/${job.id}/part`);
    },
  });
  const wrong = (field: string) => (make.error instanceof Problem ? make.error.errors.find((item) => item.field === field)?.message : undefined);
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <DialogTitle>New job</DialogTitle>
        <DialogContent style={{ display: "flex", flexDirection: "column", gap: 14, paddingTop: 8 }}>
          <TextField name="name" label="Part or job" value={name} onChange={(event) => setName(event.target.value)} required autoFocus error={Boolean(wrong("name"))} helperText={wrong("name")} />
          <TextField name="quantity" label="Quantity" value={quantity} onChange={(event) => setQuantity(event.target.value)} required error={Boolean(wrong("quantity"))} helperText={wrong("quantity")} />
          <TextField name="due" label="Due" type="date" value={due} onChange={(event) => setDue(event.target.value)} slotProps={{ inputLabel: { shrink: true } }} error={Boolean(wrong("due"))} helperText={wrong("due")} />
          <p className="quiet">It starts with a 60 x 40 mm block and common values; the next screen takes your DXF, SVG or STEP file, or a shape typed in.</p>
          {make.error && <ProblemNotice error={make.error} />}
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={make.isPending}>
            Make job
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

/** Reads an exported plan document as a new job. */
function ReadAgain() {
  const input = useRef<HTMLInputElement>(null);
  const cache = useQueryClient();
  const navigate = useNavigate();
  const read = useMutation({
    mutationFn: async (file: File) => {
      let document: unknown;
      try {
        document = JSON.parse(await file.text());
      } catch {
        throw new Problem(422, "File not used", `${file.name} is not a plan document: it is not JSON. Choose a file that was exported here.`);
      }
      return call<JobState>("POST", "/api/jobs/documents", document);
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
          if (file) read.mutate(file);
          event.target.value = "";
        }}
      />
      <Button variant="outlined" onClick={() => input.current?.click()}>
        Read plan document
      </Button>
    </>
  );
}
