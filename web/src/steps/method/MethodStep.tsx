/** Step 3: the setup on screen: which ops it holds, on which machine, in what, and how a station holds its parts. */
import { useCatalogue } from "../../api/queries";
import { PlateDrawing } from "../../drawing/PlateDrawing";
import { useEditor, useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";
import { Notice } from "../../ui/Notice";
import { capital } from "../../ui/units";
import { FormFields } from "./FormFields";
import { HeldHere } from "./HeldHere";
import { MachineFields } from "./MachineFields";
import { PlateFields } from "./PlateFields";
import { StationFields } from "./StationFields";

export function MethodStep() {
  const { here } = useEditor();
  const stored = useStored();
  const kinds = useCatalogue().data?.form_kinds ?? [];
  // Stations of a form without plates of its own are the form's.
  const own = kinds.find(({ kind }) => kind === here.setup.form.kind)?.plates ?? true;
  const at = here.shown.held[0]?.at ?? "";
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <HeldHere />
          <FormFields />
          <Field label="Identical fixtures" {...stored(here.of("copies"))} />
          <MachineFields />
          {here.on && own && (
            <>
              <PlateFields plate={here.on.plate} />
              <StationFields />
            </>
          )}
          {here.on && !own && <Field label="Between stations" {...stored(`${at}.clearance_mm`, "mm")} />}
          <h2>House rules</h2>
          <Field label="Clamping factor needed" {...stored("job.rules.safety_factor")} />
          <Field label="when interrupted" {...stored("job.rules.safety_factor_interrupted")} />
          <Field label="Least grip in a vise" {...stored("job.rules.least_grip_mm", "mm")} />
          <Field label="A burr by hand, s" {...stored("job.rules.burr_seconds")} />
          <Field label="Hours a day" {...stored("job.rules.hours_a_day")} />
        </div>
      </div>
      <div className="picture" tabIndex={0}>
        {here.on ? (
          <PlateDrawing on={here.on} design={null} />
        ) : (
          <Notice title={`${capital(here.shown.form)} cannot be planned yet`} kind="info">
            <p>
              No rule here says where parts stand and how they are held. A plate, a tombstone or a bar can be planned.
            </p>
          </Notice>
        )}
        <p className="quiet">
          Values of machines and clamps are the builder&rsquo;s: enter yours. Screws not above their rated torque.
        </p>
      </div>
    </div>
  );
}
