/** The layout on the machine's table or round its block, in 3-D. Its own chunk: three.js loads with it. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { Design, PlacedStation } from "../api/types";
import type { Carrier } from "../editing/here";
import { drawingOf, hatchOf, type Ring } from "./drawing";
import type { Tip } from "./tip";
import { useGlb } from "./useGlb";

type Pose = Carrier["faces"][number];
type Body = NonNullable<Carrier["body"]>;

const OPS = ["#5f7fd0", "#4f9a78", "#d09a3c", "#8a949a"];

export default function LayoutView3d({
  on,
  design,
  solids,
  selected,
  select,
  dark,
  tip,
}: {
  on: Carrier;
  design: Design;
  /** Where the workpiece of each kind of station is fetched, as it is put in. */
  solids: readonly string[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  dark: boolean;
  tip: Tip | null;
}) {
  const { found, trouble } = useGlb(solids);
  if (trouble) return <p role="alert">{trouble}</p>;
  if (!found) return <p className="quiet pad">Fetching the solids</p>;
  const shapes = found.map((pieces) => pieces[0]?.geometry).filter((item) => item !== undefined);
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ fov: 30, near: 1, far: 100_000 }}
      aria-label="The layout in 3-D; drag to turn it"
      tabIndex={0}
      onPointerMissed={() => select(null)}
    >
      <Scene on={on} design={design} shapes={shapes} selected={selected} select={select} dark={dark} tip={tip} />
    </Canvas>
  );
}

function solid(rings: readonly Ring[], height: number): THREE.ExtrudeGeometry {
  const points = (ring: Ring) => ring.map(([x, y]) => new THREE.Vector2(x, y));
  const shape = new THREE.Shape(points(rings[0] ?? []));
  shape.holes = rings.slice(1).map((ring) => new THREE.Path(points(ring)));
  return new THREE.ExtrudeGeometry(shape, { depth: height, bevelEnabled: false });
}

/** The table's X to the right, Y away, Z up as the screen has them: X to the right, Y up, Z to the reader. */
const onScreen = (at: readonly number[]): [number, number, number] => [at[0] ?? 0, at[2] ?? 0, -(at[1] ?? 0)];

function standing(pose: Pose): THREE.Quaternion {
  const way = (unit: readonly number[]) => new THREE.Vector3(...onScreen(unit));
  const basis = new THREE.Matrix4().makeBasis(way(pose.x), way(pose.y), way(pose.out));
  return new THREE.Quaternion().setFromRotationMatrix(basis);
}

/** How low the bodies of a kind reach under what its part stands on. */
const lowest = ({ drawing }: Design["kinds"][number]): number =>
  Math.min(0, ...(drawing.bodies ?? []).map((body) => body.low_mm ?? 0));

/** From the axis to a prism's edge. */
const outer = (body: Body): number => body.apothem_mm / Math.cos(Math.PI / body.sides);

/** A prism that three.js makes upright, a corner first, laid along its axis with a side to the front. */
function along(axis: readonly number[], sides: number): THREE.Quaternion {
  const up = new THREE.Vector3(0, 1, 0);
  const laid = new THREE.Quaternion().setFromUnitVectors(up, new THREE.Vector3(...onScreen(axis)));
  return laid.multiply(new THREE.Quaternion().setFromAxisAngle(up, Math.PI / sides));
}

function Scene({
  on,
  design,
  shapes,
  selected,
  select,
  dark,
  tip,
}: {
  on: Carrier;
  design: Design;
  shapes: readonly THREE.BufferGeometry[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  dark: boolean;
  tip: Tip | null;
}) {
  const { camera, gl, invalidate } = useThree();
  const { plate, faces, body, machine } = on;
  const thick = plate.thickness_mm ?? 25;
  // Vises stand on the table; what parts stand on is that much higher.
  const sunk = Math.min(0, ...design.kinds.map(lowest));
  const size = Math.max(
    Math.hypot(plate.width_mm, plate.depth_mm),
    body ? 1.3 * Math.hypot(body.length_mm, 2 * (body.apothem_mm + thick)) : 0,
  );
  // The middle of what stands there is looked at.
  const middle = onScreen(
    body ? body.start_mm.map((value, k) => value + ((body.axis[k] ?? 0) * body.length_mm) / 2) : [0, 0, 0],
  );
  const height = middle[1];
  const table: [number, number] = [machine.table_x_mm ?? 900, machine.table_y_mm ?? 500];
  useEffect(() => {
    camera.position.set(0.85 * size, 1.1 * size, 1.65 * size);
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enableDamping = false;
    controls.target.set(0, height, 0);
    controls.update();
    controls.listenToKeyEvents(gl.domElement);
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    invalidate();
    return () => {
      controls.removeEventListener("change", draw);
      controls.dispose();
    };
  }, [camera, gl, invalidate, size, height]);
  useEffect(() => invalidate(), [design, selected, dark, tip, invalidate]);
  const steel = dark ? "#6d7a82" : "#a9b2b7";
  // The block as it is turned: the face that looks at the spindle comes where the first one is.
  const up = tip && tip.face > 0 ? faces[tip.face] : undefined;
  const turn = up && faces[0] ? standing(faces[0]).multiply(standing(up).invert()) : new THREE.Quaternion();
  const pivot = onScreen(body?.start_mm ?? [0, 0, 0]);
  return (
    <>
      <hemisphereLight args={["#ffffff", "#8d9499", 2.1]} />
      <directionalLight position={[2 * size, 3 * size, 2 * size]} intensity={1.7} />
      <mesh position={[0, faces.length > 1 ? -12.5 : sunk - thick - 12.5, 0]}>
        <boxGeometry args={[table[0], 25, table[1]]} />
        <meshStandardMaterial color={dark ? "#3a444a" : "#d6d8d6"} />
      </mesh>
      <group position={pivot} quaternion={turn}>
        <group position={[-pivot[0], -pivot[1], -pivot[2]]}>
          {body && (
            <mesh position={middle} quaternion={along(body.axis, body.sides)}>
              <cylinderGeometry args={[outer(body), outer(body), body.length_mm, body.sides]} />
              <meshStandardMaterial color={steel} />
            </mesh>
          )}
          {faces.map((pose, face) => (
            <group key={face} position={onScreen(pose.origin_mm)} quaternion={standing(pose)}>
              <mesh position={[plate.width_mm / 2, plate.depth_mm / 2, sunk - thick / 2]}>
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
                workpieces={shapes}
                stations={design.stations.filter((station) => (station.face ?? 0) === face)}
                selected={selected}
                select={select}
                steel={steel}
              />
              {tip?.face === face && <ToolInSpace tip={tip} />}
            </group>
          ))}
        </group>
      </group>
    </>
  );
}

/** The tool with its holder, its axis along the plate's own upright. */
function ToolInSpace({ tip }: { tip: Tip }) {
  return (
    <group position={[tip.x, tip.y, tip.z]}>
      {tip.rings.map(([radius, low], k) => {
        const high = tip.rings[k + 1]?.[1] ?? Math.max(tip.length_mm, low + 1);
        return (
          <mesh key={k} position={[0, 0, (low + high) / 2]} rotation={[Math.PI / 2, 0, 0]}>
            <cylinderGeometry args={[radius, radius, high - low, 32]} />
            <meshStandardMaterial color={k === 0 ? "#c9a227" : "#7b8890"} />
          </mesh>
        );
      })}
    </group>
  );
}

function Stations({
  design,
  workpieces,
  stations,
  selected,
  select,
  steel,
}: {
  design: Design;
  workpieces: readonly THREE.BufferGeometry[];
  stations: PlacedStation[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  steel: string;
}) {
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
                color={wrong ? "#a8281e" : chosen ? "#23408e" : OPS[hatchOf(design, station.kind ?? 0)]}
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
      </group>
    );
  });
}
