/** The plate by keyboard: from station to station, nudge, zoom, measure. */
import type { KeyboardEvent } from "react";

import type { PlacedStation } from "../api/types";
import type { Placing } from "./placing";

const TOWARDS: Record<string, [number, number]> = {
  ArrowRight: [1, 0],
  ArrowLeft: [-1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
};

interface Bench {
  placing: Placing;
  /** Faces lie side by side so far apart. */
  pitch: number;
  /** Stations may be moved: there is a design, and the person may. */
  mayMove: boolean;
  zoomBy: (factor: number) => void;
  fitAll: () => void;
  measure: () => void;
  /** Lets go of what is under way, the nearest first. */
  letGo: () => void;
}

export function benchKeys(bench: Bench): (event: KeyboardEvent) => void {
  const { placing } = bench;
  return (event) => {
    const act = (what: () => void) => {
      event.preventDefault();
      event.stopPropagation();
      what();
    };
    const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
    const direction = TOWARDS[key];
    if (key === "Escape") bench.letGo();
    else if (direction && event.shiftKey && bench.mayMove) {
      const step = event.ctrlKey ? placing.step / 10 : placing.step;
      act(() => placing.nudge(direction[0] * step, direction[1] * step));
    } else if (direction) act(() => walk(placing, bench.pitch, direction));
    else if (key === "+" || key === "=") act(() => bench.zoomBy(1.3));
    else if (key === "-") act(() => bench.zoomBy(1 / 1.3));
    else if (key === "0") act(bench.fitAll);
    else if (event.ctrlKey || event.metaKey || event.altKey) return;
    else if (key === "m") act(bench.measure);
  };
}

/** To the next station in a direction. */
function walk(placing: Placing, pitch: number, [dx, dy]: [number, number]) {
  const { stations, selected } = placing;
  const from = stations.find((station) => selected.has(station.number));
  if (!from) {
    placing.select(stations[0]?.number ?? null);
    return;
  }
  let best: { number: number; cost: number } | null = null;
  for (const other of stations) {
    const { along, aside } = apart(from, other, pitch, dx, dy);
    const cost = along + 2 * aside;
    if (along > 0.5 && (best === null || cost < best.cost)) best = { number: other.number, cost };
  }
  if (best) placing.select(best.number);
}

function apart(from: PlacedStation, other: PlacedStation, pitch: number, dx: number, dy: number) {
  const right = other.x_mm - from.x_mm + ((other.face ?? 0) - (from.face ?? 0)) * pitch;
  const up = other.y_mm - from.y_mm;
  return { along: right * dx + up * dy, aside: Math.abs(right * dy) + Math.abs(up * dx) };
}
