/** A person at the bench and the service behind: what is pressed is what is stored, taken back and kept. */
import { QueryClient, QueryClientProvider, useQuery } from "@tanstack/react-query";
import { act, renderHook, waitFor } from "@testing-library/react";
import fc from "fast-check";
import type { ReactNode } from "react";
import { beforeEach, describe, expect, it, vi } from "vitest";

import { keepToken } from "../src/api/client";
import type { Design, JobState, OwnStation, PlacedStation } from "../src/api/types";
import { drawingOf, hatchOf, middleOf, scaleBar, turned } from "../src/drawing/drawing";
import { usePlacing } from "../src/drawing/placing";
import { type Editor, EditorProvider, useJobEditor, valueAt } from "../src/editing/editor";
import { rowAt } from "../src/steps/program/playing";
import { station } from "./shown";

const drawing = { part: [[[0, 0], [60, 0], [60, 40], [0, 40]]], parts: [], stops: [], clamps: [], sweep: [] }; // prettier-ignore

/** A design with stations of one kind, and the bench over it; ``sent`` is what the service would be told. */
function bench(stations: PlacedStation[], turns: number[] = [0, 90, 180, 270]) {
  const sent: { path: string; value: { own: boolean; stations: OwnStation[] } }[] = [];
  const design = { stations, kinds: [{ drawing, op_number: 10 }], faces: ["B0°", "B90°"] } as unknown as Design;
  const editor = {
    job: { id: "1", version: 1 },
    here: {
      number: 1,
      setup: { arrangement: { own: false, stations: [] } },
      shown: { held: [{ station: { turns } }] },
      on: { block: { faces: 2 } },
      of: (field: string) => `route.setups.0.${field}`,
    },
    change: (path: string, value: never) => sent.push({ path, value }),
    errors: {},
    busy: () => false,
    onRest: () => () => undefined,
    steps: 0,
  } as unknown as Editor;
  const hook = renderHook(() => usePlacing(design), {
    wrapper: ({ children }: { children: ReactNode }) => <EditorProvider value={editor}>{children}</EditorProvider>,
  });
  const now = () => hook.result.current;
  const pick = (...numbers: number[]) =>
    numbers.forEach((number, k) => {
      act(() => now().select(number, k > 0));
    });
  return { now, pick, sent, design, stored: () => sent.at(-1)?.value.stations ?? [] };
}

const row = (count: number, more: Partial<PlacedStation> = {}) =>
  Array.from({ length: count }, (_unused, k) => station(k + 1, 80 * k, 10, more));

describe("stations placed by hand", () => {
  it("a quarter turn leaves the middle of the part where it is, and four bring it back", () => {
    fc.assert(
      fc.property(fc.constantFrom(0, 90, 180, 270), fc.constantFrom(90, 180, 270), (from, by) => {
        const { now, pick, stored, design } = bench([station(1, 200, 100, { turn: from as 0 })]);
        const middle = (place: { x_mm: unknown; y_mm: unknown; turn?: number | null }) => {
          const [mx, my] = middleOf(drawingOf(design, {}));
          const [dx, dy] = turned(mx, my, place.turn ?? 0);
          return [(place.x_mm as number) + dx, (place.y_mm as number) + dy];
        };
        const before = middle({ x_mm: 200, y_mm: 100, turn: from });
        pick(1);
        act(() => now().turn(by));
        const [there] = stored();
        expect(there?.turn).toBe((from + by) % 360);
        const after = middle(there as OwnStation);
        expect(after[0]).toBeCloseTo(before[0] ?? 0, 3);
        expect(after[1]).toBeCloseTo(before[1] ?? 0, 3);
        // It stands there at once, with no verdict until the service has one.
        expect(now().stations[0]).toMatchObject({ x_mm: there?.x_mm, hold_factor: 0, feature: "", faults: [] });
      }),
    );
  });

  it("turns only as its clamp allows, and stays where there is one way only", () => {
    const two = bench([station(1, 0, 0)], [0, 180]);
    two.pick(1);
    act(() => two.now().turn(90));
    expect(two.stored()[0]?.turn).toBe(180);
    const one = bench([station(1, 5, 5)], [0]);
    one.pick(1);
    act(() => one.now().turn(90));
    expect(one.stored()[0]).toMatchObject({ turn: 0, x_mm: 5, y_mm: 5 });
  });

  it("moves what is picked and nothing else, to the thousandth", () => {
    const { now, pick, stored, sent } = bench(row(4));
    pick(2, 3);
    act(() => now().nudge(0.1, -0.02));
    expect(sent.at(-1)?.path).toBe("route.setups.0.arrangement");
    expect(sent.at(-1)?.value.own).toBe(true);
    expect(stored().map((item) => [item.x_mm, item.y_mm])).toEqual([[0, 10], [80.1, 9.98], [160.1, 9.98], [240, 10]]); // prettier-ignore
    act(() => now().nudge(0.1, -0.02)); // from where it was put, though nobody has answered yet
    expect(stored()[1]).toMatchObject({ x_mm: 80.2, y_mm: 9.96 });
    act(() => now().toFace(-1));
    expect(stored().map((item) => item.face)).toEqual([0, 1, 1, 0]);
  });

  it("locks all that are picked where one was not, keeps the locked ones, takes out with the partner", () => {
    const { now, pick, stored } = bench([...row(2, { locked: true }), station(3, 300, 0)]);
    pick(1, 3);
    act(() => now().lock());
    expect(stored().map((item) => item.locked)).toEqual([true, true, true]);
    act(() => now().lock());
    expect(stored().map((item) => item.locked)).toEqual([false, true, false]);
    act(() => now().aroundLocked());
    expect(stored()).toHaveLength(1);
    const vise = bench([
      station(1, 0, 0, { with_station: 2 }),
      station(2, 0, 60, { with_station: 1 }),
      station(3, 90, 0),
    ]);
    vise.pick(2);
    act(() => vise.now().remove());
    expect(vise.stored().map((item) => item.x_mm)).toEqual([90]);
    expect(vise.now().selected.size).toBe(0);
  });

  it("what stands as it stood is the same thing, and is not drawn again", () => {
    const { now, pick, design } = bench(row(50));
    pick(7);
    act(() => now().nudge(1, 0));
    const same = now().stations.filter((item, k) => item === design.stations[k]);
    expect(same).toHaveLength(49);
  });

  it("picks one, more, none", () => {
    const { now, pick } = bench(row(3));
    pick(1, 2);
    expect([...now().selected]).toEqual([1, 2]);
    act(() => now().select(1, true));
    expect([...now().selected]).toEqual([2]);
    act(() => now().select(null));
    expect(now().selected.size).toBe(0);
  });
});

it("a scale bar is a round length, between a tenth and a quarter of the width", () => {
  fc.assert(
    fc.property(fc.double({ min: 3, max: 5000, noNaN: true }), (width) => {
      const bar = scaleBar(width);
      expect(bar / width).toBeLessThanOrEqual(0.25 + 1e-9);
      expect(bar / width).toBeGreaterThan(0.1 - 1e-9);
      expect(["1", "2", "5"]).toContain(bar.toExponential(6).slice(0, 1));
    }),
  );
});

it("ops alike look alike: by their number, by their place where two parts share one", () => {
  const kinds = (...numbers: number[]) => ({ kinds: numbers.map((op_number) => ({ op_number })) }) as unknown as Design;
  expect([0, 1].map((kind) => hatchOf(kinds(10, 20), kind))).toEqual([0, 1]);
  expect([0, 1].map((kind) => hatchOf(kinds(20, 30), kind))).toEqual([1, 2]);
  expect([0, 1].map((kind) => hatchOf(kinds(10, 10), kind))).toEqual([0, 1]);
});

it("a program is at the first move that is not over, as a look from the front finds it", () => {
  const times = fc.array(fc.integer({ min: 0, max: 50 }), { minLength: 1, maxLength: 30 });
  fc.assert(
    fc.property(times, fc.integer({ min: -1, max: 60 }), (unsorted, at) => {
      const seconds = [...unsorted].sort((a, b) => a - b);
      const found = seconds.findIndex((value) => value >= at);
      expect(rowAt(seconds, at)).toBe(found < 0 ? seconds.length - 1 : found);
    }),
  );
});

describe("editing a job", () => {
  /** A service with one field that must be above nothing, a version, and everyone's last change to take back. */
  function service() {
    let torque = 10;
    let version = 1;
    let elsewhere = false;
    const steps: { key: string; before: number }[] = [];
    const asked: string[] = [];
    const state = () =>
      ({
        id: "1",
        version,
        document: { job: { parts: [], rules: {} }, route: { setups: [{ torque, machine: {} }] } },
        setups: [{ at: "route.setups.0", plate: null, block: null, held: [] }],
        latest: null,
        facts: [],
      }) as unknown as JobState;
    // It takes its time, or waits until it is let go: what is pressed next is pressed before the answer.
    let held = Promise.resolve();
    const hold = () => {
      let go = () => {};
      held = new Promise((done) => (go = done));
      return go;
    };
    const answer = async (body: unknown, status = 200) => {
      await held;
      await new Promise((done) => setTimeout(done, 30));
      return new Response(JSON.stringify(body), { status });
    };
    const fetched = (path: string, given: { body: string | null; headers: Record<string, string> }) => {
      const body = given.body ? (JSON.parse(given.body) as Record<string, unknown>) : {};
      if (path.endsWith("/steps")) return answer({ undo: steps.at(-1) ? { id: "x" } : null, redo: null });
      asked.push(path.split("/").at(-1) ?? "");
      if (path.endsWith("/undo")) {
        const last = steps.at(-1);
        if (!last || (body.step && body.step !== last.key)) return answer({ detail: "nothing of that" }, 409);
        steps.pop();
        torque = last.before;
      } else {
        if (elsewhere) {
          elsewhere = false;
          torque = 14;
          version += 1;
          return answer({ title: "Changed meanwhile", detail: "someone was first" }, 409);
        }
        if (body.version !== version) return answer({ detail: "someone was first" }, 409);
        if ((body.value as number) <= 0)
          return answer({ detail: "not stored", errors: [{ field: body.path, value: "", message: "above 0" }] }, 422);
        steps.push({ key: given.headers["Idempotency-Key"] ?? "", before: torque });
        torque = body.value as number;
      }
      version += 1;
      return answer(state());
    };
    return { state, fetched, asked, hold, torque: () => torque, someoneElse: () => (elsewhere = true) };
  }

  const PATH = "route.setups.0.torque";

  function editing() {
    const there = service();
    vi.stubGlobal("fetch", vi.fn(there.fetched));
    const cache = new QueryClient({ defaultOptions: { queries: { retry: false }, mutations: { retry: false } } });
    const hook = renderHook(
      () => {
        const query = { queryKey: ["job", "1"], queryFn: () => Promise.resolve(there.state()), staleTime: Infinity };
        const { editor, sending } = useJobEditor(useQuery({ ...query, initialData: there.state }).data, true, 1);
        return { ...editor, ...sending };
      },
      {
        wrapper: ({ children }: { children: ReactNode }) => (
          <QueryClientProvider client={cache}>{children}</QueryClientProvider>
        ),
      },
    );
    const rests = () => waitFor(() => expect(hook.result.current.saving).toBe(false));
    return { there, hook, rests, now: () => hook.result.current };
  }

  beforeEach(() => keepToken("a token"));

  it("keeps the reason of a refusal at its field until that field is right", async () => {
    const { now, rests, there } = editing();
    act(() => now().change(PATH, -1));
    await waitFor(() => expect(now().errors).toEqual({ [PATH]: "above 0" }));
    await rests();
    expect(there.torque()).toBe(10);
    act(() => now().change(PATH, 16));
    await waitFor(() => expect(now().errors).toEqual({}));
    expect(there.torque()).toBe(16);
  });

  it("an undo pressed before the answer takes back that very change, and changes go one after another", async () => {
    const { now, rests, there } = editing();
    const go = there.hold();
    act(() => now().change(PATH, 12));
    act(() => now().change(PATH, 13));
    await waitFor(() => expect(now().undo).not.toBeNull());
    expect(there.torque()).toBeLessThan(13); // not there yet
    act(() => now().undo?.());
    go();
    await rests();
    await waitFor(() => expect(there.asked).toEqual(["fields", "fields", "undo"]));
    await waitFor(() => expect(there.torque()).toBe(12));
    expect(now().stuck).toBeNull();
  });

  it("an undo after several changes that are stored takes back the last, whatever it is", async () => {
    const { now, rests, there } = editing();
    const heard = vi.fn();
    act(() => void now().onRest(heard));
    act(() => now().change(PATH, 12));
    act(() => now().change(PATH, 13));
    expect(now().busy()).toBe(true);
    await rests();
    await waitFor(() => expect(heard).toHaveBeenCalledTimes(1)); // once both are stored
    expect(now().busy()).toBe(false);
    expect(there.torque()).toBe(13);
    act(() => now().undo?.());
    await waitFor(() => expect(there.torque()).toBe(12));
    await rests();
    expect(now().stuck).toBeNull();
  });

  it.each([
    ["mine", 18],
    ["theirs", 14],
  ] as const)("who comes second is asked, and %s stands", async (how, stands) => {
    const { now, rests, there } = editing();
    there.someoneElse();
    act(() => now().change(PATH, 18));
    await waitFor(() => expect(now().refused).toMatchObject({ path: PATH, value: 18 }));
    await rests();
    await waitFor(() => expect(valueAt(now().job.document, PATH)).toBe(14)); // what the others made of it is seen
    act(() => now().settle(how));
    await rests();
    await waitFor(() => expect(there.torque()).toBe(stands));
    await waitFor(() => expect(now().refused).toBeNull());
    expect(now().errors[PATH]).toBeUndefined();
  });

  it("finds a value by its path, and nothing where there is none", () => {
    const document = { a: [{ b: 3 }], c: null };
    expect(valueAt(document, "a.0.b")).toBe(3);
    expect(valueAt(document, "")).toBe(document);
    for (const path of ["a.1.b", "c.d", "x"]) expect(valueAt(document, path)).toBeUndefined();
  });
});
