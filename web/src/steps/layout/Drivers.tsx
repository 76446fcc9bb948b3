/** What moves the limits most, to be set while there is no design whose ledger would hold it. */
import { useEditor, usePlanned, useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";
import { capital } from "../../ui/units";

export function Drivers() {
  const { here } = useEditor();
  const stored = useStored();
  const { part, judged } = usePlanned();
  const first = here.shown.held[0];
  const tightest = [...judged].sort((a, b) => a.feature.tolerance_mm - b.feature.tolerance_mm)[0];
  const zone = `job.parts.${String(part)}.features.${String(tightest?.index ?? 0)}.tolerance_mm`;
  return (
    <div className="rows gap-10">
      <Field label={`${capital(first?.drive ?? "screw")} torque`} {...stored(first?.torque_at ?? "", "N·m")} />
      {tightest && <Field label={`Tolerance, ${tightest.feature.name}`} {...stored(zone, "mm")} />}
      <Field label="Clearance" {...stored(`${first?.at ?? ""}.clearance_mm`, "mm")} />
    </div>
  );
}
