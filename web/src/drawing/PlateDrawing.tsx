import { useCallback, useId, type ReactNode } from "react";

import type { Design } from "../api/types";
import type { Carrier } from "../editing/here";
import { useUnits } from "../ui/units";
import { drawingOf, hatchOf, path, pensOf, scaleBar, unrolled, usePlateSaid, useScale } from "./drawing";
import { cornerOf, Hatches, type Overlay, StationNumber } from "./Station";
import { Stations } from "./StationLayers";
import { pen } from "../ui/pen";

interface Props {
  on: Carrier;
  design: Design | null;
  overlay?: Overlay;
  selected?: number | null;
  select?: (station: number | null) => void;
}

/** Hatch as well as hue tells ops apart: diagonal, dotted, crossed, level lines. */
const INKS = ["var(--mark)", "var(--op-two)", "var(--op-three)", "var(--ink)"];

function HatchPatterns({ id, px }: { id: string; px: number }) {
  const step = 7 * px;
  const line = { strokeOpacity: 0.55, strokeWidth: 1.1 * px };
  return (
    <defs>
      {INKS.map((ink, index) => (
        <pattern
          key={ink}
          id={`${id}-${String(index)}`}
          width={step}
          height={step}
          patternUnits="userSpaceOnUse"
          patternTransform={index === 0 ? "rotate(45)" : index === 2 ? "rotate(45)" : undefined}
        >
          <rect width={step} height={step} fill={index === 0 ? "var(--wash)" : "var(--sheet)"} />
          {index === 1 ? (
            <circle cx={step / 2} cy={step / 2} r={1.15 * px} fill={ink} fillOpacity="0.75" />
          ) : (
            <line x1="0" y1="0" x2={index === 3 ? step : 0} y2={index === 3 ? 0 : step} stroke={ink} {...line} />
          )}
          {index === 2 && <line x1="0" y1="0" x2={step} y2="0" stroke={ink} {...line} />}
        </pattern>
      ))}
    </defs>
  );
}

interface Furniture {
  on: Carrier;
  design: Design | null;
  overlay: Overlay;
  px: number;
}

/** The bare faces side by side with margin, keep-outs, datum and scale bar; ``children`` gives what stands on one, in mm, Y up. */
export function PlateFurniture({
  on,
  design,
  overlay,
  px,
  children,
}: Furniture & { children: (face: number) => ReactNode }) {
  const { plate } = on;
  const { withUnit, plain, system } = useUnits();
  // Its name says what it was picked as; what is drawn is as wide and deep as it was typed since.
  const sized = `Plate ${plain(plate.width_mm, "mm")} x ${withUnit(plate.depth_mm, "mm", 1).replace(/\.0 /, " ")}`;
  const id = useId().replace(/[^a-zA-Z0-9]/g, "");
  const { faces, pitch, width, depth } = unrolled(on);
  const bar = system === "inch" ? scaleBar(plate.width_mm / 25.4) * 25.4 : scaleBar(plate.width_mm);
  // By the ops alone: what stands where changes with every move, and stations that stay are not drawn again.
  const ops = (design?.kinds ?? []).map((_unused, kind) => (design ? hatchOf(design, kind) : 0)).join(" ");
  const hatch = useCallback((kind: number) => `url(#${id}-${ops.split(" ")[kind] ?? "0"})`, [id, ops]);
  return (
    <Hatches.Provider value={hatch}>
      <HatchPatterns id={id} px={px} />
      {Array.from({ length: faces }, (_, face) => (
        <g key={face} transform={pen`translate(${face * pitch} 0)`}>
          {faces > 1 && <FaceName design={design} face={face} width={plate.width_mm} px={px} />}
          <g transform={pen`translate(0 ${depth}) scale(1 -1)`}>
            <Bare on={on} design={design} overlay={overlay} px={px} />
            {children(face)}
          </g>
        </g>
      ))}
      <g stroke="var(--ink)" strokeWidth={1.3 * px} fill="none">
        <path d={pen`M0 ${depth + 13 * px}v${8 * px}M0 ${depth + 17 * px}h${bar}m0 ${-4 * px}v${8 * px}`} />
      </g>
      <text x={bar + 7 * px} y={depth + 22 * px} fontSize={13.5 * px} fill="var(--quiet)">
        {withUnit(bar, "mm", 0).replace(/\.0+ /, " ")}
      </text>
      <text x={bar + 80 * px} y={depth + 22 * px} fontSize={13.5 * px} fill="var(--quiet)">
        {width / px > 330 ? (faces > 1 ? "left to right: faces as the block turns" : sized) : ""}
      </text>
    </Hatches.Provider>
  );
}

function FaceName({ design, face, width, px }: { design: Design | null; face: number; width: number; px: number }) {
  const here = design?.stations.filter((station) => (station.face ?? 0) === face) ?? [];
  const kinds = [...new Set(here.map((station) => station.kind ?? 0))].sort();
  const several = (design?.kinds.length ?? 0) > 1;
  const said = kinds
    .map((kind) => {
      const count = String(here.filter((station) => (station.kind ?? 0) === kind).length);
      return several ? `op ${String(design?.kinds[kind]?.op_number ?? "")} · ${count}` : count;
    })
    .join(", ");
  const wide = width / px > 150;
  return (
    <>
      <text x={0} y={-7 * px} fontSize={16 * px} fontWeight="600" fill="var(--ink)">
        {design?.faces?.[face] ?? `Face ${String(face + 1)}`}
      </text>
      {wide && (
        <text x={width} y={-7 * px} fontSize={13 * px} fill="var(--quiet)" textAnchor="end">
          {said && (kinds.length > 1 || (design?.kinds.length ?? 0) > 1 ? said : `${said} stations`)}
        </text>
      )}
    </>
  );
}

/** One face with nothing on it. Y up. */
function Bare({ on, design, overlay, px }: Furniture) {
  const { plate, zeros } = on;
  const { width_mm: width, depth_mm: depth } = plate;
  const margin = plate.margin_mm ?? 0;
  const w = 11 * px;
  const region = design?.kinds.find((kind) => kind.tolerance_region)?.tolerance_region;
  return (
    <>
      <rect width={width} height={depth} fill="var(--face)" stroke="var(--ink)" strokeWidth={1.6 * px} />
      <rect
        x={margin}
        y={margin}
        width={Math.max(0, width - 2 * margin)}
        height={Math.max(0, depth - 2 * margin)}
        fill="none"
        stroke="var(--steel)"
        strokeWidth={0.8 * px}
        strokeDasharray={`${String(4 * px)} ${String(4 * px)}`}
      />
      {region && overlay === "tolerance" && <OutOfTolerance region={region} width={width} depth={depth} px={px} />}
      {(plate.keepouts ?? []).map((item, index) =>
        item.shape === "box" ? (
          <rect
            key={index}
            x={item.x_mm - item.width_mm / 2}
            y={item.y_mm - (item.depth_mm ?? item.width_mm) / 2}
            width={item.width_mm}
            height={item.depth_mm ?? item.width_mm}
            fill="var(--paper)"
            stroke="var(--ink)"
            strokeWidth={px}
          />
        ) : (
          <g key={index} stroke="var(--ink)" strokeWidth={px} fill="var(--paper)">
            <circle cx={item.x_mm} cy={item.y_mm} r={item.width_mm / 2} />
            <path
              d={pen`M${item.x_mm - item.width_mm / 4} ${item.y_mm}h${item.width_mm / 2}M${item.x_mm} ${item.y_mm - item.width_mm / 4}
                 v${item.width_mm / 2}`}
            />
          </g>
        ),
      )}
      <path
        d={pen`M${zeros.x_mm ?? 0} ${zeros.y_mm ?? 0}v${1.6 * w}L${(zeros.x_mm ?? 0) + 1.6 * w} ${zeros.y_mm ?? 0}Z`}
        fill="var(--mark)"
      />
    </>
  );
}

/** The faces from above with every station in place, to scale, to look at and pick from. */
export function PlateDrawing({ on, design, overlay = "none", selected = null, select }: Props) {
  const { faces, pitch, width, depth } = unrolled(on);
  const { ref, px, viewBox } = useScale(width, depth, 34);
  const plateSaid = usePlateSaid();
  const stations = design?.stations ?? [];
  const chosen = new Set(selected === null ? [] : [selected]);
  return (
    <div className="drawing" ref={ref}>
      <svg
        viewBox={viewBox}
        data-testid="plate"
        role="group"
        aria-label={plateSaid(faces, on.plate.width_mm, depth, stations.length)}
        onClick={() => select?.(null)}
      >
        <PlateFurniture on={on} design={design} overlay={overlay} px={px}>
          {(face) =>
            design && (
              <Stations
                stations={stations}
                face={face}
                design={design}
                px={px}
                overlay={overlay}
                selected={chosen}
                faint={null}
              />
            )
          }
        </PlateFurniture>
        {overlay === "tolerance" && design && (
          <LeftOut design={design} pitch={pitch} depth={depth} px={px} selected={selected} select={select} />
        )}
        {design &&
          stations.map((station) => {
            return (
              <g
                key={station.number}
                className="station"
                data-station={station.number}
                transform={pen`translate(${(station.face ?? 0) * pitch} 0)`}
                onClick={(event) => {
                  event.stopPropagation();
                  select?.(station.number);
                }}
              >
                <StationNumber
                  number={station.number}
                  corner={cornerOf(drawingOf(design, station), station)}
                  depth={depth}
                  px={px}
                  wrong={false}
                />
              </g>
            );
          })}
      </svg>
    </div>
  );
}

/** Stations that have room and are not placed, because a feature would miss its tolerance there. */
function LeftOut({
  design,
  pitch,
  depth,
  px,
  selected,
  select,
}: {
  design: Design;
  pitch: number;
  depth: number;
  px: number;
  selected: number | null;
  select?: ((station: number | null) => void) | undefined;
}) {
  return (design.left_out ?? []).map((item, index) => {
    const number = design.stations.length + index + 1;
    const drawing = design.kinds[item.kind]?.drawing;
    if (!drawing) return null;
    const { x, y } = cornerOf(drawing, item);
    return (
      <g
        key={number}
        className="station"
        data-left-out={number}
        transform={pen`translate(${item.face * pitch} 0)`}
        onClick={(event) => {
          event.stopPropagation();
          select?.(number);
        }}
      >
        <g transform={pen`translate(0 ${depth}) scale(1 -1) translate(${item.x_mm} ${item.y_mm}) rotate(${item.turn})`}>
          <path
            d={pensOf(drawing).parts}
            fillRule="evenodd"
            fill="var(--over)"
            fillOpacity={number === selected ? 0.3 : 0.12}
            stroke="var(--over)"
            strokeWidth={(number === selected ? 3 : 1.4) * px}
            strokeDasharray={`${String(6 * px)} ${String(4 * px)}`}
          />
        </g>
        <text
          className="number wrong"
          x={x + 3.5 * px}
          y={depth - y + 13 * px}
          fontSize={12.5 * px}
          strokeWidth={3 * px}
        >
          {number}
        </text>
      </g>
    );
  });
}

/** Shades the part of the plate where a feature would miss its tolerance. */
function OutOfTolerance({
  region,
  width,
  depth,
  px,
}: {
  region: number[][][];
  width: number;
  depth: number;
  px: number;
}) {
  const plate = [[[0, 0], [width, 0], [width, depth], [0, depth]]]; // prettier-ignore
  return (
    <path
      d={path([...plate, ...region])}
      fillRule="evenodd"
      fill="var(--over)"
      fillOpacity="0.16"
      stroke="var(--over)"
      strokeWidth={px}
      strokeDasharray={`${String(5 * px)} ${String(3 * px)}`}
    />
  );
}
