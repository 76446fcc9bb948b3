/** Cutting the picture open, from the front to the back. */
import { useThree } from "@react-three/fiber";
import { useEffect, useState, type KeyboardEvent } from "react";
import * as THREE from "three";

export function useSection() {
  const [share, setShare] = useState<number | null>(null);
  const swap = () => setShare(share === null ? 0.5 : null);
  const press = (event: KeyboardEvent) => {
    if (event.key.toLowerCase() !== "x" || event.ctrlKey || event.metaKey || event.altKey) return;
    event.stopPropagation();
    swap();
  };
  return { share, setShare, swap, press };
}

export function Section({ share, setShare, swap }: Omit<ReturnType<typeof useSection>, "press">) {
  return (
    <div className="view-tools">
      {share !== null && (
        <input
          type="range"
          min={0}
          max={1}
          step={0.01}
          value={share}
          aria-label="How deep it is cut open"
          onChange={(event) => setShare(Number(event.target.value))}
        />
      )}
      <button type="button" aria-pressed={share !== null} onClick={swap} title="Cut it open (X)">
        Section
      </button>
    </div>
  );
}

/** Takes away what is nearer than a share of a depth (mm) about the middle; inside the picture. */
export function useCut(share: number | null, depth: number) {
  const { gl } = useThree();
  useEffect(() => {
    const planes = share === null ? [] : [new THREE.Plane(new THREE.Vector3(0, 0, -1), (0.5 - share) * depth)];
    Object.assign(gl, { clippingPlanes: planes });
  }, [gl, share, depth]);
}
