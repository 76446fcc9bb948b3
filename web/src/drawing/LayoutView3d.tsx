/** The layout on the machine's table or round its block, in 3-D. Its own chunk: three.js loads with it. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { Design, PlacedStation } from "../api/types";
import type { Carrier } from "../editing/here";
import { drawingOf, hatchOf, partsOf, type Ring } from "./drawing";

const OPS = ["#5f7fd0", "#4f9a78", "#d09a3c", "#8a949a"];

export default function LayoutView3d({
  on,
  design,
  selected,
  select,
  dark,
}: {
  on: Carrier;
  design: Design;
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  dark: boolean;
}) {
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ fov: 30, near: 1, far: 100_000 }}
      aria-label="The layout in 3-D; drag to turn it"
      tabIndex={0}
      onPointerMissed={() => select(null)}
    >
      <Scene on={on} design={design} selected={selected} select={select} dark={dark} />
    </Canvas>
  );
}

function solid(rings: readonly Ring[], height: number): THREE.ExtrudeGeometry {
  const points = (ring: Ring) => ring.map(([x, y]) => new THREE.Vector2(x, y));
  const shape = new THREE.Shape(points(rings[0] ?? []));
  shape.holes = rings.slice(1).map((ring) => new THREE.Path(points(ring)));
  return new THREE.ExtrudeGeometry(shape, { depth: height, bevelEnabled: false });
}

function Scene({
  on,
  design,
  selected,
  select,
  dark,
}: {
  on: Carrier;
  design: Design;
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  dark: boolean;
}) {
  const { camera, gl, invalidate } = useThree();
  const { plate, block, machine } = on;
  const faces = block.faces ?? 1;
  const thick = plate.thickness_mm ?? 25;
  // A block just large enough for its plates: how far a face lies from the axis.
  const apothem = faces > 2 ? plate.width_mm / 2 / Math.tan(Math.PI / faces) : 40;
  const size =
    faces > 1
      ? Math.hypot(plate.depth_mm, 2 * apothem + plate.width_mm) * 0.8
      : Math.hypot(plate.width_mm, plate.depth_mm);
  const table: [number, number] = [machine.table_x_mm ?? 900, machine.table_y_mm ?? 500];
  useEffect(() => {
    camera.position.set(1.1 * size, 1.45 * size, 2.1 * size);
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enableDamping = false;
    controls.target.set(0, faces > 1 ? plate.depth_mm / 2 : 0, 0);
    controls.update();
    controls.listenToKeyEvents(gl.domElement);
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    invalidate();
    return () => {
      controls.removeEventListener("change", draw);
      controls.dispose();
    };
  }, [camera, gl, invalidate, size, faces, plate.depth_mm]);
  useEffect(() => invalidate(), [design, selected, dark, invalidate]);
  const steel = dark ? "#6d7a82" : "#a9b2b7";
  return (
    <>
      <hemisphereLight args={["#ffffff", "#8d9499", 2.1]} />
      <directionalLight position={[2 * size, 3 * size, 2 * size]} intensity={1.7} />
      <mesh position={[0, faces > 1 ? -12.5 : -thick - 12.5, 0]}>
        <boxGeometry args={[table[0], 25, table[1]]} />
        <meshStandardMaterial color={dark ? "#3a444a" : "#d6d8d6"} />
      </mesh>
      {faces > 1 && (
        <mesh position={[0, plate.depth_mm / 2, 0]} rotation={[0, faces > 2 ? Math.PI / faces : 0, 0]}>
          <cylinderGeometry
            args={
              faces > 2
                ? [apothem / Math.cos(Math.PI / faces), apothem / Math.cos(Math.PI / faces), plate.depth_mm, faces]
                : [apothem, apothem, plate.depth_mm, 4]
            }
          />
          <meshStandardMaterial color={steel} />
        </mesh>
      )}
      {Array.from({ length: faces }, (_, face) => (
        // A lying plate: its X to the right, its Y away. An upright one: its Y up, facing outwards, the next one a turn further.
        <group key={face} rotation={faces > 1 ? [0, (-2 * Math.PI * face) / faces, 0] : [-Math.PI / 2, 0, 0]}>
          <group
            position={
              faces > 1 ? [-plate.width_mm / 2, 0, apothem + thick] : [-plate.width_mm / 2, -plate.depth_mm / 2, 0]
            }
          >
            <mesh position={[plate.width_mm / 2, plate.depth_mm / 2, -thick / 2]}>
              <boxGeometry args={[plate.width_mm, plate.depth_mm, thick]} />
              <meshStandardMaterial color={dark ? "#59646b" : "#c6cbcd"} />
            </mesh>
            {(plate.keepouts ?? []).map((item, index) => (
              <mesh
                key={index}
                position={[item.x_mm, item.y_mm, (item.height_mm ?? 10) / 2]}
                rotation={[Math.PI / 2, 0, 0]}
              >
                <cylinderGeometry args={[item.width_mm / 2, item.width_mm / 2, item.height_mm ?? 10, 20]} />
                <meshStandardMaterial color={steel} />
              </mesh>
            ))}
            <Stations
              design={design}
              stations={design.stations.filter((station) => (station.face ?? 0) === face)}
              selected={selected}
              select={select}
              steel={steel}
            />
          </group>
        </group>
      ))}
    </>
  );
}

function Stations({
  design,
  stations,
  selected,
  select,
  steel,
}: {
  design: Design;
  stations: PlacedStation[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  steel: string;
}) {
  const shapes = useMemo(
    () =>
      design.kinds.map((kind) => ({
        parts: partsOf(kind.drawing).map((part) => solid(part as Ring[], kind.drawing.height_mm)),
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
        position={[station.x_mm, station.y_mm, 0]}
        rotation={[0, 0, (station.turn * Math.PI) / 180]}
      >
        {shape.parts.map((part, index) => (
          <mesh
            key={index}
            geometry={part}
            onClick={(event) => {
              event.stopPropagation();
              select(station.number);
            }}
          >
            <meshStandardMaterial
              color={wrong ? "#a8281e" : chosen ? "#23408e" : OPS[hatchOf(design, station.kind ?? 0)]}
            />
          </mesh>
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
      </group>
    );
  });
}
