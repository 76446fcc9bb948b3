/** What stations are shaded by, as the service has it: what each op needs of its hold, and from where a limit is close. */
import { useMemo } from "react";

import { useCatalogue } from "../api/queries";
import type { PlanResult } from "../api/types";
import type { Limits } from "./Station";

export function useJudged(result: PlanResult | null): Limits {
  const close = useCatalogue().data?.close_share ?? null;
  const holds = [result?.hold, ...(result?.others ?? []).map((item) => item.hold)];
  const needed = holds.map((item) => item?.needed ?? 2).join(" ");
  return useMemo(() => ({ needed: needed.split(" ").map(Number), close }), [needed, close]);
}
