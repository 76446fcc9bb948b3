/** The steps of the work that exist so far, in the order of the work, and the state each is in. */
import type { JobState } from "../api/types";

export type StepName = "part" | "cuts" | "method" | "layout" | "hold" | "locate";
export type State = "fine" | "close" | "over" | "stale" | "open";

export const STEPS: { name: StepName; number: number; label: string }[] = [
  { name: "part", number: 1, label: "Part" },
  { name: "cuts", number: 2, label: "Cuts" },
  { name: "method", number: 3, label: "Method" },
  { name: "layout", number: 4, label: "Layout" },
  { name: "hold", number: 5, label: "Hold" },
  { name: "locate", number: 6, label: "Locate" },
];

const LIMITS: Record<string, StepName> = {
  power: "cuts", spindle_torque: "cuts", load: "method", travel: "method", face_room: "layout", hold_factor: "hold", screw: "hold", tolerance: "locate",
}; // prettier-ignore

/** Where a field that stands in the way is set. */
export function stepOf(field: string): StepName {
  if (/^parts\.\d+\.ops/.test(field) || field.startsWith("cut")) return "cuts";
  if (/^parts\.\d+\.features/.test(field)) return "locate";
  if (field.startsWith("part")) return "part";
  if (field.startsWith("arrangement")) return "layout";
  if (field.startsWith("station.clamp.torque")) return "hold";
  return "method";
}

export function stateOf(step: StepName, job: JobState): State {
  const latest = job.latest;
  if (!latest?.result) return "open";
  if (!latest.run.current) return "stale";
  if (latest.result.reasons.some((reason) => stepOf(reason.field) === step)) return "over";
  if (step === "layout" && !latest.result.feasible) return "over";
  const states = (latest.result.designs[0]?.limits ?? []).filter((limit) => LIMITS[limit.id] === step).map((limit) => limit.state);
  return states.includes("over") ? "over" : states.includes("close") ? "close" : "fine";
}

const SAID: Record<State, string> = { fine: "within its limits", close: "close to a limit", over: "over a limit", stale: "changed since planned", open: "not planned yet" };

export function StateMark({ state }: { state: State }) {
  const shapes: Record<State, React.ReactNode> = {
    fine: <rect x="1.5" y="1.5" width="9" height="9" fill="var(--within)" />,
    close: <path d="M6 1l5.5 10H.5z" fill="var(--close)" />,
    over: <path d="M6 0l6 6-6 6-6-6z" fill="var(--over)" />,
    stale: <rect x="1.5" y="1.5" width="9" height="9" fill="none" stroke="currentColor" strokeWidth="1.2" />,
    open: null,
  };
  return (
    <svg className="state" width="12" height="12" viewBox="0 0 12 12" role="img" aria-label={SAID[state]}>
      <title>{SAID[state]}</title>
      {shapes[state]}
    </svg>
  );
}
