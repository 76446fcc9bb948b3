/** One cut: its force over a turn of the cutter, and what it asks of the spindle. */
import type { Cut, CutAnswer } from "../../api/types";
import { useStored } from "../../editing/editor";
import { Curve } from "../../charts/lazy";
import { Ask } from "../../ui/Ask";
import { Field } from "../../ui/Field";
import { useUnits } from "../../ui/units";
import { Said } from "../../ui/Said";

const SHOWN = ["force", "pull", "push", "spindle_torque", "power", "chip", "feed"];

export function CutDetail({ cut, answer, at }: { cut: Cut | undefined; answer: CutAnswer | undefined; at: string }) {
  const { withUnit } = useUnits();
  const stored = useStored();
  if (!cut || !answer) return <div className="grow" />;
  return (
    <div className="grow grid gap-20 ruled-above cut-detail">
      <div className="flex down may-shrink">
        <h2 className="size-l">{cut.name}: force in the plane over one turn of the cutter</h2>
        {answer.chart ? (
          <TurnChart chart={answer.chart} teeth={cut.tool.teeth} />
        ) : (
          <p className="problem-list">
            <Said text={answer.wrong} />
          </p>
        )}
      </div>
      <div className="scroll" tabIndex={0}>
        <table className="lines">
          <tbody>
            {SHOWN.map((id) => {
              const item = answer.figures?.find((figure) => figure.id === id);
              if (!item) return null;
              const limit =
                id === "power" ? answer.spindle_power_kw : id === "spindle_torque" ? answer.spindle_torque_nm : null;
              return (
                <tr key={id}>
                  <td>{item.label}</td>
                  <td className="num mono size-xl">
                    <Ask figure={item}>{withUnit(item.value, item.unit ?? "", item.digits ?? 2)}</Ask>
                  </td>
                  <td className="num mono quiet smaller">
                    {limit === null || limit === undefined ? "" : `of ${withUnit(limit, item.unit ?? "", 1)}`}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {answer.over && (
          <p className="problem-list above-6 stands-not" role="alert">
            The cut <Said text={answer.over} />.
          </p>
        )}
        <p className="quiet smaller above-6">
          Starting values; the tool maker's come first. Rotating tools: doors shut.
        </p>
      </div>
      <div className="scroll flex down gap-10 pad-above-8">
        <Field label="Begins below the top" {...stored(`${at}.from_top_mm`, "mm")} />
        <Field label="Leaves on walls and floor" {...stored(`${at}.leave_mm`, "mm")} />
        <Field label="Wear factor" {...stored(`${at}.wear_factor`)} help="1 sharp, 1.3 usual" />
        <Field label="Helix, degrees" {...stored(`${at}.tool.helix_deg`)} />
        <Field label="Entering angle, degrees" {...stored(`${at}.tool.entering_deg`)} />
        <Field label="Cutting length" {...stored(`${at}.tool.flute_length_mm`, "mm")} />
        <PathField at={at} />
        <Interrupted at={at} on={cut.interrupted ?? false} />
      </div>
    </div>
  );
}

/** A path typed instead of the one worked out; emptied, the outline's counts again. */
function PathField({ at }: { at: string }) {
  const path = useStored()(`${at}.path_mm`, "mm");
  return (
    <Field
      label="Path typed"
      {...path}
      store={(value) => path.store(value === "" ? (null as unknown as string) : value)}
    />
  );
}

function Interrupted({ at, on }: { at: string; on: boolean }) {
  const box = useStored()(`${at}.interrupted`);
  return (
    <label className="flex gap-8 middle">
      <input
        type="checkbox"
        checked={on}
        disabled={box.disabled ?? false}
        onChange={() => box.store(!on as unknown as string)}
      />
      Interrupted cut
    </label>
  );
}

/** The force as the cutter turns; its peak is the one beside it, found between the angles that are drawn. */
function TurnChart({ chart, teeth }: { chart: NonNullable<CutAnswer["chart"]>; teeth: number }) {
  const { withUnit } = useUnits();
  const most = Math.max(...chart.in_plane_n, 0);
  if (most <= 1e-6)
    return <p className="quiet">The edges balance one another: no force in the plane, only thrust and twist.</p>;
  const turn = [
    ...chart.angle_deg.map((angle, k) => [angle, chart.in_plane_n[k] ?? 0] as const),
    [360, chart.in_plane_n[0] ?? 0] as const,
  ];
  return (
    <Curve
      says={`Force in the plane over one turn of the cutter, ${String(teeth)} teeth`}
      points={turn}
      across={{ from: 0, to: 360, show: (angle) => `${String(Math.round(angle))}°`, named: [0, 90, 180, 270, 360] }}
      up={{ from: 0, to: 1.08 * most, show: (force) => withUnit(force, "N", 0), wide: 64 }}
      filled
    />
  );
}
