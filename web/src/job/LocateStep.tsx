import { useState } from "react";

import { PlateDrawing } from "../layout/PlateDrawing";
import { stationFigure } from "../layout/stationFigure";
import { Ask } from "../ui/Ask";
import { Choice, Field } from "../ui/Field";
import { useUnits } from "../ui/units";
import { useEditor, usePlanned, useStored } from "./editor";
import { NotCurrent } from "./NotCurrent";

const SHADES = ["var(--mark)", "var(--steel)", "var(--close)", "var(--within)", "var(--ink)"];

export function LocateStep() {
  const { job, request, change, mayEdit } = useEditor();
  const stored = useStored();
  const { figure, withUnit } = useUnits();
  const [selected, setSelected] = useState<number | null>(null);
  const design = job.latest?.result?.designs[0] ?? null;
  const stale = job.latest?.run.current === false ? "stale" : "";
  const { part, partDocument, opDocument, judged } = usePlanned();
  const others = (partDocument.features ?? []).filter((feature) => feature.op === opDocument.number && !judged.some((item) => item.feature.name === feature.name));
  const rows = [...(design?.stations ?? [])].sort((a, b) => b.tolerance_share - a.tolerance_share);
  const names = (design?.stations[0]?.contributions ?? []).map((item) => item.name).sort();
  const worst = design?.figures.find((item) => item.id === "tolerance");
  const zone = partDocument.features?.find((item) => item.name === rows[0]?.feature)?.tolerance_mm ?? 0;
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>Positions from the fixture's datum, op {opDocument.number}</h2>
          {judged.map(({ feature, index }) => (
            <div className="wide" key={index}>
              <Field label={`${feature.name}, zone diameter`} {...stored(`parts.${String(part)}.features.${String(index)}.tolerance_mm`, "mm")} />
            </div>
          ))}
          {judged.length === 0 && <p className="wide quiet">No feature of this op is a position measured from the fixture's datum, so none depends on where a station stands. Features are set in step 1.</p>}
          <div className="wide">
            <Choice
              label="Errors add up as"
              name="rules.tolerance_rule"
              value={request.rules?.tolerance_rule ?? "probable"}
              options={[
                { value: "probable", label: "Probable: root of the sum of squares" },
                { value: "worst case", label: "Worst case: plain sum" },
              ]}
              disabled={!mayEdit}
              store={(value) => change("rules.tolerance_rule", value)}
            />
          </div>
          {others.length > 0 && (
            <p className="wide quiet" style={{ fontSize: 13 }}>
              Not judged here, because they do not depend on the station's place or are of another kind: {others.map((item) => item.name).join(", ")}.
            </p>
          )}
          <h2>What adds up</h2>
          <Field label="Station place, ±" {...stored("accuracy.station_place_mm", "mm")} />
          <Field label="Datum pick-up, ±" {...stored("accuracy.datum_pickup_mm", "mm")} />
          <Field label="Temperature, ±" {...stored("accuracy.temperature_k", "K")} />
          <Field label="Machine, ±" {...stored("machine.positioning_mm", "mm")} />
          <Field label="Datum X" {...stored("datum.x_mm", "mm")} />
          <Field label="Datum Y" {...stored("datum.y_mm", "mm")} />
          <p className="wide quiet" style={{ fontSize: 13 }}>
            One datum serves all stations. What grows with the distance from it (temperature, machine) decides where on the plate a station may stand; stations that would miss the zone are not placed.
          </p>
        </div>
      </div>
      <div className="picture">
        <NotCurrent />
        {design && worst && (
          <div className={stale} style={{ display: "flex", flexDirection: "column", gap: 8, flex: 1, minHeight: 0 }}>
            <div className="headline">
              <div>
                <div className="big mono">
                  <Ask figure={worst}>{figure(worst.value, "mm", 3)}</Ask>
                </div>
                <div className="label">
                  {worst.label}, of {withUnit(zone, "mm", 3)}
                </div>
              </div>
            </div>
            <div style={{ display: "grid", gridTemplateColumns: "minmax(0, 1.3fr) minmax(320px, 1fr)", gap: 16, flex: 1, minHeight: 0 }}>
              <div className="drawing" style={{ display: "flex" }}>
                <PlateDrawing request={request} design={design} overlay="tolerance" selected={selected} select={setSelected} />
              </div>
              <div style={{ overflow: "auto" }}>
                <p className="quiet" style={{ fontSize: 12.5, marginBottom: 6 }}>
                  {names.map((name, index) => (
                    <span key={name} style={{ marginRight: 10, whiteSpace: "nowrap" }}>
                      <i style={{ display: "inline-block", width: 9, height: 9, background: SHADES[index % SHADES.length], marginRight: 4 }} />
                      {name}
                    </span>
                  ))}
                </p>
                <table className="lines">
                  <thead>
                    <tr>
                      <th>Station</th>
                      <th className="num">Probable</th>
                      <th className="num">Worst</th>
                      <th style={{ width: "40%" }}>Share of variance</th>
                    </tr>
                  </thead>
                  <tbody>
                    {rows.map((station) => (
                      <tr key={station.number} className="row-link" onClick={() => setSelected(station.number)} style={station.number === selected ? { background: "var(--wash)" } : undefined}>
                        <td className="mono">{station.number}</td>
                        <td className="num mono">
                          <Ask figure={stationFigure(station, worst, "probable")}>{figure(station.probable_mm, "mm", 3)}</Ask>
                        </td>
                        <td className="num mono">
                          <Ask figure={stationFigure(station, worst, "worst case")}>{figure(station.worst_case_mm, "mm", 3)}</Ask>
                        </td>
                        <td>
                          <Stack parts={names.map((name) => station.contributions.find((item) => item.name === name)).map((item) => (item ? item.x_mm ** 2 + item.y_mm ** 2 : 0))} />
                        </td>
                      </tr>
                    ))}
                  </tbody>
                </table>
              </div>
            </div>
          </div>
        )}
      </div>
    </div>
  );
}

function Stack({ parts }: { parts: number[] }) {
  const whole = parts.reduce((sum, part) => sum + part, 0) || 1;
  return (
    <span style={{ display: "flex", height: 9 }}>
      {parts.map((part, index) => (
        <i key={index} style={{ width: `${String((100 * part) / whole)}%`, background: SHADES[index % SHADES.length] }} />
      ))}
    </span>
  );
}
