/** Where a dragged station comes to rest: in line with others, against the edge of where it may stand, or on the step. */
import type { Ring } from "./drawing";

export interface Spot {
  x: number;
  y: number;
}

export interface Snapped extends Spot {
  /** What it came to rest on, to be said and drawn. */
  row: Spot | null;
  column: Spot | null;
  touches: boolean;
}

const rounded = (value: number): number => Math.round(value * 1000) / 1000;

/** `others`: stations with the same turn; `areas`: where the datum corner may be; `reach`: how far, in mm, something attracts. */
export function snapped(
  wanted: Spot,
  others: Spot[],
  areas: readonly (readonly Ring[])[],
  step: number,
  reach: number,
): Snapped {
  const row = nearest(others, (other) => Math.abs(other.y - wanted.y), reach);
  const column = nearest(others, (other) => Math.abs(other.x - wanted.x), reach);
  const onStep = (value: number): number => (step > 0 ? Math.round(value / step) * step : value);
  const place = { x: column ? column.x : onStep(wanted.x), y: row ? row.y : onStep(wanted.y) };
  const inside = areas.some((rings) => contains(rings, place));
  if (!inside) {
    const edge = nearestOnEdge(areas, place);
    if (edge && Math.hypot(edge.x - place.x, edge.y - place.y) <= 2 * reach) {
      const kept = {
        row: row && Math.abs(edge.y - row.y) < 1e-3 ? row : null,
        column: column && Math.abs(edge.x - column.x) < 1e-3 ? column : null,
      };
      return { x: rounded(edge.x), y: rounded(edge.y), ...kept, touches: true };
    }
  }
  return { x: rounded(place.x), y: rounded(place.y), row, column, touches: false };
}

function nearest(others: Spot[], distance: (other: Spot) => number, reach: number): Spot | null {
  let best: Spot | null = null;
  for (const other of others)
    if (distance(other) <= reach && (best === null || distance(other) < distance(best))) best = other;
  return best;
}

/** Even-odd, over the outer ring and its holes. */
export function contains(rings: readonly Ring[], { x, y }: Spot): boolean {
  let inside = false;
  for (const ring of rings) {
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i, i += 1) {
      const [ax = 0, ay = 0] = ring[i] ?? [];
      const [bx = 0, by = 0] = ring[j] ?? [];
      if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) inside = !inside;
    }
  }
  return inside;
}

function nearestOnEdge(areas: readonly (readonly Ring[])[], { x, y }: Spot): Spot | null {
  let best: Spot | null = null;
  let least = Infinity;
  for (const ring of areas.flat()) {
    for (let i = 0, j = ring.length - 1; i < ring.length; j = i, i += 1) {
      const [ax = 0, ay = 0] = ring[j] ?? [];
      const [bx = 0, by = 0] = ring[i] ?? [];
      const length = (bx - ax) ** 2 + (by - ay) ** 2;
      const share = length > 0 ? Math.min(1, Math.max(0, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length)) : 0;
      const spot = { x: ax + share * (bx - ax), y: ay + share * (by - ay) };
      const distance = Math.hypot(spot.x - x, spot.y - y);
      if (distance < least) [best, least] = [spot, distance];
    }
  }
  return best;
}
