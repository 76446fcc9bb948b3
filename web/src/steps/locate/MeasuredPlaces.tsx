/** Where the stations of the real fixture are: typed, or from a coordinate measuring machine; and what a second fixture must match. */
import { Button } from "@mui/material";
import { useRef, useState } from "react";

import { type MeasuredGiven, useMeasured } from "../../api/queries";
import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Cell } from "../../ui/Cell";
import { Choice, Field } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { Said } from "../../ui/Said";

interface Place {
  station: number;
  x_mm: string | number;
  y_mm: string | number;
  z_mm: string | number | null;
}

export function MeasuredPlaces({ found }: { found: Verdicts }) {
  const { job, here, change, mayEdit } = useEditor();
  const { figure, shownUnit, system, withUnit } = useUnits();
  const store = useMeasured(job.id);
  const send = (given: MeasuredGiven) => store.mutate({ ...given, setup: here.number });
  const input = useRef<HTMLInputElement>(null);
  const [within, setWithin] = useState<string | number>(0.003);
  const design = here.result?.designs[0];
  const rows = (design?.stations ?? []).map((station) => ({
    station,
    measured: found.measured?.find((item) => item.station === station.number - 1) ?? null,
  }));
  const some = rows.some((row) => row.measured);
  const put = (place: Place) => send({ places: [place], within_mm: within });
  const one = (station: number, key: "x_mm" | "y_mm" | "z_mm", typed: string | number | null) => {
    const row = rows.find((item) => item.station.number === station);
    if (!row || typed === null) return;
    put({
      station,
      x_mm: row.measured?.x_mm ?? row.station.x_mm,
      y_mm: row.measured?.y_mm ?? row.station.y_mm,
      z_mm: row.measured?.z_mm ?? null,
      [key]: typed,
    });
  };
  return (
    <div className="beside grid gap-20 grow may-shrink table-first">
      <div className="flex down gap-8 may-shrink pad-above-8">
        <div className="tools middle">
          <div className="wide-150">
            <Field
              label="Measured within, ±"
              name="within"
              value={within}
              unit="mm"
              store={setWithin}
              disabled={!mayEdit}
            />
          </div>
          <Button
            size="small"
            variant="outlined"
            disabled={!mayEdit || store.isPending}
            onClick={() => input.current?.click()}
          >
            From CSV
          </Button>
          <Button
            size="small"
            component="a"
            href={`/api/jobs/${job.id}/layout/file?setup=${String(here.number)}&format=csv&units=${system === "inch" ? "inch" : "mm"}`}
            download
          >
            Table to fill in
          </Button>
          {some && (
            <Button size="small" disabled={!mayEdit || store.isPending} onClick={() => send({})}>
              Take all off
            </Button>
          )}
          <input
            ref={input}
            type="file"
            name="measured"
            accept=".csv,.txt"
            hidden
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              event.target.value = "";
              void chosen
                ?.text()
                .then((text) => send({ text, units: system === "inch" ? "inch" : "mm", within_mm: within }));
            }}
          />
        </div>
        {store.error && <ProblemNotice error={store.error} />}
        <div className="scroll grow">
          <table className="sheet open-cells" data-testid="measured">
            <thead>
              <tr>
                <th>Station</th>
                <th className="num">Drawn X</th>
                <th className="num">Y</th>
                <th className="num">Found X</th>
                <th className="num">Y</th>
                <th className="num">Z off</th>
                <th className="num">Off by, {shownUnit("mm")}</th>
              </tr>
            </thead>
            <tbody>
              {rows.map(({ station, measured }) => (
                <tr key={station.number}>
                  <td className="mono">{station.number}</td>
                  <td className="out mono">{figure(station.x_mm, "mm", 3)}</td>
                  <td className="out mono">{figure(station.y_mm, "mm", 3)}</td>
                  <td>
                    <Cell
                      label={`Found X, station ${String(station.number)}`}
                      name={`found-x-${String(station.number)}`}
                      value={measured?.x_mm ?? ""}
                      unit="mm"
                      width={78}
                      disabled={!mayEdit}
                      store={(typed) => one(station.number, "x_mm", typed)}
                    />
                  </td>
                  <td>
                    <Cell
                      label={`Found Y, station ${String(station.number)}`}
                      name={`found-y-${String(station.number)}`}
                      value={measured?.y_mm ?? ""}
                      unit="mm"
                      width={78}
                      disabled={!mayEdit}
                      store={(typed) => one(station.number, "y_mm", typed)}
                    />
                  </td>
                  <td>
                    <Cell
                      label={`Height off the drawing, station ${String(station.number)}`}
                      name={`found-z-${String(station.number)}`}
                      value={measured?.z_mm ?? ""}
                      unit="mm"
                      width={62}
                      disabled={!mayEdit}
                      store={(typed) => one(station.number, "z_mm", typed)}
                    />
                  </td>
                  <td className="out mono">{measured ? figure(measured.off_mm, "mm", 3) : ""}</td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
        <p className="quiet smaller">
          Datum corners from the plate's corner. With a measured place the layout is kept as it stands: it is that
          fixture's.
        </p>
      </div>
      <div className="scroll pad-above-8">
        <Choice
          label="Measured places are"
          name={here.of("accuracy.measured_are")}
          value={here.setup.accuracy?.measured_are ?? "in the program"}
          disabled={!mayEdit}
          options={[
            { value: "in the program", label: "in the program: only their uncertainty counts" },
            { value: "only known", label: "only known: the program runs as drawn" },
          ]}
          store={(value) => change(here.of("accuracy.measured_are"), value)}
        />
        <h2 className="above-14">A second fixture, same program and offsets</h2>
        <table className="lines tight" data-testid="pair">
          <thead>
            <tr>
              <th>Must match within, ±</th>
              <th className="num">{shownUnit("mm")}</th>
              <th className="num">now</th>
            </tr>
          </thead>
          <tbody>
            {found.pair.map((item) => (
              <tr key={item.what}>
                <td>
                  <Said text={item.what} />
                  <div className="quiet smaller">
                    <Said text={item.why} />
                  </div>
                </td>
                <td
                  className="num mono from-top"
                  style={{ color: item.within_mm !== null && item.within_mm < item.now_mm ? "var(--over)" : undefined }}
                >
                  {item.within_mm === null ? "any" : figure(item.within_mm, "mm", 4)}
                </td>
                <td className="num mono from-top">{figure(item.now_mm, "mm", 4)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="quiet smaller above-6">
          Each by itself, the others as they are; made in one go, and always back in the same way round.{" "}
          {some &&
            `Measured: ${String(rows.filter((row) => row.measured).length)} of ${String(rows.length)}, ` +
              `largest off ${withUnit(Math.max(0, ...rows.map((row) => row.measured?.off_mm ?? 0)), "mm", 3)}.`}
        </p>
      </div>
    </div>
  );
}
