/** What is picked: its place, which can be typed, its turn, what it uses of its limits, and what is wrong with it. */
import { Button } from "@mui/material";
import type { ReactNode } from "react";

import type { PlacedStation } from "../../api/types";
import { stationFigure } from "../../drawing/stationFigure";
import type { Placing } from "../../drawing/placing";
import { useFigures } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Cell } from "../../ui/Cell";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

interface Props {
  placing: Placing;
  station: PlacedStation | null;
  /** The tolerance of the feature it was judged by. */
  zone: number;
  /** The clamping factor its op needs. */
  needed: number;
  mayEdit: boolean;
  faces: string[];
  /** At which side of the drawing it stands out of the way. */
  aside: "left" | "right";
}

export function StationPanel(props: Props) {
  const { placing, station, aside } = props;
  const many = placing.selected.size;
  if (!station && !placing.said && many < 2) return null;
  return (
    <div className={`station-panel ${aside}`} data-testid="station-line" role="status">
      {station ? (
        <One {...props} station={station} />
      ) : (
        many > 1 && (
          <p>
            <b>{many} stations</b> picked
          </p>
        )
      )}
      {placing.said && <p className="quiet">{placing.said}</p>}
    </div>
  );
}

function One({ placing, station, zone, needed, mayEdit, faces }: Props & { station: PlacedStation }) {
  const { withUnit, figure } = useUnits();
  const asked = stationFigure(station, useFigures()("tolerance"));
  const held = station.hold_factor;
  return (
    <>
      <h3>
        Station {station.number}
        {faces.length > 1 && <span className="quiet"> {faces[station.face ?? 0]}</span>}
      </h3>
      <dl>
        <Place placing={placing} station={station} mayEdit={mayEdit} />
        <Row name="Turned">{station.turn}°</Row>
        {held > 0 && (
          <Row name="Clamping" over={held < needed}>
            {held.toFixed(2)}, needs {needed}
          </Row>
        )}
        {station.feature && (
          <Row name={station.feature} over={station.tolerance_share > 1}>
            <Ask figure={asked}>{figure(asked?.value ?? station.probable_mm, "mm", 3)}</Ask> of{" "}
            {withUnit(zone, "mm", 3)}
          </Row>
        )}
      </dl>
      <Faults placing={placing} station={station} mayEdit={mayEdit} />
    </>
  );
}

function Place({ placing, station, mayEdit }: Pick<Props, "placing" | "mayEdit"> & { station: PlacedStation }) {
  const { shownUnit } = useUnits();
  const cell = (axis: "x" | "y", value: number) => (
    <Cell
      label={`${axis.toUpperCase()} of station ${String(station.number)}`}
      name={`station.${axis}`}
      value={Number(value.toFixed(4))}
      unit="mm"
      width={82}
      disabled={!mayEdit || (station.locked ?? false)}
      store={(typed) => placing.put(station.number, axis, typed)}
    />
  );
  return (
    <Row name={`X, Y (${shownUnit("mm")})`}>
      {cell("x", station.x_mm)} {cell("y", station.y_mm)}
    </Row>
  );
}

function Row({ name, over = false, children }: { name: string; over?: boolean; children: ReactNode }) {
  return (
    <>
      <dt>{name}</dt>
      <dd className={over ? "mono stands-not" : "mono"}>{children}</dd>
    </>
  );
}

function Faults({ placing, station, mayEdit }: Pick<Props, "placing" | "mayEdit"> & { station: PlacedStation }) {
  const { says } = useUnits();
  const [first, ...rest] = station.faults ?? [];
  const [x, y] = station.nearest_mm ?? [];
  return (
    <>
      {first && (
        <p className="stands-not strong" title={says([first, ...rest].join("; "))}>
          <Said text={capital(first)} />
          {rest.length > 0 ? `, and ${String(rest.length)} more` : ""}.
        </p>
      )}
      {x !== undefined && y !== undefined && mayEdit && (
        <Button size="small" variant="outlined" onClick={() => placing.move(station.number, x, y)}>
          To the nearest clear place
        </Button>
      )}
    </>
  );
}
