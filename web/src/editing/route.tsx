/** The way to a step, and to a field in it. */
import { useEffect } from "react";
import { useSearchParams } from "react-router";

import type { JobState, StepState } from "../api/types";
import type { StepName } from "../ui/StateMark";
import type { Here } from "./here";

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
