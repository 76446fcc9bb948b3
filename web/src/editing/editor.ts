/** Editing one job: every change is stored as it is made, can be taken back (the service keeps what was before), and a refused value keeps its reason beside its field. */
import { createContext, useCallback, useContext, useMemo, useRef, useState } from "react";

import { keyOf, Problem } from "../api/client";
import { useJobChange, useJobStep, useSteps } from "../api/queries";
import type { Figure, JobState, Op, Part, PlanRequest } from "../api/types";
import type { Stored } from "../ui/Field";

export interface Editor {
  job: JobState;
  request: PlanRequest;
  mayEdit: boolean;
  change: (path: string, value: unknown) => void;
  errors: Record<string, string>;
  undo: (() => void) | null;
  redo: (() => void) | null;
  /** How often something was taken back or done again: what a view shows ahead of the service is out of date then. */
  steps: number;
  /** Why something could not be taken back. */
  stuck: string | null;
  saving: boolean;
  trouble: Error | null;
  /** What was refused because someone else changed the job first: nothing of it is lost. */
  refused: Refused | null;
  settle: (how: "mine" | "theirs") => void;
}

export interface Refused {
  path: string;
  value: unknown;
  why: string;
}

const EditorContext = createContext<Editor | null>(null);
export const EditorProvider = EditorContext.Provider;

export function useEditor(): Editor {
  const editor = useContext(EditorContext);
  if (!editor) throw new Error("outside a job");
  return editor;
}

export function valueAt(document: unknown, path: string): unknown {
  return path === ""
    ? document
    : path.split(".").reduce<unknown>((node, key) => (node as Record<string, unknown> | null)?.[key], document);
}

export function useJobEditor(job: JobState, mayEdit: boolean): Editor {
  const store = useJobChange(job.id);
  const step = useJobStep(job.id);
  const known = useSteps(job.id, job.version);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [refused, setRefused] = useState<Refused | null>(null);
  const [steps, setSteps] = useState(0);
  const [last, setLast] = useState<"change" | "undo" | "redo">("change");
  // Changes on their way: the last of them is what a press of undo means, before the service has even answered it.
  const sent = useRef<object[]>([]);
  const { mutate } = store;
  const { mutate: go } = step;

  const change = useCallback(
    (path: string, value: unknown) => {
      const given = { path, value };
      sent.current = [...sent.current, given];
      setLast("change");
      mutate(given, {
        onSuccess: () => {
          setRefused((before) => (before?.path === path ? null : before));
          setErrors((before) => Object.fromEntries(Object.entries(before).filter(([key]) => key !== path)));
        },
        onError: (error) => {
          if (error instanceof Problem && error.status === 409) setRefused({ path, value, why: error.detail });
          const message = error instanceof Problem ? (error.errors[0]?.message ?? error.detail) : error.message;
          setErrors((before) => ({ ...before, [path]: message }));
        },
        onSettled: () => {
          sent.current = sent.current.filter((item) => item !== given);
        },
      });
    },
    [mutate],
  );

  const undo = useCallback(() => {
    const newest = sent.current.at(-1);
    sent.current = sent.current.slice(0, -1);
    setSteps((count) => count + 1);
    setLast("undo");
    go({ way: "undo", step: newest ? keyOf(newest) : null });
  }, [go]);
  const redo = useCallback(() => {
    setSteps((count) => count + 1);
    setLast("redo");
    go({ way: "redo", step: null });
  }, [go]);

  // What was just done can be taken back, and done again, before the service has told anew what can be.
  const learning = step.isPending || store.isPending || known.isPlaceholderData;

  return useMemo(
    () => ({
      job,
      request: job.request,
      mayEdit,
      change,
      errors,
      undo: mayEdit && (known.data?.undo || (learning && last !== "undo")) ? undo : null,
      redo: mayEdit && (known.data?.redo || (learning && last === "undo")) ? redo : null,
      steps,
      stuck: step.error?.message ?? null,
      refused,
      settle: (how) => {
        setRefused(null);
        setErrors((before) => Object.fromEntries(Object.entries(before).filter(([key]) => key !== refused?.path)));
        if (how === "mine" && refused) change(refused.path, refused.value);
      },
      saving: store.isPending || step.isPending,
      trouble: store.isPending && store.failureReason ? store.failureReason : null,
    }),
    [
      job,
      mayEdit,
      errors,
      change,
      undo,
      redo,
      steps,
      last,
      learning,
      known.data,
      refused,
      step.error,
      step.isPending,
      store.isPending,
      store.failureReason,
    ],
  );
}

/** An op with the station it is held in: one of those laid out here, or one before them that leaves its errors on the part. */
export interface Held {
  part: number;
  op: number;
  name: string;
  /** Where its station stands in the request, and what it is; ops without one of their own have the first one's. */
  at: string;
  station: PlanRequest["station"];
  own: boolean;
  here: boolean;
}

/** The planned ops, the first one first, and after them the ops before them that are not laid out here. */
export function heldOps(request: PlanRequest): Held[] {
  const planned = [request.planned, ...(request.also ?? [])].map((item) => ({
    part: item?.part ?? 0,
    op: item?.op ?? 0,
  }));
  const parts = [...new Set(planned.map((item) => item.part))];
  const elsewhere = request.elsewhere ?? [];
  const numberOf = (part: number, op: number) => request.parts[part]?.ops?.[op]?.number ?? 0;
  const held = (
    part: number,
    op: number,
    at: string | null,
    station: PlanRequest["station"] | null | undefined,
    here: boolean,
  ): Held => ({
    part,
    op,
    here,
    name: `${parts.length > 1 ? `${request.parts[part]?.name ?? ""}, ` : ""}op ${String(numberOf(part, op))}`,
    ...(at !== null && station ? { at, station, own: true } : { at: "station", station: request.station, own: false }),
  });
  const before = parts.flatMap((part) => {
    const last = Math.max(...planned.filter((item) => item.part === part).map((item) => numberOf(part, item.op)));
    const ops = (request.parts[part]?.ops ?? []).map((_, op) => op);
    return ops
      .filter((op) => numberOf(part, op) < last && !planned.some((item) => item.part === part && item.op === op))
      .map((op) => ({ part, op }));
  });
  return [
    ...planned.map(({ part, op }, index) =>
      index === 0
        ? held(part, op, "station", request.station, true)
        : held(part, op, `also.${String(index - 1)}.station`, request.also?.[index - 1]?.station, true),
    ),
    ...before.map(({ part, op }) => {
      const place = elsewhere.findIndex((item) => (item.part ?? 0) === part && (item.op ?? 0) === op);
      return held(part, op, place < 0 ? null : `elsewhere.${String(place)}.station`, elsewhere[place]?.station, false);
    }),
  ];
}

/** Gives an op a station of its own, or, with null, the first one's again. */
export function useOwnStation(): (op: Held, station: PlanRequest["station"] | null) => void {
  const { request, change } = useEditor();
  return (op, station) => {
    const same = (item: { part?: number; op?: number }) => (item.part ?? 0) === op.part && (item.op ?? 0) === op.op;
    if (op.here)
      change(
        "also",
        (request.also ?? []).map((item) => (same(item) ? { ...item, station } : item)),
      );
    else
      change("elsewhere", [
        ...(request.elsewhere ?? []).filter((item) => !same(item)),
        ...(station ? [{ part: op.part, op: op.op, station }] : []),
      ]);
  };
}

/** What a field of the request needs. */
export function useStored(): (path: string, unit?: string, text?: boolean) => Stored & { name: string } {
  const { request, change, errors, mayEdit } = useEditor();
  return (path, unit = "", text = false) => {
    const value = valueAt(request, path);
    return {
      name: path,
      value: typeof value === "number" || typeof value === "string" ? value : "",
      unit,
      text,
      disabled: !mayEdit,
      error: errors[path],
      store: (given) => change(path, given),
    };
  };
}

/** The figures of the latest result by id: those of load and hold, and those of its design. */
export function useFigures(): (id: string) => Figure | undefined {
  const { job } = useEditor();
  const result = job.latest?.result;
  return (id) =>
    result?.figures.find((item) => item.id === id) ?? result?.designs[0]?.figures.find((item) => item.id === id);
}

/** The part and the op the plate is laid out for, and its features whose tolerance depends on where a station stands. */
export function usePlanned() {
  const { request, job } = useEditor();
  const planned = { part: request.planned?.part ?? 0, op: request.planned?.op ?? 0 };
  const part = request.parts[planned.part] as Part;
  const op = part.ops?.[planned.op] as Op;
  const indices = job.facts[planned.part]?.ops[planned.op]?.judged ?? [];
  const judged = indices.flatMap((index) => (part.features?.[index] ? [{ feature: part.features[index], index }] : []));
  return { ...planned, partDocument: part, opDocument: op, judged };
}
