import { Button } from "@mui/material";

import { active, useCancel, usePlan } from "../api/queries";
import { Notice } from "../ui/Notice";
import { useEditor } from "./editor";

/** Says, wherever results are shown, that they are missing, on their way, failed or out of date, and offers the way on. */
export function NotCurrent() {
  const { job, mayEdit } = useEditor();
  const plan = usePlan(job.id);
  const cancel = useCancel(job.id);
  const latest = job.latest;
  const button = mayEdit ? (
    <Button variant="contained" onClick={() => plan.mutate()} disabled={plan.isPending}>
      Plan
    </Button>
  ) : undefined;
  if (latest && active(latest))
    return (
      <Notice
        title={`Planning: ${latest.run.step}`}
        kind="info"
        action={mayEdit ? <Button onClick={() => cancel.mutate(latest.run.id)}>Cancel</Button> : undefined}
      >
        {latest.run.note && <p>{latest.run.note}</p>}
        <p className="quiet">It goes on if you leave this page.</p>
      </Notice>
    );
  if (!latest)
    return (
      <Notice title="Not planned yet" kind="info" action={button}>
        <p>Planning works out the load, the hold, the tolerance and the layout.</p>
      </Notice>
    );
  if (latest.run.status === "failed")
    return (
      <Notice title="Planning failed" action={button}>
        <p>{latest.run.error}</p>
      </Notice>
    );
  if (!latest.run.current)
    return (
      <Notice title="Changed since it was planned" action={button}>
        <p>What is shown answers the job as it was.</p>
      </Notice>
    );
  if (latest.run.note) return <Notice title={latest.run.note} kind="info"></Notice>;
  return null;
}
