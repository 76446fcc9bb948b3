/** What is being typed into one value of a document: stored when it is left, kept on screen while it is refused. */
import { useEffect, useRef, useState } from "react";

import { isBare, useUnits } from "./units";

interface Given {
  value: string | number | null;
  /** Unit of the document, empty for plain numbers and text. */
  unit: string;
  text: boolean;
  error: string | undefined;
  store: (value: string | number) => void;
  /** Called instead of `store` for a value left empty, where that may be. */
  cleared?: () => void;
}

export function useTyped({ value, unit, text, error, store, cleared }: Given) {
  const { plain, shownUnit, system } = useUnits();
  const shown = value === null ? "" : typeof value === "number" ? plain(value, unit) : value;
  const [typed, setTyped] = useState(shown);
  const editing = useRef(false);

  // What comes from the service shows, except over something being typed or refused.
  useEffect(() => {
    if (!editing.current && !error) setTyped(shown);
  }, [shown, error, system]);

  return {
    typed,
    begin: () => {
      editing.current = true;
    },
    change: setTyped,
    finish: () => {
      editing.current = false;
      const trimmed = typed.trim();
      if (trimmed === shown) setTyped(shown);
      else if (text) store(trimmed);
      else if (trimmed === "" && cleared) cleared();
      else if (unit) store(isBare(trimmed) && trimmed !== "" ? `${trimmed} ${shownUnit(unit)}` : trimmed);
      else store(trimmed !== "" && Number.isFinite(Number(trimmed)) ? Number(trimmed) : trimmed);
    },
    giveUp: () => {
      setTyped(shown);
      editing.current = false;
    },
  };
}
