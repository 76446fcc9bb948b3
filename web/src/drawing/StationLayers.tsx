/** What stands on the bench: every station, its number, and what can be taken hold of. */
import { memo } from "react";

import type { Design, Drawing, PlacedStation } from "../api/types";
import { drawingOf, pensOf } from "./drawing";
import { cornerOf, StationNumber, StationShape, type Overlay } from "./Station";
import { pen } from "../ui/pen";

interface Layer {
  stations: PlacedStation[];
  design: Design;
  px: number;
  selected: ReadonlySet<number>;
}

/** Every station where it stands. Hundreds of them do not change while one is dragged, and are not drawn again. */
export const Stations = memo(function Stations({
  stations,
  face,
  design,
  px,
  overlay,
  selected,
  faint,
}: Layer & { face: number; overlay: Overlay; faint: number | null }) {
  return stations
    .filter((station) => (station.face ?? 0) === face)
    .map((station) => (
      <StationShape
        key={station.number}
        station={station}
        drawing={drawingOf(design, station)}
        px={px}
        overlay={overlay}
        chosen={selected.has(station.number)}
        faint={faint === station.number}
      />
    ));
});

/** Numbers, locks, and what can be taken hold of. */
export const Labels = memo(function Labels({
  stations,
  pitch,
  design,
  px,
  depth,
  selected,
  without,
}: Layer & { pitch: number; depth: number; without: number | null }) {
  return stations.map((station) =>
    station.number === without ? null : (
      <Label
        key={station.number}
        station={station}
        drawing={drawingOf(design, station)}
        across={(station.face ?? 0) * pitch}
        px={px}
        depth={depth}
        chosen={selected.has(station.number)}
      />
    ),
  );
});

interface OneLabel {
  station: PlacedStation;
  drawing: Drawing;
  /** How far its face stands to the right, mm. */
  across: number;
  px: number;
  depth: number;
  chosen: boolean;
}

const Label = memo(function Label({ station, drawing, across, px, depth, chosen }: OneLabel) {
  const corner = cornerOf(drawing, station);
  const faults = station.faults ?? [];
  return (
    <g
      className="station"
      role="button"
      aria-label={[
        `Station ${String(station.number)}`,
        ...(station.locked ? ["locked"] : []),
        ...(faults.length > 0 ? faults : []),
      ].join(", ")}
      aria-pressed={chosen}
      data-station={station.number}
      transform={pen`translate(${across} 0)`}
    >
      <HitArea station={station} drawing={drawing} depth={depth} />
      <StationNumber number={station.number} corner={corner} depth={depth} px={px} wrong={faults.length > 0} />
      {station.locked && <Locked x={corner.x + corner.width - 20 * px} y={corner.y - 16 * px} depth={depth} px={px} />}
    </g>
  );
});

function Locked({ x, y, depth, px }: { x: number; y: number; depth: number; px: number }) {
  return (
    <path
      d={pen`M${x + 9 * px} ${depth - y - 12 * px}h${9 * px}v${8 * px}h${-9 * px}zm${2 * px} 0v${-3 * px}
               a${2.5 * px} ${2.5 * px} 0 0 1 ${5 * px} 0v${3 * px}`}
      fill="var(--ink)"
      fillRule="evenodd"
      stroke="var(--ink)"
      strokeWidth={px}
    />
  );
}

/** What can be grabbed: the part and everything round it. */
function HitArea({ station, drawing, depth }: { station: PlacedStation; drawing: Drawing; depth: number }) {
  return (
    <path
      transform={pen`translate(${station.x_mm} ${depth - station.y_mm}) scale(1 -1) rotate(${station.turn})`}
      d={pensOf(drawing).all}
      fill="transparent"
    />
  );
}
