/** How much of the part a vise would have to hold: factor over the depth gripped, and what asks for it. */
import { FormControlLabel, Switch } from "@mui/material";
import { useState } from "react";

import { useCatalogue, useGrip } from "../../api/queries";
import type { InViseResult } from "../../api/types";
import { Curve } from "../../charts/lazy";
import { useEditor } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Choice, Field } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { Said } from "../../ui/Said";

export function InVise() {
  const { job, here } = useEditor();
  const { withUnit } = useUnits();
  const vises = useCatalogue().data?.vises ?? [];
  const [name, setName] = useState("");
  const [torque, setTorque] = useState<string | number | null>(null);
  const [toothed, setToothed] = useState(false);
  const vise = vises.find((item) => item.name === name) ?? vises[1] ?? vises[0];
  const set = torque ?? (vise ? Math.round(vise.rated_torque_nm * 0.7) : 0);
  const [wanted, setWanted] = useState<string | number>(3);
  const { data, error, isFetching } = useGrip(job.id, job.version, here.number, vise, set, toothed, wanted);
  if (!vise) return <p>The shop has no vise. Add one under Shop, Vises.</p>;
  // What was typed is read by the service, which says what it understood.
  const depth = data?.depth_mm ?? 0;
  const least = data?.grip.least_mm ?? null;
  const figure = (id: string) => data?.figures.find((item) => item.id === id);
  return (
    <div data-testid="in-vise" className="grid gap-20 grow may-shrink vise-split">
      <div className="flex down gap-12 pad-above-8">
        <Choice
          label="Vise"
          name="vise"
          value={vise.name}
          options={vises.map((item) => ({ value: item.name, label: item.name }))}
          store={(value) => {
            setName(value);
            setTorque(null);
          }}
        />
        <Field
          label="Torque on its handle"
          name="vise-torque"
          value={data?.torque_nm ?? set}
          unit="N·m"
          store={setTorque}
        />
        <FormControlLabel
          control={<Switch checked={toothed} onChange={(_event, on) => setToothed(on)} />}
          label="Toothed inserts, raw stock"
        />
        <Field label="You would hold" name="vise-depth" value={data?.depth_mm ?? wanted} unit="mm" store={setWanted} />
        {data && (
          <table className="lines">
            <tbody>
              <tr>
                <td>With that much in the jaws</td>
                <td
                  className={`num mono ${data.verdict === "held" ? "stands" : "stands-not"}`}
                  data-testid="grip-verdict"
                >
                  {data.verdict === "hold it deeper" ? `${withUnit(data.deeper_mm, "mm", 2)} deeper` : data.verdict}
                </td>
              </tr>
              <tr>
                <td>Jaw force</td>
                <td className="num mono">
                  <Ask figure={figure("vise_low")}>{withUnit(data.force_low_n, "N", 0)}</Ask> to{" "}
                  <Ask figure={figure("vise_high")}>{withUnit(data.force_high_n, "N", 0)}</Ask>
                </td>
              </tr>
              <tr>
                <td>Jaws are high</td>
                <td className="num mono">{withUnit(data.jaw_mm, "mm", 1)}</td>
              </tr>
              <tr>
                <td>Cuttable above the least grip</td>
                <td className="num mono">
                  {data.grip.clears === false
                    ? "cutter meets jaws"
                    : least === null
                      ? "none"
                      : withUnit(Math.max(0, data.height_mm - least), "mm", 1)}
                </td>
              </tr>
            </tbody>
          </table>
        )}
      </div>
      <div className="flex down may-shrink">
        {error && <ProblemNotice error={error} />}
        {isFetching && !data && <p className="quiet">Working out the grip</p>}
        {data && (
          <>
            <div className="headline one-row at-top">
              <div>
                <div
                  className={`big mono one-line ${data.grip.feasible ? "stands" : "stands-not"}`}

                  data-testid="grip-least"
                >
                  {least === null ? "no" : <Ask figure={figure("grip")}>{withUnit(least, "mm", 2)}</Ask>}
                </div>
                <div className="label">{least === null ? "grip is enough" : "least in the jaws"}</div>
              </div>
              <p className="size-xl text-wide">
                <Said text={data.grip.sentence.slice(0, 1).toUpperCase() + data.grip.sentence.slice(1)} />.
              </p>
            </div>
            <GripChart data={data} depth={depth} />
            {data.cautions.map((line) => (
              <p key={line} className="quiet small">
                <Said text={line} />
              </p>
            ))}
          </>
        )}
      </div>
    </div>
  );
}

/** Factor over depth, with the factor needed and the least grip. */
function GripChart({ data, depth }: { data: InViseResult; depth: number }) {
  const { withUnit } = useUnits();
  const { curve, least_mm: least } = data.grip;
  const deepest = data.jaw_mm;
  const most = Math.max(...curve.map((point) => point.factor));
  const top = Math.min(12 * data.needed, Math.max(2 * data.needed, 1.1 * most));
  return (
    <Curve
      says={`Factor over the depth gripped, up to ${withUnit(deepest, "mm", 1)}`}
      points={curve.map((point) => [point.depth_mm, Math.min(point.factor, top)])}
      told={(k) => `factor ${(curve[k]?.factor ?? 0).toFixed(2)}`}
      marked={() => true}
      across={{ from: 0, to: deepest, show: (mm) => withUnit(mm, "mm", 1), label: "In the jaws" }}
      up={{ from: 0, to: top, show: (factor) => String(Math.round(100 * factor) / 100), label: "Factor" }}
      windows={least !== null && least < deepest ? [{ from: least, to: deepest, state: "within" }] : []}
      lines={[
        { y: data.needed, label: `needs ${String(data.needed)}`, look: "limit" },
        ...(depth > 0 && depth <= deepest ? [{ x: depth, label: "yours", look: "here" as const }] : []),
      ]}
    />
  );
}
