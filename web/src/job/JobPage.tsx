import { Button, CircularProgress, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useState } from "react";
import { NavLink, useNavigate, useParams, useSearchParams } from "react-router";

import { call, Problem } from "../api/client";
import { active, useJob, usePlan, useProgramTried } from "../api/queries";
import type { JobState, Me } from "../api/types";
import { CutsStep } from "../steps/cuts/CutsStep";
import { LayoutStep } from "../steps/layout/LayoutStep";
import { PartStep } from "../steps/part/PartStep";
import { Notice, ProblemNotice } from "../ui/Notice";
import { NamesContext, namesIn } from "../ui/units";
import { EditorProvider, useEditor, useJobEditor } from "../editing/editor";
import type { Here } from "../editing/here";
import { Caught } from "../ui/Failed";
import { useTitle } from "../ui/useTitle";
import { ProposedProvider, proposalsOf } from "../ui/proposed";
import { HoldStep } from "../steps/hold/HoldStep";
import { LocateStep } from "../steps/locate/LocateStep";
import { MakeStep } from "../steps/make/MakeStep";
import { ProgramStep } from "../steps/program/ProgramStep";
import { MethodStep } from "../steps/method/MethodStep";
import { LogStep } from "../steps/log/LogStep";
import { RunStep } from "../steps/run/RunStep";
import { SheetStep } from "../steps/sheet/SheetStep";
import { Assumed } from "./Assumed";
import { Drafting } from "./Drafting";
import { CameSecond, useOthers } from "./Others";
import { SetupBar } from "./SetupBar";

import { StateMark, STEPS, stateOf, useAskedField, type StepName } from "../editing/route";

const VIEWS: Record<StepName, () => React.JSX.Element | null> = {
  part: PartStep, cuts: CutsStep, method: MethodStep, layout: LayoutStep, hold: HoldStep, locate: LocateStep, make: MakeStep,
  program: ProgramStep, run: RunStep, sheet: SheetStep, log: LogStep,
}; // prettier-ignore

/** The state of a step; of the program as it was tried, where it was. */
function Mark({ step, job, here }: { step: StepName; job: JobState; here: Here }) {
  const tried = useProgramTried(job, here.number);
  return <StateMark {...(step === "program" && tried ? tried : stateOf(step, here))} />;
}

export function JobPage({ me }: { me: Me }) {
  const { id = "" } = useParams();
  const job = useJob(id);
  const mayEdit = me.role === "planner" || me.role === "admin";
  if (job.data)
    return (
      <>
        {job.failureReason && <ProblemNotice error={job.failureReason} />}
        {job.data.document.route ? (
          <Opened key={id} job={job.data} mayEdit={mayEdit} />
        ) : (
          <Drafting job={job.data} mayEdit={mayEdit} />
        )}
      </>
    );
  return (
    <div className="page">
      {job.error ? (
        <ProblemNotice error={job.error} />
      ) : job.failureReason instanceof Problem ? (
        <Notice title={job.failureReason.title}>
          <p>{job.failureReason.message}</p>
        </Notice>
      ) : (
        <CircularProgress size={22} aria-label="Loading the job" />
      )}
    </div>
  );
}

function Opened({ job, mayEdit }: { job: JobState; mayEdit: boolean }) {
  const { step = "layout" } = useParams();
  const [where] = useSearchParams();
  const editor = useJobEditor(job, mayEdit, Number(where.get("setup") ?? "1") || 1);
  const plan = usePlan(job.id);
  const [listing, setListing] = useState(false);
  const { undo, redo } = editor;
  const planNow = plan.mutate;
  useAskedField(step);
  useTitle(`${STEPS.find(({ name }) => name === step)?.label ?? "Layout"}: ${job.document.job.name}`);

  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      const control = event.ctrlKey || event.metaKey;
      const key = event.key.toLowerCase();
      if (control && (key === "z" || key === "y") && !typing) {
        event.preventDefault();
        (event.shiftKey || key === "y" ? redo : undo)?.();
      } else if (control && event.key === "Enter" && mayEdit) {
        event.preventDefault();
        if (event.target instanceof HTMLElement) event.target.blur();
        planNow();
      } else if (event.key === "?" && !typing) setListing(true);
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [undo, redo, mayEdit, planNow]);

  const View = VIEWS[step as StepName] ?? LayoutStep;
  const names = useMemo(() => namesIn(job.document), [job.document]);
  const proposals = useMemo(() => proposalsOf(job.document.proposals ?? []), [job.document]);
  return (
    <NamesContext value={names}>
      <EditorProvider value={editor}>
        <ProposedProvider value={proposals}>
          <Top />
          <CameSecond />
          <nav className="strip" aria-label="Steps of the job">
            {STEPS.map(({ name, number, label }) => (
              <NavLink
                key={name}
                to={`/jobs/${job.id}/${name}${editor.here.number > 1 ? `?setup=${String(editor.here.number)}` : ""}`}
              >
                <span className="mono">{number}</span>
                {label}
                <Mark step={name} job={job} here={editor.here} />
              </NavLink>
            ))}
          </nav>
          <SetupBar />
          {plan.error && <ProblemNotice error={plan.error} />}
          <Caught of={`${step} ${String(editor.here.number)} ${String(job.version)}`}>
            <View key={editor.here.number} />
          </Caught>
          <Shortcuts open={listing} close={() => setListing(false)} />
        </ProposedProvider>
      </EditorProvider>
    </NamesContext>
  );
}

function Top() {
  const { job, here, undo, redo, mayEdit, saving, trouble, stuck } = useEditor();
  const navigate = useNavigate();
  const cache = useQueryClient();
  const others = useOthers(job);
  const [asking, setAsking] = useState(false);
  const remove = useMutation({
    mutationFn: () => call<undefined>("DELETE", `/api/jobs/${job.id}`),
    onSuccess: () => {
      cache.removeQueries({ queryKey: ["jobs"] });
      void navigate("/jobs", { state: { deleted: { id: job.id, name: job.name } } });
    },
  });
  return (
    <header className="bar">
      <h1>{job.name}</h1>
      <span className="tag">
        <span className="mono">{job.quantity}</span> wanted
      </span>
      {others.length > 0 && (
        <span className="tag edge-close" data-testid="others">
          also here: {others.join(", ")}
        </span>
      )}
      {job.due && (
        <span className="tag">
          due {new Date(job.due).toLocaleDateString("en-GB", { day: "numeric", month: "short" })}
        </span>
      )}
      <span className="tag">{here.setup.machine.name}</span>
      <Assumed job={job} />
      <span className="push print-only">
        version {job.version}, printed{" "}
        {new Date().toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" })}
      </span>
      <span className="push quiet no-print" role="status" data-testid="saved">
        {trouble
          ? `Not saved yet: ${trouble.message}`
          : stuck
            ? stuck
            : saving
              ? "Saving"
              : `Saved${job.updated_by ? ` by ${job.updated_by}` : ""}`}
      </span>
      {mayEdit && (
        <>
          <Button variant="outlined" disabled={!undo} onClick={() => undo?.()} title="Ctrl+Z">
            Undo
          </Button>
          <Button variant="outlined" disabled={!redo} onClick={() => redo?.()} title="Ctrl+Y">
            Redo
          </Button>
        </>
      )}
      <Button variant="outlined" component="a" href={`/api/jobs/${job.id}/document`} download>
        Export
      </Button>
      {mayEdit && (
        <Button variant="outlined" color="error" onClick={() => setAsking(true)}>
          Delete
        </Button>
      )}
      <Dialog open={asking} onClose={() => setAsking(false)}>
        <DialogTitle>Delete “{job.name}”?</DialogTitle>
        <DialogContent>
          It rests for 30 days in the list of deleted jobs, designs and all, and can be brought back until then.
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setAsking(false)}>Keep it</Button>
          <Button
            color="error"
            variant="contained"
            onClick={() => remove.mutate()}
            disabled={active(job.latest) && remove.isPending}
          >
            Delete
          </Button>
        </DialogActions>
      </Dialog>
    </header>
  );
}

function Shortcuts({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close}>
      <DialogTitle>Keys</DialogTitle>
      <DialogContent>
        <table className="lines">
          <tbody>
            {[
              ["Ctrl+Enter", "plan"],
              ["Ctrl+Z, Ctrl+Y", "undo, redo (Ctrl+Shift+Z too), also what was done before the page was loaded"],
              ["Esc", "leave a field as it was, let go of a station"],
              ["arrow keys", "from station to station, with the plate in focus"],
              ["Shift+arrow keys", "nudge the stations picked by the step; with Ctrl too by a tenth of it"],
              ["T, F", "turn by 90°, flip by 180°, about the part's middle"],
              ["L, Del", "lock, remove"],
              ["A, D", "add a station at the first place that is free, put one beside"],
              ["Alt while dragging", "come to rest on nothing"],
              ["+, -, 0", "nearer, farther, the whole plate; the wheel does it too"],
              ["M", "measure"],
              ["N", "to the next face"],
              ["V", "3-D and back"],
              ["?", "this list"],
            ].map(([key, does]) => (
              <tr key={key}>
                <td className="mono">{key}</td>
                <td>{does}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
