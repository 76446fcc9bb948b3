/** The plate as a bench: stations are picked, dragged, turned and nudged on it; it zooms and pans, and distances can be measured. */
import { useRef, useState, type PointerEvent } from "react";

import type { Design, Room } from "../api/types";
import type { Carrier } from "../editing/here";
import { benchKeys } from "./benchKeys";
import { path, unrolled, usePlateSaid } from "./drawing";
import { Ghost, GhostLine } from "./Ghost";
import { type Line, MeasuredLine } from "./MeasuredLine";
import type { Placing } from "./placing";
import { PlateFurniture } from "./PlateDrawing";
import { contains } from "./snapping";
import type { Overlay } from "./Station";
import { Labels, Stations } from "./StationLayers";
import type { Tip } from "./tip";
import { ToolOver } from "./ToolOver";
import { MOVED_PX, useDrag } from "./useDrag";
import { useView } from "./useView";
import { ViewTools } from "./ViewTools";

interface Props {
  jobId: string;
  version: number;
  setup: number;
  on: Carrier;
  design: Design | null;
  overlay: Overlay;
  placing: Placing;
  mayEdit: boolean;
  /** A tool over the plates. */
  tip?: Tip | null;
}

export function BenchDrawing({ jobId, version, setup, on, design, overlay, placing, mayEdit, tip }: Props) {
  const { plate } = on;
  const plateSaid = usePlateSaid();
  const { faces, pitch, width: across, depth } = unrolled(on);
  const { ref, size, px, viewBox, whole, zoomBy, fitAll, pan, at } = useView(across, depth, 34);
  const { stations, selected } = placing;
  const spread = { faces, pitch, faceWidth: plate.width_mm, px, at };
  const dragging = useDrag({ jobId, version, setup, mayEdit }, placing, spread);
  const { drag, face, areas } = dragging;
  const [measuring, setMeasuring] = useState(false);
  const [line, setLine] = useState<Line | null>(null);
  const panning = useRef<{ clientX: number; clientY: number; moved: boolean } | null>(null);

  const begin = (event: PointerEvent) => {
    if (event.button !== 0) return;
    if (!event.isPrimary) {
      // A second finger: it zooms, and nothing is dragged.
      dragging.drop();
      panning.current = null;
      return;
    }
    const number = (event.target as Element).closest("[data-station]")?.getAttribute("data-station");
    const station = measuring ? undefined : stations.find((item) => String(item.number) === number);
    if (measuring) setLine({ from: at(event), to: at(event), done: false });
    else if (station) dragging.begin(event, station);
    else panning.current = { clientX: event.clientX, clientY: event.clientY, moved: false };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: PointerEvent) => {
    if (!event.isPrimary) return;
    if (line && !line.done) setLine({ ...line, to: at(event) });
    const held = panning.current;
    const far = held && Math.hypot(event.clientX - held.clientX, event.clientY - held.clientY);
    if (held && (held.moved || (far ?? 0) > MOVED_PX)) {
      pan(event.clientX - held.clientX, event.clientY - held.clientY);
      panning.current = { clientX: event.clientX, clientY: event.clientY, moved: true };
    }
    dragging.move(event);
  };
  const end = () => {
    if (line && !line.done) setLine({ ...line, done: true });
    if (panning.current && !panning.current.moved && !measuring) placing.select(null);
    panning.current = null;
    dragging.end();
  };

  const letGo = () => {
    if (drag) dragging.drop();
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
    ? areas === null || drag?.to?.touches || areas.some((rings) => contains(rings, { x: ghost.x_mm, y: ghost.y_mm }))
    : true;
  return (
    <div className="drawing" ref={ref}>
      <svg
        viewBox={viewBox}
        width={size.width}
        height={size.height}
        data-testid="plate"
        role="application"
        tabIndex={0}
        aria-label={`${plateSaid(faces, plate.width_mm, depth, stations.length)}. Arrow keys go from station to station.`}
        className={`${measuring ? "measuring" : ""} ${whole ? "whole" : ""}`}
        onKeyDown={keys}
        onPointerDown={begin}
        onPointerMove={move}
        onPointerUp={end}
        onPointerCancel={() => {
          dragging.drop();
          panning.current = null;
        }}
      >
        <PlateFurniture on={on} design={design} overlay={overlay} px={px}>
          {(there) => (
            <>
              {areas !== null && areas.length > 0 && there === face && <GoRegion areas={areas} px={px} />}
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
              {tip && tip.face === there && <ToolOver tip={tip} px={px} />}
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
          <GhostLine ghost={ghost} from={drag.station} to={drag.to} stands={stands} known={areas !== null} />
        </>
      )}
      <ViewTools zoomBy={zoomBy} fitAll={fitAll} whole={whole} measuring={measuring} measure={measure} />
    </div>
  );
}

function GoRegion({ areas, px }: { areas: Room["areas"]; px: number }) {
  return (
    <path
      data-testid="go-region"
      d={areas.map((rings) => path(rings)).join("")}
      fillRule="evenodd"
      fill="var(--mark)"
      fillOpacity="0.12"
      stroke="var(--mark)"
      strokeWidth={1.2 * px}
      strokeDasharray={`${String(5 * px)} ${String(3 * px)}`}
    />
  );
}
