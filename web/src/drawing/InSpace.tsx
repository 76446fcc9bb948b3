/** A layout in 3-D, with the workpieces of its ops as they are put in; three.js is fetched with it. */
import { lazy, Suspense } from "react";

import type { Design } from "../api/types";
import type { Carrier } from "../editing/here";
import type { Tip } from "./tip";
import type { Placing } from "./placing";

const LayoutView3d = lazy(() => import("./space/LayoutView3d"));

interface Props {
  jobId: string;
  version: number;
  on: Carrier;
  design: Design;
  /** The ops that a setup holds, by part and op from 0. */
  held: readonly { part: number; op: number }[];
  placing: Placing;
  dark: boolean;
  tip?: Tip | null;
}

export function InSpace({ jobId, version, on, design, held, placing, dark, tip }: Props) {
  return (
    <Suspense fallback={<p className="quiet">Fetching the 3-D view</p>}>
      <LayoutView3d
        on={on}
        design={design}
        solids={held.map(
          ({ part, op }) =>
            `/api/jobs/${jobId}/parts/${String(part)}/ops/${String(op)}/stood.glb?version=${String(version)}`,
        )}
        selected={placing.selected}
        select={(number) => placing.select(number)}
        dark={dark}
        tip={tip ?? null}
      />
    </Suspense>
  );
}
