/** Stations under the pointer and the keys: where they come to rest, what goes with them, where the arrows lead. */
import fc from "fast-check";
import type { KeyboardEvent } from "react";
import { describe, expect, it, vi } from "vitest";

import { benchKeys } from "../src/drawing/benchKeys";
import { bounds, turned, type Ring } from "../src/drawing/drawing";
import { together, withPartners } from "../src/drawing/partners";
import type { Placing } from "../src/drawing/placing";
import { contains, snapped, type Spot } from "../src/drawing/snapping";
import { station } from "./shown";

const place = fc.integer({ min: -2000, max: 2000 }).map((tenths) => tenths / 10);
const spot = fc.record({ x: place, y: place });
const turn = fc.constantFrom(0, 90, 180, 270);

/** A convex room: corners on a circle, one after another. */
const room = fc
  .tuple(spot, fc.integer({ min: 20, max: 150 }), fc.uniqueArray(fc.integer({ min: 0, max: 35 }), { minLength: 3 }))
  .map(([middle, radius, tens]) =>
    [...tens]
      .sort((a, b) => a - b)
      .map((ten) => (ten * Math.PI) / 18)
      .map((angle): [number, number] => [middle.x + radius * Math.cos(angle), middle.y + radius * Math.sin(angle)]),
  );

/** How far a place lies inside a convex ring that goes round to the left: the least of its edges, below nothing outside. */
const depth = (ring: Ring, { x, y }: Spot): number =>
  Math.min(
    ...ring.map(([ax = 0, ay = 0], k) => {
      const [bx = 0, by = 0] = ring[(k + 1) % ring.length] ?? [];
      return ((bx - ax) * (y - ay) - (by - ay) * (x - ax)) / Math.hypot(bx - ax, by - ay);
    }),
  );

describe("a station that is dragged", () => {
  it("is inside where it is on the left of every edge", () => {
    fc.assert(
      fc.property(room, spot, (ring, at) => {
        const inside = depth(ring, at);
        if (Math.abs(inside) > 1e-6) expect(contains([ring], at)).toBe(inside > 0);
      }),
    );
    const square: Ring = [[0, 0], [10, 0], [10, 10], [0, 10]]; // prettier-ignore
    const hole: Ring = [[4, 4], [6, 4], [6, 6], [4, 6]]; // prettier-ignore
    expect(contains([square, hole], { x: 5, y: 5 })).toBe(false);
    expect(contains([square, hole], { x: 2, y: 5 })).toBe(true);
  });

  it("lines up with the nearest of those in reach", () => {
    const near = fc.integer({ min: -60, max: 60 }).map((tenths) => tenths / 10);
    fc.assert(
      fc.property(
        spot,
        fc.array(fc.record({ x: near, y: near }), { minLength: 2, maxLength: 5 }),
        (wanted, offsets) => {
          const others = offsets.map(({ x, y }) => ({ x: wanted.x + x, y: wanted.y + y }));
          const rests = snapped(wanted, others, [], 0, 5);
          const least = (off: number[]) => Math.min(...off.map(Math.abs));
          const [across, up] = [least(offsets.map(({ x }) => x)), least(offsets.map(({ y }) => y))];
          expect(Math.abs(rests.x - wanted.x)).toBeCloseTo(across <= 5 ? across : 0, 2);
          expect(Math.abs(rests.y - wanted.y)).toBeCloseTo(up <= 5 ? up : 0, 2);
          expect([rests.column !== null, rests.row !== null]).toEqual([across <= 5 + 1e-9, up <= 5 + 1e-9]);
        },
      ),
    );
  });

  it("rests in the room, or where it was put when the room is far", () => {
    fc.assert(
      fc.property(room, spot, fc.array(spot, { maxLength: 4 }), place.map(Math.abs), (ring, wanted, others, step) => {
        const reach = 5;
        const rests = snapped(wanted, others, [[ring]], step > 10 ? 0 : step, reach);
        const drawn = Math.hypot(rests.x - wanted.x, rests.y - wanted.y);
        if (rests.touches) {
          expect(Math.abs(depth(ring, rests))).toBeLessThan(2e-3);
          // To the edge from where rows and steps had drawn it: never further than both together reach.
          expect(drawn).toBeLessThanOrEqual(
            2 * reach + Math.hypot(Math.max(reach, step / 2), Math.max(reach, step / 2)) + 2e-3,
          );
        } else {
          expect(Math.abs(rests.x - wanted.x)).toBeLessThanOrEqual(Math.max(reach, step / 2) + 1e-3);
          expect(Math.abs(rests.y - wanted.y)).toBeLessThanOrEqual(Math.max(reach, step / 2) + 1e-3);
        }
        // What it says it lines up with, it lines up with; and nothing was nearer.
        if (rests.row) {
          expect(rests.y).toBeCloseTo(rests.row.y, 2);
          const nearest = Math.min(...others.map((other) => Math.abs(other.y - wanted.y)));
          expect(Math.abs(rests.row.y - wanted.y)).toBe(nearest);
        }
        if (rests.column) expect(rests.x).toBeCloseTo(rests.column.x, 2);
        for (const value of [rests.x, rests.y])
          expect(Math.abs(1000 * value - Math.round(1000 * value))).toBeLessThan(1e-6);
      }),
    );
  });

  it("a quarter turn keeps lengths, four of them are none, and the box is as large as what is in it", () => {
    fc.assert(
      fc.property(spot, turn, ({ x, y }, by) => {
        const [a, b] = turned(x, y, by);
        expect(Math.hypot(a, b)).toBeCloseTo(Math.hypot(x, y), 9);
        const angle = (by * Math.PI) / 180;
        expect(a).toBeCloseTo(x * Math.cos(angle) - y * Math.sin(angle), 9);
        expect(b).toBeCloseTo(x * Math.sin(angle) + y * Math.cos(angle), 9);
      }),
    );
    fc.assert(
      fc.property(room, (ring) => {
        const box = bounds(ring);
        for (const [x = 0, y = 0] of ring) {
          expect(x).toBeGreaterThanOrEqual(box.left);
          expect(y).toBeLessThanOrEqual(box.high);
        }
        expect(ring.some(([x]) => x === box.right) && ring.some(([, y]) => y === box.low)).toBe(true);
      }),
    );
  });
});

describe("two stations in one body", () => {
  const bare = (item: ReturnType<typeof station>) => ({
    face: item.face ?? 0,
    kind: 0,
    x_mm: item.x_mm,
    y_mm: item.y_mm,
    turn: item.turn,
    locked: item.locked ?? false,
    measured: null,
  });

  it("keep their distance and their turn to one another, however one is moved", () => {
    fc.assert(
      fc.property(spot, spot, spot, turn, turn, turn, (one, two, to, first, second, after) => {
        const stations = [
          station(1, one.x, one.y, { turn: first as 0, with_station: 2 }),
          station(2, two.x, two.y, { turn: second as 0, with_station: 1 }),
        ];
        const [a, b] = stations as [(typeof stations)[0], (typeof stations)[0]];
        const [moved, follows] = together(stations, [
          { ...bare(a), x_mm: to.x, y_mm: to.y, turn: after as 0 },
          bare(b),
        ]);
        expect([moved?.x_mm, moved?.y_mm, moved?.turn]).toEqual([to.x, to.y, after]);
        // Seen from the first, the second stands where it stood.
        const seen = (from: { x: number; y: number; turn: number }, of: { x: number; y: number }) =>
          turned(of.x - from.x, of.y - from.y, (360 - from.turn) % 360);
        const before = seen({ ...one, turn: first }, two);
        const now = seen({ ...to, turn: after }, { x: follows?.x_mm as number, y: follows?.y_mm as number });
        expect(now[0]).toBeCloseTo(before[0], 5);
        expect(now[1]).toBeCloseTo(before[1], 5);
        const between = (x: number, y: number) => (y - x + 720) % 360;
        expect(between(after, follows?.turn ?? 0)).toBe(between(first, second));
      }),
    );
  });

  it("one that was moved itself, or has no partner, is left alone; pressed together they are both meant", () => {
    const stations = [station(1, 0, 0, { with_station: 2 }), station(2, 0, 50, { with_station: 1 }), station(3, 80, 0)];
    const given = stations.map(bare).map((item, k) => (k < 2 ? { ...item, x_mm: 10 * (k + 1) } : item));
    expect(together(stations, given)).toEqual(given);
    expect(together(stations, given.slice(1))).toEqual(given.slice(1));
    expect([...withPartners(stations, new Set([2]))].sort()).toEqual([1, 2]);
    expect([...withPartners(stations, new Set([3]))]).toEqual([3]);
  });
});

describe("the plate by keys", () => {
  const bench = (stations: ReturnType<typeof station>[], chosen: number | null, step = 1) => {
    const state = { chosen };
    const nudge = vi.fn();
    const placing = {
      stations,
      get selected() {
        return new Set(state.chosen === null ? [] : [state.chosen]);
      },
      select: (number: number | null) => {
        state.chosen = number;
      },
      step,
      nudge,
    } as unknown as Placing;
    const others = { zoomBy: vi.fn(), fitAll: vi.fn(), measure: vi.fn(), letGo: vi.fn() };
    const keys = benchKeys({ placing, pitch: 500, mayMove: true, ...others });
    const press = (key: string, held: { shiftKey?: boolean; ctrlKey?: boolean } = {}) => {
      const event = { key, shiftKey: false, ctrlKey: false, metaKey: false, altKey: false, ...held };
      keys({ ...event, preventDefault: vi.fn(), stopPropagation: vi.fn() } as unknown as KeyboardEvent);
      return state.chosen;
    };
    return { press, nudge, ...others };
  };

  it("arrows reach every station, each in its own direction, over the edge of a face too", () => {
    const grid = [0, 1].flatMap((face) =>
      [0, 1, 2].flatMap((row) => [0, 1, 2, 3].map((column) => ({ face, x: 100 * column + 7 * row, y: 80 * row }))),
    );
    const stations = grid.map(({ face, x, y }, k) => station(k + 1, x, y, { face }));
    const right = (number: number) => {
      const item = stations[number - 1];
      return (item?.x_mm ?? 0) + 500 * (item?.face ?? 0);
    };
    const reached = new Set<number>([1]);
    const walk = [1];
    while (walk.length > 0) {
      const from = walk.pop() as number;
      for (const [key, goes] of [
        ["ArrowRight", (to: number) => right(to) > right(from)],
        ["ArrowLeft", (to: number) => right(to) < right(from)],
        ["ArrowUp", (to: number) => (stations[to - 1]?.y_mm ?? 0) > (stations[from - 1]?.y_mm ?? 0)],
        ["ArrowDown", (to: number) => (stations[to - 1]?.y_mm ?? 0) < (stations[from - 1]?.y_mm ?? 0)],
      ] as const) {
        const to = bench(stations, from).press(key) as number;
        expect(to === from || goes(to)).toBe(true);
        if (!reached.has(to)) walk.push(to);
        reached.add(to);
      }
    }
    expect(reached.size).toBe(stations.length);
    expect(bench(stations, null).press("ArrowUp")).toBe(1);
    expect(bench([], null).press("ArrowUp")).toBe(null);
  });

  it("Shift nudges by the step, with Ctrl by a tenth of it; the others zoom, fit, measure and let go", () => {
    const at = bench([station(1, 0, 0)], 1, 5);
    at.press("ArrowLeft", { shiftKey: true });
    at.press("ArrowUp", { shiftKey: true, ctrlKey: true });
    expect(at.nudge.mock.calls).toEqual([
      [-5, 0],
      [0, 0.5],
    ]);
    at.press("+");
    at.press("-");
    expect(at.zoomBy.mock.calls[0]?.[0] * at.zoomBy.mock.calls[1]?.[0]).toBeCloseTo(1, 12);
    for (const [key, what] of [
      ["0", at.fitAll],
      ["M", at.measure],
      ["Escape", at.letGo],
    ] as const) {
      at.press(key);
      expect(what).toHaveBeenCalledTimes(1);
    }
    at.press("m", { ctrlKey: true }); // the browser's own
    expect(at.measure).toHaveBeenCalledTimes(1);
  });
});
