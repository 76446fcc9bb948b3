/** What stands in the way of a design, why, and the way to what would work. */
import { Button } from "@mui/material";
import { Link } from "react-router";

import type { Design, PlanResult } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { wayTo } from "../../editing/route";
import { useRouteChange } from "../../api/queries";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Mends } from "./Mends";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

export function Reasons({
  result,
  design,
  pick,
}: {
  result: PlanResult;
  design: Design | null;
  pick: (number: number) => void;
}) {
  const { job, here } = useEditor();
  return (
    <div data-testid="reasons" className="flex down gap-8">
      {design && <Wrong design={design} pick={pick} />}
      {result.reasons
        .filter((reason) => !design || reason.field === here.of("arrangement"))
        .map((reason) => (
          <Notice
            key={reason.field + reason.what}
            title={reason.field.startsWith(here.of("arrangement")) ? capital(reason.what) : `No design: ${reason.what}`}
            kind="over"
            action={
              reason.field.startsWith(here.of("arrangement")) ? undefined : (
                <Link to={wayTo(reason.field, job)}>Go to it</Link>
              )
            }
          >
            {reason.why && (
              <p>
                Why: <Said text={reason.why} />.
              </p>
            )}
            <p>
              Nearest that works: <Said text={reason.nearest} />.
            </p>
          </Notice>
        ))}
      {!design && <Mends />}
    </div>
  );
}

/** Ops that no setup holds: without them nothing comes off complete. */
export function HeldNowhere() {
  const { job, mayEdit } = useEditor();
  const route = useRouteChange(job.id);
  const reasons = job.latest?.run.current ? (job.latest.result?.reasons ?? []) : [];
  if (reasons.length === 0) return null;
  return (
    <p className="held-nowhere" data-testid="held-nowhere">
      {reasons.map((reason) => (
        <span key={reason.field}>
          <Said text={capital(reason.what)} />. <Link to={wayTo(reason.field, job)}>Hold it</Link>{" "}
        </span>
      ))}
      {mayEdit && (
        <Button size="small" variant="outlined" disabled={route.isPending} onClick={() => route.mutate({ to: "rest" })}>
          {route.isPending ? "Trying vises and plates" : "Propose how"}
        </Button>
      )}
      {route.error && <ProblemNotice error={route.error} />}
    </p>
  );
}

/** Stations that stand wrong, to go to. The count above leaves them out. */
function Wrong({ design, pick }: { design: Design; pick: (number: number) => void }) {
  const { says } = useUnits();
  const wrong = design.stations.filter((station) => (station.faults ?? []).length > 0);
  if (wrong.length === 0) return null;
  return (
    <div role="alert" className="wrong-line">
      <b>{wrong.length === 1 ? "One station stands wrong" : `${String(wrong.length)} stations stand wrong`}</b> and{" "}
      {wrong.length === 1 ? "is" : "are"} not counted:
      {wrong.slice(0, 14).map((station) => (
        <button
          key={station.number}
          type="button"
          className="tool"
          onClick={() => pick(station.number)}
          title={says(station.faults?.join("; ") ?? "")}
        >
          {station.number}
        </button>
      ))}
      {wrong.length > 14 && <span>and {wrong.length - 14} more</span>}
    </div>
  );
}
