/** The eye: turned with the mouse or the arrow keys, nearer and farther, back to where it began. */
import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";

const STEP = Math.PI / 24;
const TURNS: Record<string, [number, number]> = {
  ArrowLeft: [-STEP, 0],
  ArrowRight: [STEP, 0],
  ArrowUp: [0, -STEP],
  ArrowDown: [0, STEP],
};
const NEARER: Record<string, number> = { "+": 1 / 1.2, "=": 1 / 1.2, "-": 1.2 };

/** Of a thing so big (mm), whose middle is so high. */
export function useEye(size: number, height: number) {
  const { camera, gl, invalidate } = useThree();
  useEffect(() => {
    const element = gl.domElement;
    const focused = element.closest<HTMLElement>("[tabindex]") ?? element; // the picture's own frame
    const controls = new OrbitControls(camera, element);
    controls.enableDamping = false;
    controls.target.set(0, height, 0);
    const begin = () => {
      camera.position.set(0.55 * size, 0.9 * size + height, 1.36 * size);
      controls.update();
    };
    const press = (event: KeyboardEvent) => {
      const turn = TURNS[event.key];
      const zoom = NEARER[event.key];
      if (event.ctrlKey || event.altKey || (!turn && !zoom && event.key !== "0")) return;
      event.preventDefault();
      event.stopPropagation();
      if (turn) look(camera, controls.target, turn);
      else if (zoom) camera.position.sub(controls.target).multiplyScalar(zoom).add(controls.target);
      else begin();
      controls.update();
      invalidate();
    };
    const draw = () => invalidate();
    controls.addEventListener("change", draw);
    focused.addEventListener("keydown", press);
    begin();
    invalidate();
    return () => {
      controls.removeEventListener("change", draw);
      focused.removeEventListener("keydown", press);
      controls.dispose();
    };
  }, [camera, gl, invalidate, size, height]);
}

/** Goes round what is looked at, never over its top. */
function look(camera: THREE.Camera, target: THREE.Vector3, [round, over]: [number, number]) {
  const from = new THREE.Spherical().setFromVector3(camera.position.clone().sub(target));
  from.theta += round;
  from.phi = Math.min(Math.PI - 0.05, Math.max(0.05, from.phi + over));
  camera.position.setFromSpherical(from).add(target);
}
