/** Geometry to SVG, and nothing else: no rule of the job lives here. */
import type { Design, Drawing } from "../api/types";
import type { Carrier } from "../editing/here";
import { pen } from "../ui/pen";
import { useRoom } from "../ui/room";
import { useUnits } from "../ui/units";

export type Ring = readonly (readonly number[])[];

export const path = (rings: readonly Ring[]): string =>
  rings.map((ring) => `M${ring.map(([x, y]) => `${(x ?? 0).toFixed(3)} ${(y ?? 0).toFixed(3)}`).join("L")}Z`).join("");

export function bounds(ring: Ring): { left: number; low: number; right: number; high: number } {
  const xs = ring.map((point) => point[0] ?? 0);
  const ys = ring.map((point) => point[1] ?? 0);
  return { left: Math.min(...xs), low: Math.min(...ys), right: Math.max(...xs), high: Math.max(...ys) };
}

const TURNS: Record<number, [number, number]> = { 0: [1, 0], 90: [0, 1], 180: [-1, 0], 270: [0, -1] };

export function turned(x: number, y: number, turn: number): [number, number] {
  const [c, s] = TURNS[turn] ?? [1, 0];
  return [c * x - s * y, s * x + c * y];
}

/** How many millimetres one pixel is when width x depth mm fit the element, so that text and lines keep their size. */
export function useScale(width: number, depth: number, pad: number) {
  const { ref, size } = useRoom();
  const perPixel = Math.max(width / Math.max(1, size.width - 2 * pad), depth / Math.max(1, size.height - 2 * pad));
  const boxWidth = perPixel * size.width;
  const boxHeight = perPixel * size.height;
  const viewBox = `${String((width - boxWidth) / 2)} ${String((depth - boxHeight) / 2)} ${String(boxWidth)} ${String(boxHeight)}`;
  return { ref, px: perPixel, viewBox, size };
}

/** Faces side by side, as the block turns: how far apart, and how much room they take in all. */
export function unrolled({ plate, block }: Carrier) {
  const faces = block.faces ?? 1;
  const width = plate.width_mm;
  const pitch = width * 1.07;
  return { faces, pitch, width: (faces - 1) * pitch + width, depth: plate.depth_mm };
}

/** The drawing of what stands at a station. */
export function drawingOf(design: Design, station: { kind?: number }): Drawing {
  return (design.kinds[station.kind ?? 0] ?? design.kinds[0])?.drawing as Drawing;
}

/** The parts that stand at a station: one, or those that share its clamp. */
export const partsOf = (drawing: Drawing): Drawing["part"][] =>
  (drawing.parts ?? []).length > 0 ? (drawing.parts as Drawing["part"][]) : [drawing.part];

/** What a pen goes along for each thing at a station, in its own frame; empty where there is none. */
interface Pens {
  under: string;
  sweep: string;
  /** The outermost of the sweep. */
  sweeps: string;
  stops: string;
  parts: string;
  finished: string;
  clamps: string;
  screws: string;
  /** All that can be taken hold of. */
  all: string;
}

/** Hundreds of stations are drawn from one: it is written out once. */
const written = new WeakMap<Drawing, Pens>();

export function pensOf(drawing: Drawing): Pens {
  const known = written.get(drawing);
  if (known) return known;
  const r = drawing.screw_diameter_mm / 2;
  const parts = partsOf(drawing);
  const pens = {
    under: path(drawing.under ?? []),
    sweep: path(drawing.sweep),
    sweeps: path(drawing.sweep.slice(0, 1)),
    stops: path(drawing.stops),
    parts: path(parts.flat()),
    finished: path((drawing.finished ?? []).flat()),
    clamps: path(drawing.clamps),
    screws: drawing.screws
      .map(([x, y]) => pen`M${(x ?? 0) - r} ${y ?? 0}a${r} ${r} 0 1 0 ${2 * r} 0a${r} ${r} 0 1 0 ${-2 * r} 0Z`)
      .join(""),
    all: path([...parts.map((part) => part[0] ?? []), ...drawing.stops, ...drawing.clamps]),
  };
  written.set(drawing, pens);
  return pens;
}

/** The middle of all that stands at a station, in its own frame. */
export function middleOf(drawing: Drawing): [number, number] {
  const box = bounds(partsOf(drawing).flatMap((part) => part[0] ?? []));
  return [(box.left + box.right) / 2, (box.low + box.high) / 2];
}

/** Which hatch an op has: by its number, so that op 10 always looks the same; by its place where several parts are in the same op. */
export function hatchOf(design: Design, kind: number): number {
  const numbers = design.kinds.map((item) => item.op_number);
  const own = numbers[kind] ?? 10;
  return (new Set(numbers).size === numbers.length ? Math.max(0, Math.round(own / 10) - 1) : kind) % 4;
}

/** A round length for the scale bar, about a quarter of the width. */
export function scaleBar(width: number): number {
  const target = width / 4;
  const power = 10 ** Math.floor(Math.log10(target));
  return ([5, 2, 1].find((step) => step * power <= target) ?? 1) * power;
}

/** A plate or block read aloud: its faces, its size and how many stations stand on it. */
export function usePlateSaid() {
  const { withUnit } = useUnits();
  return (faces: number, width: number, depth: number, stations: number) => {
    const what = faces > 1 ? `${String(faces)} faces` : "Plate";
    const size = `${withUnit(width, "mm", 1)} by ${withUnit(depth, "mm", 1)}`;
    return `${what} ${size} with ${String(stations)} stations`;
  };
}
