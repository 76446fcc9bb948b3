/** The verdict on hold, as the service sends it. */
import type { PlanResult } from "./types";

export type Hold = NonNullable<PlanResult["hold"]>;
