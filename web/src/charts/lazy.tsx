/** The charts with the package that draws them: their own chunk, which comes when one is on screen. */
import { type ComponentProps, lazy, Suspense } from "react";

const Lines = lazy(() => import("./Curve"));
const Columns = lazy(() => import("./Bars"));
const Round = lazy(() => import("./Polar"));

/** Its room stands open while it comes, so that nothing jumps. */
const waits = (size: string) => <div className={`chart ${size}`} />;

export const Curve = (props: ComponentProps<typeof Lines>) => (
  <Suspense fallback={waits(props.size ?? "grow least-160")}>
    <Lines {...props} />
  </Suspense>
);

export const Bars = (props: ComponentProps<typeof Columns>) => (
  <Suspense fallback={waits("strip-120")}>
    <Columns {...props} />
  </Suspense>
);

export const Polar = (props: ComponentProps<typeof Round>) => (
  <Suspense fallback={waits("grow least-180")}>
    <Round {...props} />
  </Suspense>
);
