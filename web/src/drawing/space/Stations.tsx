/** What stands on a face: workpieces in the hatch of their op, stops, clamps, screws, numbers. */
import { useMemo } from "react";
import * as THREE from "three";

import type { Design, PlacedStation } from "../../api/types";
import { colours } from "../../ui/theme";
import { drawingOf, hatchOf, middleOf, type Ring } from "../drawing";
import { hatched } from "./hatch";
import { Label } from "./Label";

/** Of each op, as light falls on it: the inks of the flat drawing, on steel. */
const INKS = ["#9db0e3", "#b4cfdc", "#bac3c9", "#9aa3a8"];

/** How low the bodies of a kind reach under what its part stands on. */
export const lowest = ({ drawing }: Design["kinds"][number]): number =>
  Math.min(0, ...(drawing.bodies ?? []).map((body) => body.low_mm ?? 0));

function solid(rings: readonly Ring[], height: number): THREE.ExtrudeGeometry {
  const points = (ring: Ring) => ring.map(([x, y]) => new THREE.Vector2(x, y));
  const shape = new THREE.Shape(points(rings[0] ?? []));
  shape.holes = rings.slice(1).map((ring) => new THREE.Path(points(ring)));
  return new THREE.ExtrudeGeometry(shape, { depth: height, bevelEnabled: false });
}

export function Stations({
  design,
  workpieces,
  stations,
  selected,
  select,
  steel,
  dark,
}: {
  design: Design;
  workpieces: readonly THREE.BufferGeometry[];
  stations: PlacedStation[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  steel: string;
  dark: boolean;
}) {
  const ink = colours(dark ? "dark" : "light");
  const shapes = useMemo(
    () =>
      design.kinds.map((kind) => ({
        // what kinds stand on, two stations of a vise, may be of different heights; they end on one table
        up: Math.min(0, ...design.kinds.map(lowest)) - lowest(kind),
        places: kind.drawing.places ?? [{}],
        stops: kind.drawing.stops.map((ring) => solid([ring as Ring], kind.drawing.stop_height_mm)),
        clamps: (kind.drawing.bodies ?? [])
          .filter((body) => body.name === "clamp")
          .map((body) => ({
            low: body.low_mm ?? 0,
            geometry: solid([body.outer as Ring], (body.high_mm ?? 1) - (body.low_mm ?? 0)),
          })),
      })),
    [design],
  );
  return stations.map((station) => {
    const shape = shapes[station.kind ?? 0];
    if (!shape) return null;
    const chosen = selected.has(station.number);
    const wrong = (station.faults ?? []).length > 0;
    return (
      <group
        key={station.number}
        position={[station.x_mm, station.y_mm, shape.up]}
        rotation={[0, 0, (station.turn * Math.PI) / 180]}
      >
        {shape.places.map((place, index) => (
          <group
            key={index}
            position={[place.x_mm ?? 0, place.y_mm ?? 0, 0]}
            rotation={[0, 0, place.half_turn ? Math.PI : 0]}
          >
            <mesh
              geometry={workpieces[station.kind ?? 0]}
              rotation={[Math.PI / 2, 0, 0]}
              onClick={(event) => {
                event.stopPropagation();
                select(station.number);
              }}
            >
              <meshStandardMaterial
                key={String(hatchOf(design, station.kind ?? 0))}
                color={wrong ? ink.over : chosen ? ink.mark : INKS[hatchOf(design, station.kind ?? 0)]}
                onBeforeCompile={hatched(hatchOf(design, station.kind ?? 0))}
                customProgramCacheKey={() => `hatch ${String(hatchOf(design, station.kind ?? 0))}`}
                side={THREE.DoubleSide}
              />
            </mesh>
          </group>
        ))}
        {shape.stops.map((geometry, index) => (
          <mesh key={index} geometry={geometry}>
            <meshStandardMaterial color="#4b565c" />
          </mesh>
        ))}
        {shape.clamps.map((clamp, index) => (
          <mesh key={index} geometry={clamp.geometry} position={[0, 0, clamp.low]}>
            <meshStandardMaterial color={steel} />
          </mesh>
        ))}
        {drawingOf(design, station).screws.map((at, index) => (
          <mesh
            key={index}
            position={[at[0] as number, at[1] as number, drawingOf(design, station).clamp_height_mm + 3]}
            rotation={[Math.PI / 2, 0, 0]}
          >
            <cylinderGeometry
              args={[
                drawingOf(design, station).screw_diameter_mm / 2,
                drawingOf(design, station).screw_diameter_mm / 2,
                8,
                16,
              ]}
            />
            <meshStandardMaterial color="#2b3439" />
          </mesh>
        ))}
        <Label
          text={String(station.number)}
          at={[...middleOf(drawingOf(design, station)), top(workpieces[station.kind ?? 0])]}
          ink={wrong || chosen ? (dark ? "#14191D" : "#FFFFFF") : ink.ink}
          paper={wrong ? ink.over : chosen ? ink.mark : ink.sheet}
        />
      </group>
    );
  });
}

/** A number floats so far above its part that what leans towards the reader does not hide it. */
const OFF_MM = 24;

/** Where a number stands above a workpiece, whose Y is up. */
function top(geometry: THREE.BufferGeometry | undefined): number {
  if (!geometry) return 0;
  if (!geometry.boundingBox) geometry.computeBoundingBox();
  return (geometry.boundingBox?.max.y ?? 0) + OFF_MM;
}
