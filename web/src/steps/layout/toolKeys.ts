/** The tools of the bench by key, wherever in the view the focus is, but in a field. */
import type { KeyboardEvent } from "react";

import type { Overlay } from "../../drawing/Station";
import type { Placing } from "../../drawing/placing";
import type { View } from "./BenchTools";
import { OVERLAYS } from "./Overlays";

interface Bench {
  placing: Placing;
  /** Stations may be moved: there is a design on the bench, and the person may. */
  mayMove: boolean;
  cover: (overlay: Overlay) => void;
  swap: (view: View) => void;
}

export function toolKeys({ placing, mayMove, cover, swap }: Bench): (event: KeyboardEvent) => void {
  const moves: Record<string, () => void> = {
    t: () => placing.turn(90),
    f: () => placing.turn(180),
    l: placing.lock,
    a: placing.add,
    d: () => placing.repeat("+X", 1),
    r: () => placing.repeat("+X"),
    c: () => placing.repeat("+Y"),
    n: () => placing.toFace(1),
    Delete: placing.remove,
    Backspace: placing.remove,
  };
  const shows: Record<string, () => void> = {
    o: () => swap("compare"),
    e: () => document.querySelector<HTMLElement>("[aria-keyshortcuts=E]")?.click(),
  };
  for (const { key, shortcut } of OVERLAYS) shows[shortcut] = () => cover(key);
  return (event) => {
    const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLSelectElement;
    if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const does = shows[key] ?? (mayMove ? moves[key] : undefined);
    if (!does) return;
    event.preventDefault();
    does();
  };
}
