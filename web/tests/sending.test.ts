/** What was written down at a machine gets to the service, once, whatever becomes of the network, the page or an entry. */
import fc from "fast-check";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

// What the screen asks for again is not of interest here.
vi.mock("../src/api/queries", () => ({ queryClient: { invalidateQueries: vi.fn() } }));

const KEY = "wedgecraft-log";

/** A service that keeps each entry under its id, refuses what happened at no station, and whose answers can be lost. */
function service(fails: () => "no network" | "answer lost" | "busy" | null) {
  const kept = new Set<string>();
  const seen: { headers: Record<string, string>; ids: string[] }[] = [];
  const answer = vi.fn((_path: string, asked: { headers: Record<string, string>; body: string }) => {
    const { entries } = JSON.parse(asked.body) as { entries: { id: string; why: string }[] };
    const trouble = fails();
    if (trouble === "no network") return Promise.reject(new TypeError("failed"));
    if (trouble === "busy") return Promise.resolve(new Response("{}", { status: 503 }));
    seen.push({ headers: asked.headers, ids: entries.map(({ id }) => id) });
    if (entries.some(({ why }) => why === "no station"))
      return Promise.resolve(
        new Response(JSON.stringify({ title: "Not taken", detail: "no such station" }), { status: 422 }),
      );
    for (const { id } of entries) kept.add(id);
    return trouble === "answer lost"
      ? Promise.reject(new TypeError("lost"))
      : Promise.resolve(new Response(JSON.stringify({ kept: entries.length }), { status: 200 }));
  });
  return { kept, seen, answer };
}

const waiting = () => JSON.parse(localStorage.getItem(KEY) ?? "[]") as { entry: { id: string }; refused?: string }[];

/** The page as it is opened: nothing of the one before is left but what the browser keeps. */
async function opened() {
  vi.resetModules();
  const client = await import("../src/api/client");
  const outbox = await import("../src/api/outbox");
  client.keepToken("a token");
  return outbox;
}

beforeEach(() => {
  vi.useFakeTimers();
  localStorage.clear();
});
afterEach(() => {
  vi.clearAllTimers();
  vi.useRealTimers();
});

const nowhere = { kind: "stop", setup: 1, why: "no station" } as never;
const stop = { kind: "stop", setup: 1, why: "chips" } as never;

describe("the outbox", () => {
  it("delivers every entry once through drops, lost answers and closed pages, and keeps what is refused", async () => {
    const trouble = fc.array(fc.constantFrom("no network", "answer lost", "busy", null), { maxLength: 6 });
    await fc.assert(
      fc.asyncProperty(
        trouble,
        fc.array(fc.record({ job: fc.constantFrom("a", "b"), reopen: fc.boolean() }), { minLength: 1, maxLength: 6 }),
        fc.boolean(),
        async (troubles, entries, oneIsBad) => {
          localStorage.clear();
          const left = [...troubles];
          let refused: string | null = null;
          const { kept, answer } = service(() => left.shift() ?? null);
          vi.stubGlobal("fetch", answer);
          let outbox = await opened();
          const ids: string[] = [];
          for (const { job, reopen } of entries) {
            const bad = oneIsBad && ids.length === 1;
            outbox.writeDown(job, bad ? nowhere : stop);
            const id = waiting().at(-1)?.entry.id as string;
            ids.push(id);
            if (bad) refused = id;
            if (reopen) outbox = await opened();
          }
          for (let tries = 0; tries < 12; tries += 1) await vi.advanceTimersByTimeAsync(4000);
          const good = ids.filter((id) => id !== refused);
          expect([...kept.keys()].sort()).toEqual([...good].sort());
          expect(waiting().map((item) => item.entry.id)).toEqual(refused ? [refused] : []);
          if (refused) {
            expect(waiting()[0]?.refused).toBe("no such station");
            outbox.forget(refused);
            expect(waiting()).toEqual([]);
          }
        },
      ),
      { numRuns: 40 },
    );
  }, 60_000);

  it("gives each entry a time and an id of its own, and lives with what it cannot read", async () => {
    localStorage.setItem(KEY, "{ torn");
    vi.stubGlobal("fetch", service(() => "no network").answer); // prettier-ignore
    const outbox = await opened();
    outbox.writeDown("a", stop);
    outbox.writeDown("a", stop);
    const [one, two] = waiting() as unknown as { entry: { id: string; at: string } }[];
    expect(one?.entry.id).toMatch(/^[0-9a-f]{32}$/);
    expect(one?.entry.id).not.toBe(two?.entry.id);
    expect(Number.isNaN(Date.parse(one?.entry.at ?? ""))).toBe(false);
  });
});

describe("asking the service", () => {
  it("sends a change again under the same key, and another under another", async () => {
    const { call, keyOf } = await import("../src/api/client");
    const asked: Record<string, string>[] = [];
    vi.stubGlobal("fetch", (_path: string, { headers }: { headers: Record<string, string> }) => {
      asked.push(headers);
      return Promise.resolve(new Response("{}", { status: 200 }));
    });
    const [one, two] = [{ path: "job.name" }, { path: "job.name" }];
    for (const change of [one, one, two]) await call("PATCH", "/api/jobs/1/fields", {}, change);
    const keys = asked.map((headers) => headers["Idempotency-Key"]);
    expect(keys[0]).toBe(keys[1]);
    expect(keys[0]).not.toBe(keys[2]);
    expect(keys[0]).toBe(keyOf(one));
    await call("GET", "/api/jobs");
    expect(asked.at(-1)?.["X-CSRFToken"]).toBeUndefined();
    expect(asked[0]).toHaveProperty("X-CSRFToken");
  });

  it.each([
    [503, "{}", true, "The service answered 503."],
    [422, '{"title": "Not stored", "detail": "at most 23 N·m"}', false, "at most 23 N·m"],
    [500, "<html>", false, "The service answered 500."],
  ])("says in words what it answered: %i", async (status, body, passing, said) => {
    const { call, Problem } = await import("../src/api/client");
    vi.stubGlobal("fetch", () => Promise.resolve(new Response(body, { status })));
    const problem = await call("GET", "/x").catch((error: unknown) => error);
    expect(problem).toBeInstanceOf(Problem);
    expect(problem).toMatchObject({ status, passing, detail: said });
  });

  it("says that nothing answers, and that this passes", async () => {
    const { call } = await import("../src/api/client");
    vi.stubGlobal("fetch", () => Promise.reject(new TypeError("failed")));
    const problem = await call("GET", "/x").catch((error: unknown) => error);
    expect(problem).toMatchObject({ status: 0, passing: true, title: "No connection" });
  });
});
