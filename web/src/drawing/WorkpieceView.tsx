/** A state of the workpiece in 3-D: what each op cut in its own shade, what it took as a ghost. Its own chunk. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import type { HeldSection } from "../api/types";
import { type Piece, useGlb } from "./useGlb";

/** Small turns between triangles are a curve, larger ones an edge to draw. */
const EDGE_DEGREES = 20;
const SHADES = {
  light: ["#8FA6E0", "#A8C9B6", "#E3C08A", "#C9B2D8"],
  dark: ["#4C66B8", "#3F7A5C", "#9A742F", "#7A5C92"],
};

type Touched = HeldSection["touched"][number];

export default function WorkpieceView({
  address,
  dark,
  touched = [],
}: {
  address: string;
  dark: boolean;
  touched?: readonly Touched[];
}) {
  const { found, trouble } = useGlb([address]);
  const pieces = found?.[0];
  if (trouble) return <p role="alert">{trouble}</p>;
  if (!pieces) return <p className="quiet">Fetching the solid</p>;
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ fov: 30, near: 0.1, far: 100_000 }}
      aria-label="The workpiece in 3-D"
      tabIndex={0}
    >
      <Scene pieces={pieces} dark={dark} touched={touched} />
    </Canvas>
  );
}

/** The middle and the size of all that stays. */
function extent(pieces: readonly Piece[]) {
  const box = new THREE.Box3();
  for (const piece of pieces) box.expandByObject(new THREE.Mesh(piece.geometry));
  const sphere = box.getBoundingSphere(new THREE.Sphere());
  return { middle: sphere.center, size: sphere.radius || 50 };
}

function Scene({ pieces, dark, touched }: { pieces: readonly Piece[]; dark: boolean; touched: readonly Touched[] }) {
  const { camera, gl, invalidate } = useThree();
  const placed = useRef(false);
  const { middle, size } = useMemo(() => extent(pieces), [pieces]);
  useEffect(() => {
    if (!placed.current) camera.position.set(2.2 * size, 2 * size, 2.6 * size);
    placed.current = true;
    const controls = new OrbitControls(camera, gl.domElement);
    controls.enableDamping = false;
    controls.listenToKeyEvents(gl.domElement);
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    camera.lookAt(0, 0, 0);
    invalidate();
    return () => {
      controls.removeEventListener("change", draw);
      controls.dispose();
    };
  }, [camera, gl, invalidate, size]);
  useEffect(() => invalidate(), [pieces, dark, touched, invalidate]);
  return (
    <>
      <ambientLight intensity={1.2} />
      <directionalLight position={[size, 3 * size, 2 * size]} intensity={2.1} />
      <directionalLight position={[-2 * size, size, -size]} intensity={0.7} />
      <group position={[-middle.x, -middle.y, -middle.z]}>
        {pieces.map((piece) => (
          <Shown key={piece.name} piece={piece} dark={dark} />
        ))}
        {touched.map((item) => (
          <Patch key={item.name} item={item} dark={dark} />
        ))}
      </group>
    </>
  );
}

const FLAT = new THREE.Vector3(0, 0, 1);

/** What a stop, a toe or the floor touches, over the surface: raw, or cut before. */
function Patch({ item, dark }: { item: Touched; dark: boolean }) {
  const geometry = useMemo(() => {
    const points = item.on_part_mm.map(([x, y, z]) => new THREE.Vector3(x, z, -y));
    return points.length > 2 ? hull(points) : rod(points);
  }, [item]);
  const colour = item.made_in === null ? (dark ? "#D69A5B" : "#A4591A") : dark ? "#8EA9F2" : "#23408E";
  return (
    <mesh geometry={geometry} renderOrder={2}>
      <meshBasicMaterial
        color={colour}
        transparent
        opacity={0.72}
        side={THREE.DoubleSide}
        polygonOffset
        polygonOffsetFactor={-4}
        polygonOffsetUnits={-4}
      />
    </mesh>
  );
}

/** A flat of corners in one plane, whatever their order. */
function hull(points: readonly THREE.Vector3[]): THREE.BufferGeometry {
  const middle = points.reduce((sum, point) => sum.add(point), new THREE.Vector3()).divideScalar(points.length);
  const first = (points[0] ?? FLAT).clone().sub(middle).normalize();
  const other = points.map((point) => point.clone().sub(middle)).find((way) => way.cross(first).length() > 1e-6);
  const normal = (other ?? FLAT.clone()).normalize();
  const second = normal.clone().cross(first);
  const angle = (point: THREE.Vector3) => {
    const off = point.clone().sub(middle);
    return Math.atan2(off.dot(second), off.dot(first));
  };
  const round = [...points].sort((a, b) => angle(a) - angle(b));
  const corners = round.flatMap((point, k) => [middle, point, round[(k + 1) % round.length] ?? point]);
  return new THREE.BufferGeometry().setFromPoints(corners);
}

/** A line of contact, or a point, as a thin rod. */
function rod(points: readonly THREE.Vector3[]): THREE.BufferGeometry {
  const [from, to] = [points[0] ?? new THREE.Vector3(), points[1] ?? points[0] ?? new THREE.Vector3()];
  if (from.distanceTo(to) < 1e-3) return new THREE.SphereGeometry(1.2, 12, 8).translate(from.x, from.y, from.z);
  return new THREE.TubeGeometry(new THREE.LineCurve3(from, to), 1, 0.5, 8);
}

function shadeOf(name: string, dark: boolean): string {
  if (name === "raw") return dark ? "#7F8C94" : "#B9B2A4";
  if (name === "finished") return dark ? "#7F8C94" : "#B9C1C6";
  const shades = SHADES[dark ? "dark" : "light"];
  return shades[(Number(name.replace(/\D/g, "")) / 10 - 1) % shades.length] ?? shades[0] ?? "#8FA6E0";
}

function Shown({ piece, dark }: { piece: Piece; dark: boolean }) {
  const edges = useMemo(() => new THREE.EdgesGeometry(piece.geometry, EDGE_DEGREES), [piece]);
  const ghost = piece.name.startsWith("removed");
  const tint = ghost ? shadeOf(piece.name, dark) : "";
  const ink = dark ? "#E9E6DE" : "#1D262B";
  return (
    <>
      {!ghost && (
        <mesh geometry={piece.geometry}>
          <meshStandardMaterial
            color={shadeOf(piece.name, dark)}
            roughness={0.8}
            metalness={0.1}
            side={THREE.DoubleSide}
          />
        </mesh>
      )}
      {ghost && (
        <mesh geometry={piece.geometry}>
          <meshBasicMaterial color={tint} transparent opacity={0.22} depthWrite={false} />
        </mesh>
      )}
      <lineSegments geometry={edges}>
        <lineBasicMaterial color={ghost ? tint : ink} transparent opacity={ghost ? 0.6 : 1} />
      </lineSegments>
    </>
  );
}
