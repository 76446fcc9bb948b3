/** What matters in two lines; the rest is one press away. */
import type { ReactNode } from "react";

export function More({ first, children }: { first: ReactNode; children: ReactNode }) {
  return (
    <>
      <p className="said">{first}</p>
      <details className="more">
        <summary>More</summary>
        <p className="said">{children}</p>
      </details>
    </>
  );
}
