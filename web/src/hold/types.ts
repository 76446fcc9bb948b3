/** The verdict on hold, as the service sends it. */
import type { PlanResult } from "../api/types";

export type Hold = NonNullable<PlanResult["hold"]>;
