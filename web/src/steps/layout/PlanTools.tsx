/** The three values that are changed most, beside the press that plans. */
import { Button } from "@mui/material";

import { usePlan } from "../../api/queries";
import type { Placing } from "../../drawing/placing";
import { useEditor, usePlanned, useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";
import { capital } from "../../ui/units";

export function PlanTools({ placing, busy }: { placing: Placing; busy: boolean }) {
  const { job, here } = useEditor();
  const stored = useStored();
  const plan = usePlan(job.id);
  const { part, judged } = usePlanned();
  const first = here.shown.held[0];
  const at = first?.at ?? "";
  const tightest = [...judged].sort((a, b) => a.feature.tolerance_mm - b.feature.tolerance_mm)[0];
  const zone = `job.parts.${String(part)}.features.${String(tightest?.index ?? 0)}.tolerance_mm`;
  return (
    <>
      <div className="short-field">
        <Field label={`${capital(first?.drive ?? "screw")} torque`} {...stored(first?.torque_at ?? "", "N·m")} />
      </div>
      {tightest && (
        <div className="short-field">
          <Field label="Position zone" {...stored(zone, "mm")} />
        </div>
      )}
      <div className="short-field">
        <Field label="Clearance" {...stored(`${at}.clearance_mm`, "mm")} />
      </div>
      {placing.own ? (
        <>
          <Button
            variant="contained"
            className="tall"
            disabled={busy}
            onClick={() => {
              placing.aroundLocked();
              plan.mutate();
            }}
            data-testid="plan-around"
          >
            {placing.locked > 0 ? `Plan around ${String(placing.locked)} locked` : "Plan anew"}
          </Button>
          <Button className="tall" onClick={placing.asPlanned} disabled={busy}>
            Forget my placing
          </Button>
        </>
      ) : (
        <Button
          variant="contained"
          className="tall"
          disabled={busy || plan.isPending}
          onClick={() => plan.mutate()}
          title="Ctrl+Enter"
          data-testid="plan"
        >
          {busy || plan.isPending ? "Planning" : "Plan"}
        </Button>
      )}
    </>
  );
}
