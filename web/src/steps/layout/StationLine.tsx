/** What is picked: its place, which can be typed, its turn, what its tightest feature uses, and what is wrong with it. */
import { Button } from "@mui/material";

import type { PlacedStation } from "../../api/types";
import { stationFigure } from "../../drawing/stationFigure";
import type { Placing } from "../../drawing/placing";
import { useFigures } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Cell } from "../../ui/Cell";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

export function StationLine({
  placing,
  station,
  zone,
  mayEdit,
  there,
  faces,
}: {
  placing: Placing;
  station: PlacedStation | null;
  zone: number;
  mayEdit: boolean;
  there: boolean;
  faces: string[];
}) {
  const { withUnit, figure, shownUnit, says } = useUnits();
  const asked = stationFigure(station, useFigures()("tolerance"));
  const line = { minHeight: 30, display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" } as const;
  if (!station)
    return (
      <p className="quiet" style={line} data-testid="station-line">
        {placing.said ??
          (placing.selected.size > 1
            ? `${String(placing.selected.size)} stations picked.`
            : there
              ? "Pick a station for its figures, or drag it. Shift picks more, arrow keys walk, ? lists all keys."
              : "")}
      </p>
    );
  const cell = (axis: "x" | "y", value: number) => (
    <Cell
      label={`${axis.toUpperCase()} of station ${String(station.number)}`}
      name={`station.${axis}`}
      value={Number(value.toFixed(4))}
      unit="mm"
      width={84}
      disabled={!mayEdit || (station.locked ?? false)}
      store={(typed) => placing.put(station.number, axis, typed)}
    />
  );
  return (
    <div style={line} data-testid="station-line">
      <span>
        Station <b>{station.number}</b>
        {faces.length > 1 && ` on ${faces[station.face ?? 0] ?? ""}`} at
      </span>
      X {cell("x", station.x_mm)} Y {cell("y", station.y_mm)} {shownUnit("mm")}, turned{" "}
      <span className="mono">{station.turn}°</span>
      {station.feature && (
        <span>
          , uses{" "}
          <Ask figure={asked} className="mono">
            {figure(asked?.value ?? station.probable_mm, "mm", 3)}
          </Ask>{" "}
          of <span className="mono">{withUnit(zone, "mm", 3)}</span>
        </span>
      )}
      {station.faults?.[0] && (
        <b className="stands-not" title={says(station.faults.join("; "))}>
          <Said text={capital(station.faults[0])} />
          {station.faults.length > 1 ? `, and ${String(station.faults.length - 1)} more` : ""}.
        </b>
      )}
      {station.nearest_mm && mayEdit && (
        <Button
          size="small"
          variant="outlined"
          onClick={() => placing.move(station.number, station.nearest_mm?.[0] ?? 0, station.nearest_mm?.[1] ?? 0)}
        >
          To the nearest clear place
        </Button>
      )}
      {placing.said && <span className="quiet">{placing.said}</span>}
    </div>
  );
}
