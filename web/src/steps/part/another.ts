/** What a part keeps when another shape takes its place: its name, material and how many. */
import type { Part } from "../../api/types";

export const ofAnotherPart = (part: Part): Partial<Part> => ({
  recesses: [],
  features: [],
  ops: (part.ops ?? []).map((op) => ({ ...op, cuts: [] })),
});
