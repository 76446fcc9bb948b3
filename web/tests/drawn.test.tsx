/** What stands on a plate is drawn where it is, in as few lines as can be: hundreds of stations are drawn again at once. */
import { render } from "@testing-library/react";
import { describe, expect, it } from "vitest";

import type { Drawing } from "../src/api/types";
import { pensOf } from "../src/drawing/drawing";
import { StationShape } from "../src/drawing/Station";
import { station } from "./shown";

const square = (x: number, y: number, side: number) => [[x, y], [x + side, y], [x + side, y + side], [x, y + side]]; // prettier-ignore

const drawing = {
  part: [square(0, 0, 60), square(20, 20, 5)],
  parts: [],
  stops: [square(-9, 0, 8), square(-9, 30, 8), square(0, -9, 8)],
  clamps: [square(61, 0, 9), square(0, 61, 9)],
  sweep: [square(-20, -20, 100), square(-15, -15, 90)],
  screws: [[65, 4], [4, 65]], // prettier-ignore
  screw_diameter_mm: 6,
} as unknown as Drawing;

const bare = { ...drawing, stops: [], clamps: [], screws: [], sweep: [] } as Drawing;

/** Every corner that a path goes to, and its closed rings. */
function corners(d: string): number[][][] {
  return d.split("Z").filter(Boolean).map((ring) => ring.slice(1).split("L").map((at) => at.split(" ").map(Number))); // prettier-ignore
}

describe("a station", () => {
  it("goes along the rings it is given, one line for all of a sort", () => {
    const pens = pensOf(drawing);
    expect(corners(pens.stops)).toEqual(drawing.stops);
    expect(corners(pens.clamps)).toEqual(drawing.clamps);
    expect(corners(pens.parts)).toEqual(drawing.part);
    expect(corners(pens.sweep)).toEqual(drawing.sweep);
    expect(corners(pens.sweeps)).toEqual([drawing.sweep[0]]);
  });

  it("is taken hold of by all of it, and through its holes too", () => {
    expect(corners(pensOf(drawing).all)).toEqual([drawing.part[0], ...drawing.stops, ...drawing.clamps]);
  });

  it("has its screws round, where they stand", () => {
    // From the left of each, half round to its right and back (SVG 1.1, 8.3.8: elliptical arcs).
    const half = String.raw`a3 3 0 1 0 (-?\d+) 0`;
    const round = new RegExp(`M(-?\\d+) (-?\\d+)${half}${half}Z`, "g");
    const found = [...pensOf(drawing).screws.matchAll(round)].map((one) => one.slice(1).map(Number));
    expect(found).toEqual([
      [62, 4, 6, -6],
      [1, 65, 6, -6],
    ]);
  });

  it.each([
    ["with stops, clamps and screws", drawing, 6],
    ["bare", bare, 2],
  ])("is drawn in few lines, none of them empty: %s", (_what, kind, lines) => {
    const { container } = render(
      <svg>
        <StationShape station={station(1, 0, 0)} drawing={kind} px={1} overlay="none" chosen={false} />
      </svg>,
    );
    const drawn = [...container.querySelectorAll("path")].map((one) => one.getAttribute("d"));
    expect(drawn).toHaveLength(lines);
    expect(drawn).not.toContain("");
    expect(container.querySelectorAll("g")).toHaveLength(1);
  });

  it("is written out once, however many stand", () => {
    expect(pensOf(drawing)).toBe(pensOf(drawing));
    expect(pensOf(bare)).not.toBe(pensOf(drawing));
  });
});
