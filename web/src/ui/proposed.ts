/** What the planner proposed of a document and nobody has changed since: by field, why. */
import { createContext, useContext } from "react";

export type Proposals = ReadonlyMap<string, string>;

const None: Proposals = new Map();
const Context = createContext<Proposals>(None);
export const ProposedProvider = Context.Provider;

/** Of a document's proposals. One of a whole thing, its form or its blank, is told at that thing's first field. */
export function proposalsOf(given: readonly { pointer: string; why: string }[]): Proposals {
  return new Map(
    given.flatMap(({ pointer, why }) => {
      const at = pointer.replace(/^[/]/, "").replaceAll("/", ".");
      return [at, `${at}.kind`].map((name): [string, string] => [name, why]);
    }),
  );
}

/** Why a field has the value that was proposed; nothing where a person set it. */
export const useProposed = (name: string): string | undefined => useContext(Context).get(name);
