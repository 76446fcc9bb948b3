/** The steps of the work that exist so far, in the order of the work, and the state each is in. */
import { useEffect } from "react";
import { useSearchParams } from "react-router";

import type { JobState, StepState } from "../api/types";
import type { Here } from "./here";

export type StepName =
  "part" | "cuts" | "method" | "layout" | "hold" | "locate" | "make" | "program" | "run" | "sheet" | "log";
export type State = StepState["state"];

export const STEPS: { name: StepName; number: number; label: string }[] = [
  { name: "part", number: 1, label: "Part" },
  { name: "cuts", number: 2, label: "Cuts" },
  { name: "method", number: 3, label: "Method" },
  { name: "layout", number: 4, label: "Layout" },
  { name: "hold", number: 5, label: "Hold" },
  { name: "locate", number: 6, label: "Locate" },
  { name: "make", number: 7, label: "Make" },
  { name: "program", number: 8, label: "Program" },
  { name: "run", number: 9, label: "Run" },
  { name: "sheet", number: 10, label: "Sheet" },
  { name: "log", number: 11, label: "Log" },
];

/** What the service says of a step of a setup; a job that was never planned has no run to say anything. */
export function stateOf(step: StepName, here: Here): StepState {
  return (
    here.steps.find((item) => item.step === step) ?? { step, state: "not checked", why: "not planned yet", fields: [] }
  );
}

/** Where to go to set a field that stands in the way: the setup, the step, the op where it is one's, and the field. */
export function wayTo(field: string, job: JobState, on?: string): string {
  const step = on ?? (job.latest?.steps ?? []).flat().find((item) => item.fields?.includes(field))?.step ?? "method";
  const [, part, op] = /^job\.parts\.(\d+)(?:\.ops\.(\d+))?/.exec(field) ?? [];
  const [, setup] = /^route\.setups\.(\d+)/.exec(field) ?? [];
  const where = {
    ...(setup && setup !== "0" ? { setup: String(Number(setup) + 1) } : {}),
    ...(part ? { part } : {}),
    ...(op ? { op } : {}),
    field,
  };
  return `/jobs/${job.id}/${step}?${new URLSearchParams(where).toString()}`;
}

/** Puts the cursor into a field that was asked for, or into the first of a group of fields, as soon as it is on screen. */
export function useAskedField(step: string) {
  const [asked] = useSearchParams();
  const field = asked.get("field");
  useEffect(() => {
    if (!field) return undefined;
    let tries = 0;
    const timer = window.setInterval(() => {
      const found = inputOf(field);
      tries += 1;
      if (found || tries > 40) window.clearInterval(timer);
      found?.focus();
      found?.scrollIntoView({ block: "center" });
      if (found instanceof HTMLInputElement) found.select();
    }, 100);
    return () => {
      window.clearInterval(timer);
    };
  }, [field, step]);
}

function inputOf(field: string): HTMLElement | null {
  const every = [...document.querySelectorAll<HTMLElement>("main [name]")].filter(
    (item) => !(item instanceof HTMLInputElement && item.disabled),
  );
  const named = (test: (name: string) => boolean) => every.find((item) => test(item.getAttribute("name") ?? ""));
  const group = field.slice(0, field.lastIndexOf("."));
  const found =
    named((name) => name === field) ??
    named((name) => name.startsWith(`${field}.`)) ??
    (group.includes(".") ? named((name) => name.startsWith(`${group}.`)) : undefined);
  // A list to choose from keeps its value in an input that is not seen.
  return found?.getAttribute("aria-hidden") === "true"
    ? (found.parentElement?.querySelector<HTMLElement>("[role=combobox]") ?? null)
    : (found ?? null);
}

const SAID: Record<State, string> = {
  within: "within its limits",
  close: "close to a limit",
  over: "over a limit",
  changed: "changed",
  "not checked": "not checked",
};

export function StateMark({ state, why }: StepState) {
  const shapes: Record<State, React.ReactNode> = {
    within: <rect x="1.5" y="1.5" width="9" height="9" fill="var(--within)" />,
    close: <path d="M6 1l5.5 10H.5z" fill="var(--close)" />,
    over: <path d="M6 0l6 6-6 6-6-6z" fill="var(--over)" />,
    changed: <rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor" strokeWidth="1.2" />,
    "not checked": <path d="M1.5 6h9" stroke="currentColor" strokeWidth="1.4" strokeDasharray="2.4 1.6" />,
  };
  const said = `${SAID[state]}: ${why}`;
  return (
    <svg className="state" width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={said}>
      <title>{said}</title>
      {shapes[state]}
    </svg>
  );
}
