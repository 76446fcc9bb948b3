/** Editing one job: every change is stored as it is made, can be taken back (the service keeps what was before),
 * and a refused value keeps its reason beside its field. */
import { createContext, useCallback, useContext, useMemo, useRef, useState } from "react";

import { keyOf, Problem } from "../api/client";
import { useJobChange, useJobStep, useSteps } from "../api/queries";
import type { Figure, HouseRules, JobState, Op, Part, Station } from "../api/types";
import type { Stored } from "../ui/Field";
import { type Held, type Here, hereIn } from "./here";

export interface Editor {
  job: JobState;
  parts: Part[];
  rules: HouseRules;
  /** The setup on screen. */
  here: Here;
  show: (setup: number) => void;
  mayEdit: boolean;
  change: (path: string, value: unknown) => void;
  errors: Record<string, string>;
  /** Is a change still on its way? For what is pressed; what is shown asks ``useSending``. */
  busy: () => boolean;
  /** Calls back whenever all that was done is stored or refused, and on screen; ends with what it returns. */
  onRest: (then: () => void) => () => void;
  /** How often something was taken back or done again: what a view shows ahead of the service is out of date then. */
  steps: number;
  /** What was refused because someone else changed the job first: nothing of it is lost. */
  refused: Refused | null;
  settle: (how: "mine" | "theirs") => void;
}

/** What is on its way to the service, and what can be taken back: it changes more often than the job, so few follow it. */
export interface Sending {
  saving: boolean;
  trouble: Error | null;
  /** Why something could not be taken back. */
  stuck: string | null;
  undo: (() => void) | null;
  redo: (() => void) | null;
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

const SendingContext = createContext<Sending>({ saving: false, trouble: null, stuck: null, undo: null, redo: null });
export const SendingProvider = SendingContext.Provider;

export const useSending = (): Sending => useContext(SendingContext);

export function valueAt(document: unknown, path: string): unknown {
  return path === ""
    ? document
    : path.split(".").reduce<unknown>((node, key) => (node as Record<string, unknown> | null)?.[key], document);
}

export function useJobEditor(job: JobState, mayEdit: boolean, asked: number): { editor: Editor; sending: Sending } {
  const [setup, setSetup] = useState(asked);
  const [was, setWas] = useState(asked);
  if (was !== asked) {
    setWas(asked);
    setSetup(asked);
  }
  const store = useJobChange(job.id);
  const step = useJobStep(job.id);
  const known = useSteps(job.id, job.version);
  const [errors, setErrors] = useState<Record<string, string>>({});
  const [refused, setRefused] = useState<Refused | null>(null);
  const [steps, setSteps] = useState(0);
  const [last, setLast] = useState<"change" | "undo" | "redo">("change");
  // Changes on their way: the last of them is what a press of undo means, before the service has even answered it.
  const sent = useRef<object[]>([]);
  const resting = useRef(new Set<() => void>());
  const { mutateAsync } = store;
  const { mutate: go } = step;

  const change = useCallback(
    (path: string, value: unknown) => {
      const given = { path, value };
      sent.current = [...sent.current, given];
      setLast("change");
      // Of each change by itself: others may be on their way behind it.
      void mutateAsync(given)
        .then(
          () => {
            setRefused((before) => (before?.path === path ? null : before));
            setErrors((before) => without(before, path));
          },
          (error: Error) => {
            if (error instanceof Problem && error.status === 409) setRefused({ path, value, why: error.detail });
            const message = error instanceof Problem ? (error.errors[0]?.message ?? error.detail) : error.message;
            setErrors((before) => ({ ...before, [path]: message }));
          },
        )
        .finally(() => {
          sent.current = sent.current.filter((item) => item !== given);
          // The answer comes to the screen a turn later.
          setTimeout(() => {
            if (sent.current.length === 0) resting.current.forEach((then) => then());
          });
        });
    },
    [mutateAsync],
  );
  const busy = useCallback(() => sent.current.length > 0, []);
  const onRest = useCallback((then: () => void) => {
    resting.current.add(then);
    return () => void resting.current.delete(then);
  }, []);

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

  const sending = useMemo(
    () => ({
      saving: store.isPending || step.isPending,
      trouble: store.isPending && store.failureReason ? store.failureReason : null,
      stuck: step.error?.message ?? null,
      undo: mayEdit && (known.data?.undo || (learning && last !== "undo")) ? undo : null,
      redo: mayEdit && (known.data?.redo || (learning && last === "undo")) ? redo : null,
    }),
    [mayEdit, undo, redo, last, learning, known.data, step.error, step.isPending, store.isPending, store.failureReason],
  );

  const editor = useMemo(
    () => ({
      job,
      parts: job.document.job.parts,
      rules: job.document.job.rules ?? {},
      here: hereIn(job, setup),
      show: setSetup,
      mayEdit,
      change,
      errors,
      busy,
      onRest,
      steps,
      refused,
      settle: (how: "mine" | "theirs") => {
        setRefused(null);
        if (refused) setErrors((before) => without(before, refused.path));
        if (how === "mine" && refused) change(refused.path, refused.value);
      },
    }),
    [job, setup, mayEdit, errors, change, busy, onRest, steps, refused],
  );
  return { editor, sending };
}

const without = (errors: Record<string, string>, path: string): Record<string, string> =>
  path in errors ? Object.fromEntries(Object.entries(errors).filter(([key]) => key !== path)) : errors;

/** Gives an op a station of its own, or, with null, the first one's again. */
export function useOwnStation(): (op: Held, station: Station | null) => void {
  const { here, change } = useEditor();
  return (op, station) => {
    const index = here.shown.held.indexOf(op);
    if (index > 0) change(here.of(`holds.${String(index)}.station`), station);
  };
}

/** What a field of the document needs. */
export function useStored(): (path: string, unit?: string, text?: boolean) => Stored & { name: string } {
  const { job, change, errors, mayEdit } = useEditor();
  return (path, unit = "", text = false) => {
    const value = valueAt(job.document, path);
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
  const { result } = useEditor().here;
  return (id) =>
    result?.figures.find((item) => item.id === id) ?? result?.designs[0]?.figures.find((item) => item.id === id);
}

/** The part and the op that the setup holds first, and the features whose tolerance depends on where a station stands. */
export function usePlanned() {
  const { parts, here, job } = useEditor();
  const planned = { part: here.setup.holds[0]?.part ?? 0, op: here.setup.holds[0]?.op ?? 0 };
  const part = parts[planned.part] as Part;
  const op = part.ops?.[planned.op] as Op;
  const indices = job.facts[planned.part]?.ops[planned.op]?.judged ?? [];
  const judged = indices.flatMap((index) => (part.features?.[index] ? [{ feature: part.features[index], index }] : []));
  return { ...planned, partDocument: part, opDocument: op, judged };
}
