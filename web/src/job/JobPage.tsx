import { CircularProgress } from "@mui/material";
import { useEffect, useMemo, useState } from "react";
import { NavLink, useParams, useSearchParams } from "react-router";

import { Problem } from "../api/client";
import { useJob, usePiecesLater, usePlan, useProgramTried } from "../api/queries";
import type { JobState, Me } from "../api/types";
import { CutsStep } from "../steps/cuts/CutsStep";
import { LayoutStep } from "../steps/layout/LayoutStep";
import { PartStep } from "../steps/part/PartStep";
import { Notice, ProblemNotice } from "../ui/Notice";
import { NamesContext, namesIn } from "../ui/units";
import { EditorProvider, SendingProvider, useJobEditor } from "../editing/editor";
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
import { Drafting } from "./Drafting";
import { Keys } from "./Keys";
import { CameSecond } from "./Others";
import { SetupBar } from "./SetupBar";
import { Top } from "./Top";

import { stateOf, useAskedField } from "../editing/route";
import { StateMark, STEPS, type StepName } from "../ui/StateMark";

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
    <div className="page" tabIndex={0}>
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
  const { editor, sending } = useJobEditor(job, mayEdit, Number(where.get("setup") ?? "1") || 1);
  const plan = usePlan(job.id);
  const [listing, setListing] = useState(false);
  const { undo, redo } = sending;
  const planNow = plan.mutate;
  usePiecesLater(job, mayEdit);
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
        <SendingProvider value={sending}>
          <ProposedProvider value={proposals}>
            <Top keys={() => setListing(true)} />
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
            <Keys open={listing} close={() => setListing(false)} />
          </ProposedProvider>
        </SendingProvider>
      </EditorProvider>
    </NamesContext>
  );
}
