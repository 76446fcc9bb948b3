/** Where a tool's tip is on the plates, and what stands over it. */

export interface Tip {
  /** The face that looks at the spindle, counted from 0; -1 while the block turns. */
  face: number;
  x: number;
  y: number;
  z: number;
  /** From the tip up: radius, and from what height; mm. */
  rings: readonly (readonly [number, number])[];
  length_mm: number;
  /** Places it came from, the latest last, on the same face. */
  trail: readonly { x: number; y: number; rapid: boolean }[];
}
