import { useId, type KeyboardEvent } from "react";

import type { Design, Drawing, PlacedStation, PlanRequest } from "../api/types";
import { useUnits } from "../ui/units";
import { bounds, path, scaleBar, turned, useScale } from "./drawing";

export type Overlay = "none" | "tolerance" | "sweep";

interface Props {
  request: PlanRequest;
  design: Design | null;
  overlay?: Overlay;
  selected?: number | null;
  select?: (station: number | null) => void;
}

/** The plate from above with every station in place, to scale. */
export function PlateDrawing({ request, design, overlay = "none", selected = null, select }: Props) {
  const { plate } = request;
  const width = plate.width_mm;
  const depth = plate.depth_mm;
  const { ref, px, viewBox } = useScale(width, depth, 34);
  const { withUnit, system } = useUnits();
  const id = useId().replace(/[^a-zA-Z0-9]/g, "");
  const inch = system === "inch";
  const bar = inch ? scaleBar(width / 25.4) * 25.4 : scaleBar(width);
  const stations = design?.stations ?? [];
  const margin = plate.margin_mm ?? 0;
  const datum = request.datum;
  const w = 11 * px;

  const step = (event: KeyboardEvent, station: PlacedStation) => {
    const towards: Record<string, [number, number]> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };
    const direction = towards[event.key];
    if (event.key === "Escape") select?.(null);
    if (!direction) return;
    event.preventDefault();
    const [dx, dy] = direction;
    let best: { number: number; cost: number } | null = null;
    for (const other of stations) {
      const along = (other.feature_x_mm - station.feature_x_mm) * dx + (other.feature_y_mm - station.feature_y_mm) * dy;
      const aside = Math.abs((other.feature_x_mm - station.feature_x_mm) * dy) + Math.abs((other.feature_y_mm - station.feature_y_mm) * dx);
      const cost = along + 2 * aside;
      if (along > 0.5 && (best === null || cost < best.cost)) best = { number: other.number, cost };
    }
    if (best) {
      select?.(best.number);
      document.getElementById(`${id}-s${String(best.number)}`)?.focus();
    }
  };

  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} data-testid="plate" role="group" aria-label={`Plate ${withUnit(width, "mm", 1)} by ${withUnit(depth, "mm", 1)} with ${String(stations.length)} stations`} onClick={() => select?.(null)}>
        <defs>
          <pattern id={`${id}-op10`} width={7 * px} height={7 * px} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <rect width={7 * px} height={7 * px} fill="var(--wash)" />
            <line x1="0" y1="0" x2="0" y2={7 * px} stroke="var(--mark)" strokeOpacity="0.55" strokeWidth={1.1 * px} />
          </pattern>
        </defs>
        <g transform={`translate(0 ${String(depth)}) scale(1 -1)`}>
          <rect width={width} height={depth} fill="var(--face)" stroke="var(--ink)" strokeWidth={1.6 * px} />
          <rect x={margin} y={margin} width={Math.max(0, width - 2 * margin)} height={Math.max(0, depth - 2 * margin)} fill="none" stroke="var(--steel)" strokeWidth={0.8 * px} strokeDasharray={`${String(4 * px)} ${String(4 * px)}`} />
          {design?.tolerance_region && overlay === "tolerance" && <OutOfTolerance region={design.tolerance_region} width={width} depth={depth} px={px} />}
          {(plate.keepouts ?? []).map((item, index) =>
            item.shape === "box" ? (
              <rect key={index} x={item.x_mm - item.width_mm / 2} y={item.y_mm - (item.depth_mm ?? item.width_mm) / 2} width={item.width_mm} height={item.depth_mm ?? item.width_mm} fill="var(--paper)" stroke="var(--ink)" strokeWidth={px} />
            ) : (
              <g key={index} stroke="var(--ink)" strokeWidth={px} fill="var(--paper)">
                <circle cx={item.x_mm} cy={item.y_mm} r={item.width_mm / 2} />
                <path d={`M${String(item.x_mm - item.width_mm / 4)} ${String(item.y_mm)}h${String(item.width_mm / 2)}M${String(item.x_mm)} ${String(item.y_mm - item.width_mm / 4)}v${String(item.width_mm / 2)}`} />
              </g>
            ),
          )}
          {datum && <path d={`M${String(datum.x_mm ?? 0)} ${String(datum.y_mm ?? 0)}v${String(1.6 * w)}L${String((datum.x_mm ?? 0) + 1.6 * w)} ${String(datum.y_mm ?? 0)}Z`} fill="var(--mark)" />}
          {design &&
            stations.map((station) => (
              <StationShape key={station.number} station={station} drawing={design.drawing} hatch={`url(#${id}-op10)`} px={px} overlay={overlay} chosen={station.number === selected} />
            ))}
        </g>
        {design &&
          stations.map((station) => {
            const [x, y] = labelPlace(design.drawing, station);
            return (
              <g
                key={station.number}
                id={`${id}-s${String(station.number)}`}
                className="station"
                tabIndex={selected === station.number || (selected === null && station.number === 1) ? 0 : -1}
                role="button"
                aria-label={`Station ${String(station.number)}`}
                data-station={station.number}
                onFocus={() => select?.(station.number)}
                onKeyDown={(event) => step(event, station)}
                onClick={(event) => {
                  event.stopPropagation();
                  select?.(station.number);
                }}
              >
                <circle cx={x} cy={depth - y} r={11 * px} fill="var(--sheet)" fillOpacity="0.86" />
                <text x={x} y={depth - y + 4.7 * px} fontSize={13.5 * px} fontFamily="IBM Plex Mono" fontWeight="500" textAnchor="middle" fill="var(--ink)">
                  {station.number}
                </text>
              </g>
            );
          })}
        <g stroke="var(--ink)" strokeWidth={1.3 * px} fill="none">
          <path d={`M0 ${String(depth + 13 * px)}v${String(8 * px)}M0 ${String(depth + 17 * px)}h${String(bar)}m0 ${String(-4 * px)}v${String(8 * px)}`} />
        </g>
        <text x={bar + 7 * px} y={depth + 22 * px} fontSize={13.5 * px} fill="var(--quiet)">
          {withUnit(bar, "mm", 0).replace(/\.0+ /, " ")}
        </text>
        <text x={width} y={depth + 22 * px} fontSize={13.5 * px} fill="var(--quiet)" textAnchor="end">
          {width / px > 330 ? plate.name : ""}
        </text>
      </svg>
    </div>
  );
}

/** In the middle of the part, moved down beside a hole that is there. */
function labelPlace(drawing: Drawing, station: PlacedStation): [number, number] {
  const [outer = [], ...holes] = drawing.part;
  const box = bounds(outer);
  const [fx, fy] = (drawing.features[0] ?? [(box.left + box.right) / 2, (box.low + box.high) / 2]) as [number, number];
  const [x, middle] = turned(fx, fy, station.turn);
  let y = middle;
  for (const hole of holes) {
    const h = bounds(hole);
    if (fx > h.left && fx < h.right && fy > h.low && fy < h.high) y -= (Math.min(h.high - h.low, h.right - h.left) + Math.min(box.right, box.high)) / 4;
  }
  return [station.x_mm + x, station.y_mm + y];
}

function shareColour(share: number): string {
  return share > 1 ? "var(--over)" : share >= 0.9 ? "var(--close)" : "var(--within)";
}

function StationShape({ station, drawing, hatch, px, overlay, chosen }: { station: PlacedStation; drawing: Drawing; hatch: string; px: number; overlay: Overlay; chosen: boolean }) {
  const w = 8 * px;
  const thin = { stroke: "var(--ink)", strokeWidth: px };
  return (
    <g transform={`translate(${String(station.x_mm)} ${String(station.y_mm)}) rotate(${String(station.turn)})`}>
      {overlay === "sweep" && <path d={path(drawing.sweep)} fill="var(--mark)" fillOpacity="0.07" />}
      <path d={path(drawing.sweep.slice(0, 1))} fill="none" stroke="var(--steel)" strokeWidth={0.9 * px} strokeDasharray={`${String(3 * px)} ${String(3 * px)}`} />
      {drawing.stops.map((ring, index) => (
        <path key={index} d={path([ring])} fill="var(--steel)" />
      ))}
      {drawing.clamps.map((ring, index) => (
        <path key={index} d={path([ring])} fill="var(--steel)" fillOpacity="0.75" {...thin} strokeOpacity="0.5" />
      ))}
      {drawing.screws.map((at, index) => (
        <circle key={index} cx={at[0] as number} cy={at[1] as number} r={drawing.screw_diameter_mm / 2} fill="var(--sheet)" {...thin} />
      ))}
      <path d={path(drawing.part)} fillRule="evenodd" fill={overlay === "tolerance" ? shareColour(station.tolerance_share) : hatch} fillOpacity={overlay === "tolerance" ? 0.25 + 0.5 * Math.min(1, station.tolerance_share) : 1} stroke={chosen ? "var(--mark)" : "var(--ink)"} strokeWidth={(chosen ? 3.4 : 1.4) * px} />
      <path d={`M${String(-w)} 0V${String(-w)}H0Z`} fill="var(--mark)" />
    </g>
  );
}

/** Shades the part of the plate where a feature would miss its tolerance. */
function OutOfTolerance({ region, width, depth, px }: { region: number[][][]; width: number; depth: number; px: number }) {
  const plate = [[[0, 0], [width, 0], [width, depth], [0, depth]]]; // prettier-ignore
  return <path d={path([...plate, ...region])} fillRule="evenodd" fill="var(--over)" fillOpacity="0.16" stroke="var(--over)" strokeWidth={px} strokeDasharray={`${String(5 * px)} ${String(3 * px)}`} />;
}
