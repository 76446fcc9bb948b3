/** The layout on the machine's table or round its block, in 3-D. Its own chunk: three.js loads with it. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";

import type { Design } from "../../api/types";
import type { Carrier } from "../../editing/here";
import type { Tip } from "../tip";
import { useGlb } from "../useGlb";
import { useEye } from "./camera";
import { Label } from "./Label";
import { Section, useCut, useSection } from "./Section";
import { lowest, Stations } from "./Stations";
import { ToolInSpace } from "./ToolInSpace";

type Pose = Carrier["faces"][number];
type Body = NonNullable<Carrier["body"]>;

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
  const section = useSection();
  if (trouble) return <p role="alert">{trouble}</p>;
  if (!found) return <p className="quiet pad">Fetching the solids</p>;
  const shapes = found.map((pieces) => pieces[0]?.geometry).filter((item) => item !== undefined);
  return (
    <div className="in-space" onKeyDown={section.press}>
      <Canvas
        frameloop="demand"
        dpr={[1, 2]}
        camera={{ fov: 30, near: 1, far: 100_000 }}
        aria-label={`The layout in 3-D, ${String(design.stations.length)} stations. Drag or arrow keys turn it, X cuts it open.`}
        tabIndex={0}
        onPointerMissed={() => select(null)}
      >
        <Scene
          on={on}
          design={design}
          shapes={shapes}
          selected={selected}
          select={select}
          dark={dark}
          tip={tip}
          cut={section.share}
        />
      </Canvas>
      <Section {...section} />
    </div>
  );
}

/** The table's X to the right, Y away, Z up as the screen has them: X to the right, Y up, Z to the reader. */
const onScreen = (at: readonly number[]): [number, number, number] => [at[0] ?? 0, at[2] ?? 0, -(at[1] ?? 0)];

function standing(pose: Pose): THREE.Quaternion {
  const way = (unit: readonly number[]) => new THREE.Vector3(...onScreen(unit));
  const basis = new THREE.Matrix4().makeBasis(way(pose.x), way(pose.y), way(pose.out));
  return new THREE.Quaternion().setFromRotationMatrix(basis);
}

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
  cut,
}: {
  on: Carrier;
  design: Design;
  shapes: readonly THREE.BufferGeometry[];
  selected: ReadonlySet<number>;
  select: (number: number | null) => void;
  dark: boolean;
  tip: Tip | null;
  /** Where it is cut open, from the front to the back; nothing for whole. */
  cut: number | null;
}) {
  const { invalidate } = useThree();
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
  useEye(size, height);
  useCut(cut, body ? size : plate.depth_mm);
  useEffect(() => invalidate(), [design, selected, dark, tip, cut, invalidate]);
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
                dark={dark}
              />
              {faces.length > 1 && (
                <Label
                  text={design.faces?.[face] ?? `Face ${String(face + 1)}`}
                  at={[plate.width_mm / 2, plate.depth_mm + 14, 0]}
                  ink={dark ? "#14191D" : "#FFFFFF"}
                  paper={dark ? "#8EA9F2" : "#23408E"}
                />
              )}
              {tip?.face === face && <ToolInSpace tip={tip} />}
            </group>
          ))}
        </group>
      </group>
    </>
  );
}
