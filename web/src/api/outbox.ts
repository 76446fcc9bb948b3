/** What was written down waits here, in the browser, until the service has it: through a dropped network, a closed
 * page, a flat battery. Every entry has an id of its own, so that one that is sent again counts once. */
import { useSyncExternalStore } from "react";

import { call, hasToken, newKey, Problem } from "./client";
import type { LogEntry, LogKept } from "./log";
import { queryClient } from "./queries";

interface Waiting {
  job: string;
  entry: LogEntry;
  /** Why the service would not take it; it stays until somebody has looked at it. */
  refused?: string;
}

/** An entry as it is written down: its time and its id come by themselves. */
export type Fresh = LogEntry extends infer E
  ? E extends LogEntry
    ? Omit<E, "id" | "at"> & { at?: string }
    : never
  : never;

const KEY = "wedgecraft-log";
const AGAIN_MS = 4000;
/** A page that was just opened asks for its session first. */
const SOON_MS = 500;
/** Answers that are about the entry itself; whatever else is answered, it goes again. */
const FINAL = [403, 404, 413, 422];
const AT_ONCE = 200;
const listeners = new Set<() => void>();
let seen: { text: string; list: Waiting[] } = { text: "", list: [] };
let sending = false;
let timer: number | undefined;

function list(): Waiting[] {
  const text = localStorage.getItem(KEY) ?? "[]";
  if (text !== seen.text) {
    try {
      seen = { text, list: JSON.parse(text) as Waiting[] };
    } catch {
      seen = { text, list: [] };
    }
  }
  return seen.list;
}

function keep(change: (before: Waiting[]) => Waiting[]): void {
  localStorage.setItem(KEY, JSON.stringify(change(list())));
  listeners.forEach((tell) => tell());
}

/** Write an entry down; it is on its way at once, and again and again until it is there. */
export function writeDown(job: string, entry: Fresh): void {
  const whole = { at: new Date().toISOString(), ...entry, id: newKey() } as LogEntry;
  keep((before) => [...before, { job, entry: whole }]);
  void send();
}

/** Take off what the service would not have. */
export function forget(id: string): void {
  keep((before) => before.filter((item) => item.entry.id !== id));
}

async function send(): Promise<void> {
  if (sending) return;
  window.clearTimeout(timer);
  if (!hasToken()) {
    timer = window.setTimeout(() => void send(), SOON_MS);
    return;
  }
  sending = true;
  try {
    for (;;) {
      const first = list().find((item) => !item.refused);
      if (!first) return;
      const mine = list()
        .filter((item) => item.job === first.job && !item.refused)
        .slice(0, AT_ONCE);
      await one(first.job, mine);
    }
  } catch {
    timer = window.setTimeout(() => void send(), AGAIN_MS);
  } finally {
    sending = false;
  }
}

/** Send some of one job; one by one where the service will not have all of them. */
async function one(job: string, some: Waiting[]): Promise<void> {
  const ids = new Set(some.map((item) => item.entry.id));
  try {
    const body = { sent_at: new Date().toISOString(), entries: some.map((item) => item.entry) };
    await call<LogKept>("POST", `/api/jobs/${job}/log`, body);
    keep((before) => before.filter((item) => !ids.has(item.entry.id)));
    void queryClient.invalidateQueries({ queryKey: ["log", job] });
  } catch (error) {
    const final = error instanceof Problem && FINAL.includes(error.status);
    if (!final) throw error;
    if (some.length > 1) for (const item of some) await one(job, [item]);
    else
      keep((before) =>
        before.map((item) => (ids.has(item.entry.id) ? { ...item, refused: (error as Problem).message } : item)),
      );
  }
}

function subscribe(tell: () => void): () => void {
  listeners.add(tell);
  return () => listeners.delete(tell);
}

/** What still waits of a job, and what was refused. */
export function useOutbox(job: string): { waiting: number; refused: Waiting[] } {
  const all = useSyncExternalStore(subscribe, list);
  const mine = all.filter((item) => item.job === job);
  return { waiting: mine.filter((item) => !item.refused).length, refused: mine.filter((item) => item.refused) };
}

window.addEventListener("online", () => void send());
window.addEventListener("storage", () => listeners.forEach((tell) => tell()));
if (list().length > 0) void send();
