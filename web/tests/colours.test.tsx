/** Colours mean limits: nothing is green that a limit is close to, is exceeded by, or was not judged against. */
import { render } from "@testing-library/react";
import { describe, expect, it } from "vitest";

import type { Drawing } from "../src/api/types";
import { Judged, type Limits, StationShape } from "../src/drawing/Station";
import { station } from "./shown";

const drawing = {
  part: [[[0, 0], [60, 0], [60, 40], [0, 40]]], parts: [], stops: [], clamps: [], sweep: [], screws: [], finished: [],
  under: [], screw_diameter_mm: 6,
} as unknown as Drawing; // prettier-ignore

function fill(limits: Limits, share: number | null): string | null {
  const { container } = render(
    <svg>
      <Judged value={limits}>
        <StationShape
          station={station(1, 0, 0, share === null ? {} : { tolerance_share: share, feature: "Bore" })}
          drawing={drawing}
          px={1}
          overlay="tolerance"
          chosen={false}
        />
      </Judged>
    </svg>,
  );
  return container.querySelector("path[fill-rule=evenodd]")?.getAttribute("fill") ?? null;
}

describe("the shade of a station", () => {
  const limits = { needed: [2], close: 0.9 };

  it.each([
    [0.5, "var(--within)"],
    [0.89, "var(--within)"],
    [0.9, "var(--close)"],
    [1, "var(--close)"],
    [1.001, "var(--over)"],
  ])("%s of a limit is %s", (share, colour) => {
    expect(fill(limits, share)).toBe(colour);
  });

  it("is none as long as nobody knows from where a limit is close", () => {
    for (const share of [0.5, 0.95, 1.2])
      expect(fill({ needed: [2], close: null }, share)).not.toMatch(/within|close|over/);
  });

  it("is none for a station that was not judged", () => {
    expect(fill(limits, null)).not.toMatch(/within|close|over/);
  });
});
