/** Solids of the service (glTF) as three.js geometries, mm, in the service's axes turned Y up. */
import { useEffect, useState } from "react";
import * as THREE from "three";
import { GLTFLoader } from "three/examples/jsm/loaders/GLTFLoader.js";

export interface Piece {
  name: string;
  geometry: THREE.BufferGeometry;
}

function piecesOf(scene: THREE.Object3D): Piece[] {
  scene.updateMatrixWorld(true);
  const pieces: Piece[] = [];
  scene.traverse((node) => {
    if (!(node instanceof THREE.Mesh)) return;
    const geometry = (node.geometry as THREE.BufferGeometry).clone().applyMatrix4(node.matrixWorld);
    geometry.scale(1000, 1000, 1000);
    const flat = geometry.index ? geometry.toNonIndexed() : geometry;
    flat.computeVertexNormals();
    pieces.push({ name: node.name.replaceAll("_", " "), geometry: flat });
  });
  return pieces;
}

/** Several at once, in their order; nothing until all are there. */
export function useGlb(addresses: readonly string[]): { found: Piece[][] | null; trouble: string | null } {
  const key = addresses.join(" ");
  const [found, setFound] = useState<{ key: string; pieces: Piece[][] } | null>(null);
  const [trouble, setTrouble] = useState<string | null>(null);
  useEffect(() => {
    let here = true;
    const loader = new GLTFLoader();
    Promise.all(key.split(" ").map((address) => loader.loadAsync(address)))
      .then((loaded) => {
        if (!here) return;
        setTrouble(null);
        setFound({ key, pieces: loaded.map(({ scene }) => piecesOf(scene)) });
      })
      .catch(() => here && setTrouble("The solid could not be fetched."));
    return () => {
      here = false;
    };
  }, [key]);
  return { found: found?.pieces ?? null, trouble };
}
