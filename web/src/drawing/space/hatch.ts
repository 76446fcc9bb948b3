/** The hatch of an op on a solid, as it lies on the sheet: the same that the flat drawing has, so that a print and a
 * colour-blind reader can tell ops apart here too. */
import type { MeshStandardMaterial } from "three";

/** In screen points: how much of the op's ink stands at a place. Diagonal, dotted, crossed, level. */
const INKED = [
  "step(fract((at.x - at.y) / 9.0), 0.16)",
  "step(length(fract(at / 7.0) - 0.5), 0.17)",
  "max(step(fract((at.x - at.y) / 9.0), 0.14), step(fract((at.x + at.y) / 9.0), 0.14))",
  "step(fract(at.y / 7.0), 0.18)",
];

type Compile = MeshStandardMaterial["onBeforeCompile"];

export const hatched = (kind: number): Compile => {
  const inked = INKED[kind % INKED.length] ?? "0.0";
  return (shader) => {
    shader.fragmentShader = shader.fragmentShader.replace(
      "#include <color_fragment>",
      `#include <color_fragment>
       vec2 at = gl_FragCoord.xy;
       diffuseColor.rgb *= 1.0 - 0.42 * ${inked};`,
    );
  };
};
