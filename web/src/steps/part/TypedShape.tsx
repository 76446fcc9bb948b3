import type { Part } from "../../api/types";
import { useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";

type Start = NonNullable<Part["outline"]["shape"]>;

/** The shapes that can be typed, what each starts from, and what its sizes are called. */
export const SHAPES: Record<string, { label: string; start: Start; sizes: [string, string, string?][] }> = {
  rectangle: {
    label: "Rectangle",
    start: { kind: "rectangle", width_mm: 60, depth_mm: 40, corner_radius_mm: 0 },
    sizes: [
      ["width_mm", "Width"],
      ["depth_mm", "Depth"],
      ["corner_radius_mm", "Corner radius"],
    ],
  },
  round: { label: "Round", start: { kind: "round", diameter_mm: 50 }, sizes: [["diameter_mm", "Diameter"]] },
  polygon: {
    label: "Polygon",
    start: { kind: "polygon", sides: 6, across_flats_mm: 36 },
    sizes: [
      ["sides", "Sides", ""],
      ["across_flats_mm", "Across flats"],
    ],
  },
  slot: {
    label: "Slot",
    start: { kind: "slot", length_mm: 60, width_mm: 24 },
    sizes: [
      ["length_mm", "Length over the ends"],
      ["width_mm", "Width"],
    ],
  },
  ring: {
    label: "Ring",
    start: { kind: "ring", outer_mm: 60, inner_mm: 36 },
    sizes: [
      ["outer_mm", "Outer diameter"],
      ["inner_mm", "Inner diameter"],
    ],
  },
  L: {
    label: "L",
    start: { kind: "L", width_mm: 60, depth_mm: 50, leg_x_mm: 18, leg_y_mm: 18 },
    sizes: [
      ["width_mm", "Width"],
      ["depth_mm", "Depth"],
      ["leg_x_mm", "Leg along X, thick"],
      ["leg_y_mm", "Leg along Y, thick"],
    ],
  },
  T: {
    label: "T",
    start: { kind: "T", width_mm: 60, depth_mm: 50, bar_mm: 18, stem_mm: 20 },
    sizes: [
      ["width_mm", "Width"],
      ["depth_mm", "Depth"],
      ["bar_mm", "Bar, thick"],
      ["stem_mm", "Stem, wide"],
    ],
  },
};

export function TypedShape({ index, part }: { index: number; part: Part }) {
  const stored = useStored();
  const shape = part.outline.shape;
  if (!shape) return null;
  return (
    <>
      {SHAPES[shape.kind]?.sizes.map(([field, label, unit]) => (
        <Field
          key={field}
          label={label}
          {...stored(`job.parts.${String(index)}.outline.shape.${field}`, unit ?? "mm")}
        />
      ))}
    </>
  );
}
