/**
 * One station dragged over the bench: where it would stand, drawn to others, to the grid and to the edge of
 * where the service lets it.
 */
import { useEffect, useState, type MouseEvent } from "react";

import { fetchRoom } from "../api/queries";
import type { PlacedStation, Room } from "../api/types";
import type { Placing } from "./placing";
import { snapped, type Snapped, type Spot } from "./snapping";

export const MOVED_PX = 4;
const ATTRACTS_PX = 7;

export interface Drag {
  station: PlacedStation;
  face: number;
  grab: Spot;
  from: { clientX: number; clientY: number };
  to: Snapped | null;
}

export interface Spread {
  faces: number;
  pitch: number;
  faceWidth: number;
  px: number;
  at: (event: MouseEvent) => [number, number];
}

export interface Asked {
  jobId: string;
  version: number;
  setup: number;
  mayEdit: boolean;
}

/** Where the one picked station may stand: asked for as soon as it is picked, so that it is there when it is dragged. */
function useAreas({ jobId, version, setup, mayEdit }: Asked, only: PlacedStation | undefined, face: number) {
  const [room, setRoom] = useState<{ key: string; room: Room } | null>(null);
  const key = only ? [version, only.number, only.turn, face].join(" ") : "";
  useEffect(() => {
    if (!only || !mayEdit) return;
    let wanted = true;
    fetchRoom(jobId, version, { setup, station: only.number - 1, turn: only.turn, face, kind: only.kind ?? 0 })
      .then((found) => wanted && setRoom({ key, room: found }))
      .catch(() => undefined);
    return () => {
      wanted = false;
    };
  }, [jobId, version, setup, only, key, face, mayEdit]);
  return room?.key === key ? room.room.areas : null;
}

/** To the thousandth under the pointer, drawn to nothing. */
const free = ({ x, y }: Spot): Snapped => ({
  x: Math.round(x * 1000) / 1000,
  y: Math.round(y * 1000) / 1000,
  row: null,
  column: null,
  touches: false,
});

/** Stations it lines up with: of its kind, turned alike, on the same face. */
const alike = (stations: readonly PlacedStation[], station: PlacedStation, face: number): Spot[] =>
  stations
    .filter(
      (other) =>
        other.number !== station.number &&
        other.turn === station.turn &&
        (other.face ?? 0) === face &&
        (other.kind ?? 0) === (station.kind ?? 0),
    )
    .map((other) => ({ x: other.x_mm, y: other.y_mm }));

export function useDrag(asked: Asked, placing: Placing, { faces, pitch, faceWidth, px, at }: Spread) {
  const [drag, setDrag] = useState<Drag | null>(null);
  const { stations, selected } = placing;
  const only = selected.size === 1 ? stations.find((station) => selected.has(station.number)) : undefined;
  const face = drag?.face ?? only?.face ?? 0;
  const known = useAreas(asked, only, face);
  // not known yet is not nowhere
  const areas = drag ? known : null;

  const begin = (event: MouseEvent, station: PlacedStation) => {
    const more = event.shiftKey || event.ctrlKey;
    placing.select(station.number, more);
    if (!asked.mayEdit || more || station.locked) return;
    const [x, y] = at(event);
    const on = station.face ?? 0;
    const grab = { x: x - on * pitch - station.x_mm, y: y - station.y_mm };
    setDrag({ station, face: on, grab, from: event, to: null });
  };
  const move = (event: MouseEvent) => {
    if (!drag) return;
    const far = Math.hypot(event.clientX - drag.from.clientX, event.clientY - drag.from.clientY);
    if (!drag.to && far <= MOVED_PX) return;
    const [x, y] = at(event);
    const over = Math.min(faces - 1, Math.max(0, Math.floor((x + (pitch - faceWidth) / 2) / pitch)));
    const wanted = { x: x - over * pitch - drag.grab.x, y: y - drag.grab.y };
    const others = alike(stations, drag.station, over);
    const to = event.altKey ? free(wanted) : snapped(wanted, others, areas ?? [], placing.step, ATTRACTS_PX * px);
    setDrag({ ...drag, face: over, to });
  };
  const end = () => {
    if (drag?.to) placing.move(drag.station.number, drag.to.x, drag.to.y, drag.face);
    setDrag(null);
  };
  return { drag, face, areas, begin, move, end, drop: () => setDrag(null) };
}
