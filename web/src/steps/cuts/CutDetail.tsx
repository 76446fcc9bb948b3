/** One cut: its force over a turn of the cutter, and what it asks of the spindle. */
import type { Cut, CutAnswer } from "../../api/types";
import { useStored } from "../../editing/editor";
import { useScale } from "../../drawing/drawing";
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

function TurnChart({ chart, teeth }: { chart: NonNullable<CutAnswer["chart"]>; teeth: number }) {
  const { ref, px, viewBox } = useScale(360, 150, 34);
  const { withUnit } = useUnits();
  const most = Math.max(...chart.in_plane_n, 1e-9);
  const y = (value: number) => 150 - (140 * value) / most;
  const line = chart.in_plane_n.map(
    (value, index) => `${(chart.angle_deg[index] ?? 0).toFixed(1)} ${y(value).toFixed(2)}`,
  );
  const flat = Math.max(...chart.in_plane_n) - Math.min(...chart.in_plane_n) < 1e-9;
  const peak = chart.in_plane_n.indexOf(Math.max(...chart.in_plane_n));
  const grey = { stroke: "var(--rule)", strokeWidth: px };
  return (
    <div className="drawing least-120" ref={ref}>
      <svg
        viewBox={viewBox}
        role="img"
        aria-label={`Force over one turn, peak ${withUnit(most, "N", 0)}, ${String(teeth)} teeth`}
        preserveAspectRatio="xMidYMid meet"
      >
        {[0, 90, 180, 270, 360].map((angle) => (
          <g key={angle}>
            <line x1={angle} x2={angle} y1={10} y2={150} {...grey} />
            <text
              x={angle}
              y={150 + 15 * px}
              fontSize={12 * px}
              fontFamily="IBM Plex Mono"
              fill="var(--quiet)"
              textAnchor="middle"
            >
              {angle}°
            </text>
          </g>
        ))}
        <line x1={0} x2={360} y1={150} y2={150} stroke="var(--ink)" strokeWidth={px} />
        <path
          d={`M0 150L${line.join("L")}L360 ${y(chart.in_plane_n[0] ?? 0).toFixed(2)}L360 150Z`}
          fill="var(--mark)"
          fillOpacity="0.14"
          stroke="none"
        />
        <path
          d={`M${line.join("L")}L360 ${y(chart.in_plane_n[0] ?? 0).toFixed(2)}`}
          fill="none"
          stroke="var(--mark)"
          strokeWidth={2 * px}
          strokeLinejoin="round"
        />
        {!flat && (
          <g>
            <circle cx={chart.angle_deg[peak]} cy={10} r={3.5 * px} fill="var(--mark)" />
            <text
              x={(chart.angle_deg[peak] ?? 0) + 8 * px}
              y={10 + 4 * px}
              fontSize={13 * px}
              fontFamily="IBM Plex Mono"
              fill="var(--ink)"
            >
              {withUnit(most, "N", 0)}
            </text>
          </g>
        )}
        {most <= 1e-6 && (
          <text x={180} y={80} fontSize={13.5 * px} fill="var(--quiet)" textAnchor="middle">
            The edges balance one another: no force in the plane, only thrust and twist
          </text>
        )}
      </svg>
    </div>
  );
}
