/** The plate as a bench: stations are picked, dragged, turned and nudged on it; it zooms and pans, and distances can be measured. */
import { useEffect, useRef, useState, type PointerEvent } from "react";

import { fetchRoom } from "../api/queries";
import type { Design, PlacedStation, Room } from "../api/types";
import type { Carrier } from "../editing/here";
import { useUnits } from "../ui/units";
import { benchKeys } from "./benchKeys";
import { path, unrolled } from "./drawing";
import { Ghost, GhostLine } from "./Ghost";
import { type Line, MeasuredLine } from "./MeasuredLine";
import type { Placing } from "./placing";
import { PlateFurniture, type Overlay } from "./PlateDrawing";
import { contains, snapped, type Snapped, type Spot } from "./snapping";
import { Labels, Stations } from "./StationLayers";
import { useView } from "./useView";
import { ViewTools } from "./ViewTools";

const MOVED_PX = 4;
const ATTRACTS_PX = 7;

interface Drag {
  station: PlacedStation;
  face: number;
  grab: Spot;
  from: { clientX: number; clientY: number };
  to: Snapped | null;
}

interface Props {
  jobId: string;
  version: number;
  setup: number;
  on: Carrier;
  design: Design | null;
  overlay: Overlay;
  placing: Placing;
  mayEdit: boolean;
}

export function BenchDrawing({ jobId, version, setup, on, design, overlay, placing, mayEdit }: Props) {
  const { plate } = on;
  const { withUnit } = useUnits();
  const { faces, pitch, width: across, depth } = unrolled(on);
  const { ref, px, viewBox, whole, zoomBy, fitAll, pan, at } = useView(across, depth, 34);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [room, setRoom] = useState<{ key: string; room: Room } | null>(null);
  const [measuring, setMeasuring] = useState(false);
  const [line, setLine] = useState<Line | null>(null);
  const panning = useRef<{ clientX: number; clientY: number; moved: boolean } | null>(null);
  const { stations, selected } = placing;
  const only = selected.size === 1 ? stations.find((station) => selected.has(station.number)) : undefined;
  const face = drag?.face ?? only?.face ?? 0;
  const key = only ? `${String(version)} ${String(only.number)} ${String(only.turn)} ${String(face)}` : "";

  // Where the picked station may stand is asked for as soon as it is picked, so that it is there when it is dragged.
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
  const areas = drag && room?.key === key ? room.room.areas : [];

  const begin = (event: PointerEvent, station: PlacedStation) => {
    const more = event.shiftKey || event.ctrlKey;
    placing.select(station.number, more);
    if (!mayEdit || more || station.locked) return;
    const [x, y] = at(event);
    const on = station.face ?? 0;
    setDrag({
      station,
      face: on,
      grab: { x: x - on * pitch - station.x_mm, y: y - station.y_mm },
      from: event,
      to: null,
    });
  };
  const move = (event: PointerEvent) => {
    if (line && !line.done) setLine({ ...line, to: at(event) });
    const held = panning.current;
    if (held) {
      if (held.moved || Math.hypot(event.clientX - held.clientX, event.clientY - held.clientY) > MOVED_PX) {
        pan(event.clientX - held.clientX, event.clientY - held.clientY);
        panning.current = { clientX: event.clientX, clientY: event.clientY, moved: true };
      }
    }
    if (!drag) return;
    if (!drag.to && Math.hypot(event.clientX - drag.from.clientX, event.clientY - drag.from.clientY) <= MOVED_PX)
      return;
    const [x, y] = at(event);
    const over = Math.min(faces - 1, Math.max(0, Math.floor((x + (pitch - plate.width_mm) / 2) / pitch)));
    const wanted = { x: x - over * pitch - drag.grab.x, y: y - drag.grab.y };
    const others = stations
      .filter(
        (other) =>
          other.number !== drag.station.number &&
          other.turn === drag.station.turn &&
          (other.face ?? 0) === over &&
          (other.kind ?? 0) === (drag.station.kind ?? 0),
      )
      .map((other) => ({ x: other.x_mm, y: other.y_mm }));
    const to = event.altKey
      ? {
          ...wanted,
          x: Math.round(wanted.x * 1000) / 1000,
          y: Math.round(wanted.y * 1000) / 1000,
          row: null,
          column: null,
          touches: false,
        }
      : snapped(wanted, others, areas, placing.step, ATTRACTS_PX * px);
    setDrag({ ...drag, face: over, to });
  };
  const end = () => {
    if (line && !line.done) setLine({ ...line, done: true });
    if (panning.current && !panning.current.moved && !measuring) placing.select(null);
    panning.current = null;
    if (drag?.to) placing.move(drag.station.number, drag.to.x, drag.to.y, drag.face);
    setDrag(null);
  };

  const letGo = () => {
    if (drag) setDrag(null);
    else if (line || measuring) {
      setLine(null);
      setMeasuring(false);
    } else placing.select(null);
  };
  const measure = () => {
    setMeasuring(!measuring);
    setLine(null);
  };
  const keys = benchKeys({
    placing,
    pitch,
    mayMove: mayEdit && design !== null,
    zoomBy,
    fitAll,
    measure: () => setMeasuring(!measuring),
    letGo,
  });

  const ghost = drag?.to && design ? { ...drag.station, face: drag.face, x_mm: drag.to.x, y_mm: drag.to.y } : null;
  const stands = ghost
    ? areas.length === 0 ||
      drag?.to?.touches ||
      areas.some((rings) => contains(rings, { x: ghost.x_mm, y: ghost.y_mm }))
    : true;
  return (
    <div className="drawing" ref={ref}>
      <svg
        viewBox={viewBox}
        data-testid="plate"
        role="application"
        tabIndex={0}
        aria-label={`${faces > 1 ? `${String(faces)} faces` : "Plate"} ${withUnit(plate.width_mm, "mm", 1)} by ${withUnit(depth, "mm", 1)} with ${String(stations.length)} stations. Arrow keys go from station to station.`}
        className={measuring ? "measuring" : ""}
        onKeyDown={keys}
        onPointerDown={(event) => {
          if (event.button !== 0) return;
          const number = (event.target as Element).closest("[data-station]")?.getAttribute("data-station");
          const station = measuring ? undefined : stations.find((item) => String(item.number) === number);
          if (measuring) setLine({ from: at(event), to: at(event), done: false });
          else if (station) begin(event, station);
          else panning.current = { clientX: event.clientX, clientY: event.clientY, moved: false };
          event.currentTarget.setPointerCapture(event.pointerId);
        }}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={() => {
          setDrag(null);
          panning.current = null;
        }}
      >
        <PlateFurniture on={on} design={design} overlay={overlay} px={px}>
          {(there) => (
            <>
              {areas.length > 0 && there === face && (
                <path
                  data-testid="go-region"
                  d={areas.map((rings) => path(rings)).join("")}
                  fillRule="evenodd"
                  fill="var(--within)"
                  fillOpacity="0.16"
                  stroke="var(--within)"
                  strokeWidth={1.2 * px}
                  strokeDasharray={`${String(5 * px)} ${String(3 * px)}`}
                />
              )}
              {design && (
                <Stations
                  stations={stations}
                  face={there}
                  design={design}
                  px={px}
                  overlay={overlay}
                  selected={selected}
                  faint={ghost?.number ?? null}
                />
              )}
            </>
          )}
        </PlateFurniture>
        {design && (
          <Labels
            stations={stations}
            pitch={pitch}
            design={design}
            px={px}
            depth={depth}
            selected={selected}
            without={ghost?.number ?? null}
          />
        )}
        {line && <MeasuredLine line={line} depth={depth} px={px} />}
      </svg>
      {ghost && design && drag && (
        <>
          <Ghost
            ghost={ghost}
            to={drag.to}
            stands={stands}
            design={design}
            viewBox={viewBox}
            px={px}
            pitch={pitch}
            width={plate.width_mm}
            depth={depth}
            selected={selected}
          />
          <GhostLine ghost={ghost} from={drag.station} to={drag.to} stands={stands} known={areas.length > 0} />
        </>
      )}
      <ViewTools zoomBy={zoomBy} fitAll={fitAll} whole={whole} measuring={measuring} measure={measure} />
    </div>
  );
}
