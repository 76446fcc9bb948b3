/** A state of the workpiece in 3-D: what each op cut in its own shade, what it took as a ghost. Its own chunk. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

/** Small turns between triangles are a curve, larger ones an edge to draw. */
const EDGE_DEGREES = 20;
const SHADES = {
  light: ["#8FA6E0", "#A8C9B6", "#E3C08A", "#C9B2D8"],
  dark: ["#4C66B8", "#3F7A5C", "#9A742F", "#7A5C92"],
};

interface Piece {
  name: string;
  geometry: THREE.BufferGeometry;
}

function usePieces(address: string) {
  const [found, setFound] = useState<{ address: string; pieces: Piece[] } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let here = true;
    new GLTFLoader()
      .loadAsync(address)
      .then(({ scene }) => {
        if (!here) return;
        scene.updateMatrixWorld(true);
        const pieces: Piece[] = [];
        scene.traverse((node) => {
          if (!(node instanceof THREE.Mesh)) return;
          const geometry = (node.geometry as THREE.BufferGeometry).clone().applyMatrix4(node.matrixWorld);
          geometry.scale(1000, 1000, 1000);
          const flat = geometry.index ? geometry.toNonIndexed() : geometry;
          flat.computeVertexNormals();
          pieces.push({ name: node.name.replace("_", " "), geometry: flat });
        });
        setTrouble(null);
        setFound({ address, pieces });
      })
      .catch(() => here && setTrouble("The solid could not be fetched."));
    return () => {
      here = false;
    };
  }, [address]);
  return { pieces: found?.pieces ?? null, trouble };
}

export default function WorkpieceView({ address, dark }: { address: string; dark: boolean }) {
  const { pieces, trouble } = usePieces(address);
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
      <Scene pieces={pieces} dark={dark} />
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

function Scene({ pieces, dark }: { pieces: readonly Piece[]; dark: boolean }) {
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
  useEffect(() => invalidate(), [pieces, dark, invalidate]);
  return (
    <>
      <ambientLight intensity={1.2} />
      <directionalLight position={[size, 3 * size, 2 * size]} intensity={2.1} />
      <directionalLight position={[-2 * size, size, -size]} intensity={0.7} />
      <group position={[-middle.x, -middle.y, -middle.z]}>
        {pieces.map((piece) => (
          <Shown key={piece.name} piece={piece} dark={dark} />
        ))}
      </group>
    </>
  );
}

function shadeOf(name: string, dark: boolean): string {
  if (name === "raw") return dark ? "#7F8C94" : "#B9B2A4";
  if (name === "finished") return dark ? "#7F8C94" : "#B9C1C6";
  const shades = SHADES[dark ? "dark" : "light"];
  return shades[(Number(name.replace(/\D/g, "")) / 10 - 1) % shades.length] ?? shades[0] ?? "#8FA6E0";
}

function Shown({ piece, dark }: { piece: Piece; dark: boolean }) {
  const edges = useMemo(() => new THREE.EdgesGeometry(piece.geometry, EDGE_DEGREES), [piece]);
  const ghost = piece.name === "removed";
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
          <meshBasicMaterial color={dark ? "#8EA9F2" : "#23408E"} transparent opacity={0.1} depthWrite={false} />
        </mesh>
      )}
      <lineSegments geometry={edges}>
        <lineBasicMaterial
          color={ghost ? (dark ? "#8EA9F2" : "#23408E") : ink}
          transparent
          opacity={ghost ? 0.35 : 1}
        />
      </lineSegments>
    </>
  );
}
