/** The steps of the work in their order, and the mark of the state each is in. */
import type { StepState } from "../api/types";

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
