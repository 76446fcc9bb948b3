import { Ask } from "../ui/Ask";
import { Choice, Field } from "../ui/Field";
import { clock, useUnits } from "../ui/units";
import { useEditor, useFigures, useStored } from "./editor";
import { NotCurrent } from "./NotCurrent";

const SHOWN = ["force", "pull", "power", "spindle_torque", "chip", "feed", "cut_seconds"];

export function CutsStep() {
  const { request, change, mayEdit, job } = useEditor();
  const stored = useStored();
  const { withUnit } = useUnits();
  const find = useFigures();
  const load = job.latest?.result?.load;
  const stale = job.latest?.run.current === false ? "stale" : "";
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>The cut</h2>
          <Field label="Name" {...stored("cut.name", "", true)} />
          <Choice
            label="Path"
            name="cut.path"
            value={request.cut.path ?? "around"}
            options={[
              { value: "around", label: "Around the outline" },
              { value: "across", label: "Across the top" },
            ]}
            disabled={!mayEdit}
            store={(value) => change("cut.path", value)}
          />
          <Field label="Cutter diameter" {...stored("cut.tool.diameter_mm", "mm")} />
          <Field label="Teeth" {...stored("cut.tool.teeth")} />
          <Field label="Helix, degrees" {...stored("cut.tool.helix_deg")} />
          <Field label="Flute length" {...stored("cut.tool.flute_length_mm", "mm")} />
          <Field label="Axial depth" {...stored("cut.axial_depth_mm", "mm")} />
          <Field label="Radial width" {...stored("cut.radial_width_mm", "mm")} />
          <Field label="Feed per tooth" {...stored("cut.feed_per_tooth_mm", "mm")} />
          <Field label="Spindle, 1/min" {...stored("cut.spindle_rpm")} />
          <Field label="Wear factor" {...stored("cut.wear_factor")} help="1 sharp, 1.3 usual" />
          <Choice
            label="Engagement"
            name="cut.interrupted"
            value={request.cut.interrupted ? "interrupted" : "steady"}
            options={[
              { value: "steady", label: "Steady" },
              { value: "interrupted", label: "Interrupted" },
            ]}
            disabled={!mayEdit}
            store={(value) => change("cut.interrupted", value === "interrupted")}
          />
        </div>
      </div>
      <div className="picture">
        <h2>What it puts on the part</h2>
        <NotCurrent />
        {load && (
          <table className={`lines ${stale}`} style={{ maxWidth: 560 }}>
            <tbody>
              {SHOWN.map((id, index) => {
                const figure = find(id);
                return figure ? (
                  <tr key={id}>
                    <td>{figure.label}</td>
                    <td className="num mono" style={{ fontSize: index < 4 ? 20 : 14 }}>
                      <Ask figure={figure}>{id === "cut_seconds" ? `${clock(figure.value)} min` : withUnit(figure.value, figure.unit ?? "", figure.digits ?? 2)}</Ask>
                    </td>
                  </tr>
                ) : null;
              })}
            </tbody>
          </table>
        )}
        <p className="quiet" style={{ marginTop: "auto" }}>Rotating tools: doors shut. Cutting values are starting values; the tool maker's come first.</p>
      </div>
    </div>
  );
}
