/** The plate as a bench: stations are picked, dragged, turned and nudged on it; it zooms and pans, and distances can be measured. */
import { memo, useEffect, useRef, useState, type KeyboardEvent, type PointerEvent } from "react";

import { fetchRoom } from "../api/queries";
import type { Design, PlacedStation, Room } from "../api/types";
import type { Carrier } from "../editing/here";
import { useUnits } from "../ui/units";
import { drawingOf, partsOf, path, unrolled } from "./drawing";
import type { Placing } from "./placing";
import { labelPlace, PlateFurniture, StationShape, type Overlay } from "./PlateDrawing";
import { contains, snapped, type Snapped, type Spot } from "./snapping";
import { useView } from "./useView";

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
  const { withUnit, figure } = useUnits();
  const { faces, pitch, width: across, depth } = unrolled(on);
  const { ref, px, viewBox, whole, zoomBy, fitAll, pan, at } = useView(across, depth, 34);
  const [drag, setDrag] = useState<Drag | null>(null);
  const [room, setRoom] = useState<{ key: string; room: Room } | null>(null);
  const [measuring, setMeasuring] = useState(false);
  const [line, setLine] = useState<{ from: [number, number]; to: [number, number]; done: boolean } | null>(null);
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

  const keys = (event: KeyboardEvent) => {
    const key = event.key;
    if (key === "Escape") {
      if (drag) setDrag(null);
      else if (line || measuring) {
        setLine(null);
        setMeasuring(false);
      } else placing.select(null);
      return;
    }
    const towards: Record<string, [number, number]> = {
      ArrowRight: [1, 0],
      ArrowLeft: [-1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    };
    const direction = towards[key];
    const act = (what: () => void) => {
      event.preventDefault();
      event.stopPropagation();
      what();
    };
    if (direction && event.shiftKey && mayEdit) {
      const step = event.ctrlKey ? placing.step / 10 : placing.step;
      act(() => placing.nudge(direction[0] * step, direction[1] * step));
    } else if (direction) act(() => walk(direction));
    else if (key === "+" || key === "=") act(() => zoomBy(1.3));
    else if (key === "-") act(() => zoomBy(1 / 1.3));
    else if (key === "0") act(fitAll);
    else if (event.ctrlKey || event.metaKey || event.altKey) return;
    else if (key.toLowerCase() === "m") act(() => setMeasuring(!measuring));
    else if (mayEdit && design) {
      const does: Record<string, () => void> = {
        t: () => placing.turn(90),
        f: () => placing.turn(180),
        l: placing.lock,
        d: () => placing.repeat("+X", 1),
        a: placing.add,
        n: () => placing.toFace(1),
        Delete: placing.remove,
        Backspace: placing.remove,
      };
      const action = does[key.length === 1 ? key.toLowerCase() : key];
      if (action) act(action);
    }
  };

  /** To the next station in a direction. */
  const walk = ([dx, dy]: [number, number]) => {
    const from = only ?? stations.find((station) => selected.has(station.number));
    if (!from) return placing.select(stations[0]?.number ?? null);
    let best: { number: number; cost: number } | null = null;
    for (const other of stations) {
      const [right, up] = [
        other.x_mm - from.x_mm + ((other.face ?? 0) - (from.face ?? 0)) * pitch,
        other.y_mm - from.y_mm,
      ];
      const along = right * dx + up * dy;
      const aside = Math.abs(right * dy) + Math.abs(up * dx);
      const cost = along + 2 * aside;
      if (along > 0.5 && (best === null || cost < best.cost)) best = { number: other.number, cost };
    }
    if (best) placing.select(best.number);
  };

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
        style={{ cursor: measuring ? "crosshair" : undefined }}
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
          {(on) => (
            <>
              {areas.length > 0 && on === face && (
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
                  face={on}
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
        {line && <Measured line={line} depth={depth} px={px} />}
      </svg>
      {ghost && design && (
        // A picture of its own over the other: what stands still is not drawn again with every move.
        <svg viewBox={viewBox} className="ghost-layer" aria-hidden>
          <g
            transform={`translate(${String(ghost.face * pitch)} ${String(depth)}) scale(1 -1)`}
            opacity="0.9"
            data-testid="ghost"
            data-stands={stands ? "yes" : "no"}
            style={{ color: stands ? "var(--within)" : "var(--over)" }}
          >
            <Guides to={drag?.to ?? null} width={plate.width_mm} depth={depth} px={px} />
            <StationShape
              station={{ ...ghost, faults: stands ? [] : ["here"] }}
              drawing={drawingOf(design, ghost)}
              px={px}
              overlay="none"
              chosen
            />
          </g>
          <Labels
            stations={[ghost]}
            pitch={pitch}
            design={design}
            px={px}
            depth={depth}
            selected={selected}
            without={null}
          />
        </svg>
      )}
      <div className="view-tools" onPointerDown={(event) => event.stopPropagation()}>
        <button type="button" title="Nearer (+)" aria-label="Nearer" onClick={() => zoomBy(1.4)}>
          +
        </button>
        <button type="button" title="Farther (-)" aria-label="Farther" disabled={whole} onClick={() => zoomBy(1 / 1.4)}>
          −
        </button>
        <button type="button" title="Whole plate (0)" disabled={whole} onClick={fitAll}>
          Fit
        </button>
        <button
          type="button"
          title="Measure a distance (M)"
          aria-pressed={measuring}
          onClick={() => {
            setMeasuring(!measuring);
            setLine(null);
          }}
        >
          Measure
        </button>
      </div>
      {ghost && (
        <div className="drag-line mono" role="status">
          X{figure(ghost.x_mm, "mm", 2)} Y{figure(ghost.y_mm, "mm", 2)}, moved{" "}
          {figure(ghost.x_mm - (drag?.station.x_mm ?? 0), "mm", 2)},{" "}
          {figure(ghost.y_mm - (drag?.station.y_mm ?? 0), "mm", 2)}
          {drag?.to?.row ? `, in row, ${withUnit(Math.abs(drag.to.row.x - ghost.x_mm), "mm", 2)} along` : ""}
          {drag?.to?.column
            ? `, in column, ${withUnit(Math.abs(drag.to.column.y - ghost.y_mm), "mm", 2)} up or down`
            : ""}
          {drag?.to?.touches ? ", touching" : ""}
          {stands ? "" : ": does not stand clear here"}
          {areas.length > 0 && <span className="quiet"> green: where its datum corner may be</span>}
        </div>
      )}
    </div>
  );
}

interface Layer {
  stations: PlacedStation[];
  design: Design;
  px: number;
  selected: ReadonlySet<number>;
}

/** Every station where it stands. Hundreds of them do not change while one is dragged, and are not drawn again. */
const Stations = memo(function Stations({
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
      <g key={station.number} opacity={faint === station.number ? 0.25 : 1}>
        <StationShape
          station={station}
          drawing={drawingOf(design, station)}
          px={px}
          overlay={overlay}
          chosen={selected.has(station.number)}
        />
      </g>
    ));
});

/** Numbers, locks, and what can be taken hold of. */
const Labels = memo(function Labels({
  stations,
  pitch,
  design,
  px,
  depth,
  selected,
  without,
}: Layer & { pitch: number; depth: number; without: number | null }) {
  return stations.map((station) => {
    if (station.number === without) return null;
    const [x, y] = labelPlace(drawingOf(design, station), station);
    const wrong = (station.faults ?? []).length > 0;
    return (
      <g
        key={station.number}
        className="station"
        role="button"
        aria-label={`Station ${String(station.number)}${station.locked ? ", locked" : ""}${wrong ? `, ${(station.faults ?? []).join(", ")}` : ""}`}
        aria-pressed={selected.has(station.number)}
        data-station={station.number}
        transform={`translate(${String((station.face ?? 0) * pitch)} 0)`}
      >
        <HitArea station={station} design={design} depth={depth} />
        <circle
          cx={x}
          cy={depth - y}
          r={11 * px}
          fill={wrong ? "var(--over)" : "var(--sheet)"}
          fillOpacity={wrong ? 1 : 0.86}
        />
        <text
          x={x}
          y={depth - y + 4.7 * px}
          fontSize={13.5 * px}
          fontFamily="IBM Plex Mono"
          fontWeight="500"
          textAnchor="middle"
          fill={wrong ? "var(--sheet)" : "var(--ink)"}
        >
          {station.number}
        </text>
        {station.locked && (
          <path
            d={`M${String(x + 9 * px)} ${String(depth - y - 12 * px)}h${String(9 * px)}v${String(8 * px)}h${String(-9 * px)}zm${String(2 * px)} 0v${String(-3 * px)}a${String(2.5 * px)} ${String(2.5 * px)} 0 0 1 ${String(5 * px)} 0v${String(3 * px)}`}
            fill="var(--ink)"
            fillRule="evenodd"
            stroke="var(--ink)"
            strokeWidth={px}
          />
        )}
      </g>
    );
  });
});

/** What can be grabbed: the part and everything round it. */
function HitArea({ station, design, depth }: { station: PlacedStation; design: Design; depth: number }) {
  const drawing = drawingOf(design, station);
  const rings = [...partsOf(drawing).map((part) => part[0] ?? []), ...drawing.stops, ...drawing.clamps];
  return (
    <path
      transform={`translate(${String(station.x_mm)} ${String(depth - station.y_mm)}) scale(1 -1) rotate(${String(station.turn)})`}
      d={path(rings)}
      fill="transparent"
    />
  );
}

/** Lines to what the station came to rest in line with. */
function Guides({ to, width, depth, px }: { to: Snapped | null; width: number; depth: number; px: number }) {
  if (!to) return null;
  const dashed = {
    stroke: "currentColor",
    strokeWidth: 1.2 * px,
    strokeDasharray: `${String(7 * px)} ${String(4 * px)}`,
    fill: "none",
  };
  return (
    <>
      {to.row && <path d={`M0 ${String(to.row.y)}H${String(width)}`} {...dashed} />}
      {to.column && <path d={`M${String(to.column.x)} 0V${String(depth)}`} {...dashed} />}
    </>
  );
}

function Measured({
  line,
  depth,
  px,
}: {
  line: { from: [number, number]; to: [number, number] };
  depth: number;
  px: number;
}) {
  const { withUnit, figure } = useUnits();
  const [ax, ay] = line.from;
  const [bx, by] = line.to;
  const said = `${withUnit(Math.hypot(bx - ax, by - ay), "mm", 2)}  (${figure(Math.abs(bx - ax), "mm", 2)}, ${figure(Math.abs(by - ay), "mm", 2)})`;
  return (
    <g data-testid="measured" pointerEvents="none">
      <path
        d={`M${String(ax)} ${String(depth - ay)}L${String(bx)} ${String(depth - by)}`}
        stroke="var(--mark)"
        strokeWidth={1.8 * px}
      />
      {[line.from, line.to].map(([x, y], index) => (
        <path
          key={index}
          d={`M${String(x - 5 * px)} ${String(depth - y)}h${String(10 * px)}M${String(x)} ${String(depth - y - 5 * px)}v${String(10 * px)}`}
          stroke="var(--mark)"
          strokeWidth={1.4 * px}
        />
      ))}
      <text
        x={(ax + bx) / 2}
        y={depth - (ay + by) / 2 - 8 * px}
        fontSize={14 * px}
        fontFamily="IBM Plex Mono"
        fontWeight="600"
        textAnchor="middle"
        fill="var(--mark)"
        stroke="var(--sheet)"
        strokeWidth={4 * px}
        paintOrder="stroke"
      >
        {said}
      </text>
    </g>
  );
}
