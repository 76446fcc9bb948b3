/** A solid in 3-D as a drawing office has it, ink on paper with a little shade, turned with the mouse or the arrow keys, the side that is up marked. Its own chunk: three.js loads with it. */
import { Canvas, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef, useState } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

import { call } from "../api/client";

type Vector = readonly number[];

/** A small angle between faces is a curve; a larger one is an edge to draw. */
const EDGE_DEGREES = 20;

function useTriangles(upload: string) {
  const [geometry, setGeometry] = useState<THREE.BufferGeometry | null>(null);
  const [trouble, setTrouble] = useState<Error | null>(null);
  useEffect(() => {
    let here = true;
    void call<Float32Array>("GET", `/api/solids/${upload}/mesh`, undefined, null, "numbers")
      .then((corners) => {
        if (!here) return;
        const made = new THREE.BufferGeometry();
        made.setAttribute("position", new THREE.BufferAttribute(corners, 3));
        made.computeVertexNormals();
        made.center();
        setGeometry(made);
      })
      .catch(
        (error: unknown) =>
          here && setTrouble(error instanceof Error ? error : new Error("The solid could not be fetched.")),
      );
    return () => {
      here = false;
    };
  }, [upload]);
  return { geometry, trouble };
}

export default function SolidView({ upload, up, dark }: { upload: string; up: Vector; dark: boolean }) {
  const { geometry, trouble } = useTriangles(upload);
  if (trouble) return <p role="alert">{trouble.message}</p>;
  if (!geometry) return <p className="quiet">Fetching the solid</p>;
  return (
    <Canvas
      frameloop="demand"
      dpr={[1, 2]}
      camera={{ fov: 30, near: 0.1, far: 100_000 }}
      aria-label="The solid in 3-D"
      tabIndex={0}
    >
      <Scene geometry={geometry} up={up} dark={dark} />
    </Canvas>
  );
}

function Scene({ geometry, up, dark }: { geometry: THREE.BufferGeometry; up: Vector; dark: boolean }) {
  const { camera, gl, invalidate } = useThree();
  const controls = useRef<OrbitControls | null>(null);
  const size = useMemo(() => {
    geometry.computeBoundingSphere();
    return geometry.boundingSphere?.radius ?? 50;
  }, [geometry]);
  const edges = useMemo(() => new THREE.EdgesGeometry(geometry, EDGE_DEGREES), [geometry]);
  const turn = useMemo(
    () =>
      new THREE.Quaternion().setFromUnitVectors(
        new THREE.Vector3(up[0] ?? 0, up[1] ?? 0, up[2] ?? 1).normalize(),
        new THREE.Vector3(0, 1, 0),
      ),
    [up],
  );
  useEffect(() => {
    camera.position.set(2.6 * size, 2.2 * size, 3 * size);
    const made = new OrbitControls(camera, gl.domElement);
    made.enableDamping = false;
    made.listenToKeyEvents(gl.domElement);
    const draw = () => invalidate();
    made.addEventListener("change", draw);
    controls.current = made;
    camera.lookAt(0, 0, 0);
    invalidate();
    return () => {
      made.removeEventListener("change", draw);
      made.dispose();
    };
  }, [camera, gl, invalidate, size]);
  useEffect(() => invalidate(), [turn, dark, invalidate]);
  return (
    <>
      <ambientLight intensity={2.3} />
      <directionalLight position={[size, 3 * size, 2 * size]} intensity={0.9} />
      <group quaternion={turn}>
        <mesh geometry={geometry}>
          <meshStandardMaterial
            color={dark ? "#323c43" : "#FBFAF7"}
            roughness={1}
            metalness={0}
            side={THREE.DoubleSide}
          />
        </mesh>
        <lineSegments geometry={edges}>
          <lineBasicMaterial color={dark ? "#E9E6DE" : "#1D262B"} />
        </lineSegments>
      </group>
      <arrowHelper
        args={[
          new THREE.Vector3(0, 1, 0),
          new THREE.Vector3(-1.25 * size, -0.4 * size, 0),
          0.8 * size,
          dark ? "#8EA9F2" : "#23408E",
          0.22 * size,
          0.12 * size,
        ]}
      />
    </>
  );
}
