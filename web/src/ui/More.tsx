/** What matters in two lines; the rest is one press away. */
import type { ReactNode } from "react";

import { usePrinting } from "./room";
import { Said } from "./Said";

export function More({ first, children }: { first: ReactNode; children: ReactNode }) {
  return (
    <>
      <p className="said">{first}</p>
      <Rest>
        <p className="said">{children}</p>
      </Rest>
    </>
  );
}

/** Paper has nothing to press: there it stands open, a caution above all. */
function Rest({ children }: { children: ReactNode }) {
  return (
    <details className="more" open={usePrinting()}>
      <summary>More</summary>
      {children}
    </details>
  );
}

/** About two lines of a narrow column. */
const TWO_LINES = 84;

/** What the service says: where it is longer than two lines, up to where it pauses; the rest is one press away. */
export function Brief({ text, className = "said" }: { text: string; className?: string }) {
  const at = text.length > TWO_LINES ? pause(text) : -1;
  if (at < 0)
    return (
      <p className={className}>
        <Said text={text} />
      </p>
    );
  return (
    <div className={className}>
      <p>
        <Said text={text.slice(0, at)} />
      </p>
      <Rest>
        <p>
          <Said text={text.slice(at + 1).trim()} />
        </p>
      </Rest>
    </div>
  );
}

/** The last pause within two lines: a full stop, else a semicolon or colon, else a comma; -1 without one. */
function pause(text: string): number {
  const head = text.slice(0, TWO_LINES);
  for (const marks of [/[.] /g, /[;:] /g, /, /g]) {
    const found = [...head.matchAll(marks)].map((match) => match.index).filter((index) => index > 24);
    const last = found.at(-1);
    if (last !== undefined) return last + (marks.source.startsWith("[.]") ? 1 : 0);
  }
  return -1;
}
