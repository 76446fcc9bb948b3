/** The setup on screen: what the document says of it, what its stations stand on, and its latest result. */
import type { Block, JobState, Machine, PlanResult, Plate, Setup, SetupShown, StepState, Zeros } from "../api/types";

/** What stations stand on, and where: as it is drawn. */
export interface Carrier {
  plate: Plate;
  block: Block;
  faces: SetupShown["faces"];
  body: SetupShown["body"];
  zeros: Zeros;
  machine: Machine;
}

export interface Here {
  /** Counts from 1. */
  number: number;
  setup: Setup;
  shown: SetupShown;
  /** Nothing where its form cannot be planned yet. */
  on: Carrier | null;
  result: PlanResult | null;
  steps: StepState[];
  /** Seconds at work by its program; nothing where that was not tried, or where there is none. */
  programmed_s: number | null;
  /** Where a field of this setup stands in the document. */
  of: (field: string) => string;
}

/** One op in a setup, as the service names it. */
export type Held = SetupShown["held"][number];

export function hereIn(job: JobState, wanted: number): Here {
  const count = job.setups.length;
  const number = Math.min(Math.max(1, wanted), Math.max(1, count));
  const setup = job.document.route?.setups[number - 1];
  const shown = job.setups[number - 1];
  if (!setup || !shown) throw new Error("a job of the service has a route");
  const { plate, block, faces, body } = shown;
  return {
    number,
    setup,
    shown,
    on: plate && block ? { plate, block, faces, body, zeros: setup.zeros ?? {}, machine: setup.machine } : null,
    result: job.latest?.result?.setups.find((item) => item.number === number)?.result ?? null,
    steps: job.latest?.steps[number - 1] ?? job.latest?.steps[0] ?? [],
    programmed_s: job.latest?.programmed_s?.[number - 1] ?? null,
    of: (field) => `${shown.at}.${field}`,
  };
}
