/** Two stations in one body, as in a vise whose fixed jaw is in the middle: what is done to one is done to both. */
import type { OwnStation, PlacedStation } from "../api/types";
import { turned } from "./drawing";

const rounded = (value: number): number => Math.round(value * 1e6) / 1e6;

const stands = (station: PlacedStation, place: OwnStation): boolean =>
  (station.face ?? 0) === (place.face ?? 0) &&
  station.x_mm === place.x_mm &&
  station.y_mm === place.y_mm &&
  station.turn === (place.turn ?? 0) &&
  (station.locked ?? false) === (place.locked ?? false);

/** The numbers with those of the stations that stand in the same bodies. */
export function withPartners(stations: readonly PlacedStation[], numbers: ReadonlySet<number>): Set<number> {
  const partners = stations.filter(({ number }) => numbers.has(number)).map((station) => station.with_station);
  return new Set([...numbers, ...partners.filter((number) => number !== null && number !== undefined)]);
}

/** Where stations are put, each of which the other of its body follows unless it was moved itself. */
export function together(stations: readonly PlacedStation[], given: readonly OwnStation[]): OwnStation[] {
  if (given.length !== stations.length) return [...given];
  const next = [...given];
  stations.forEach((station, index) => {
    const place = given[index];
    const at = (station.with_station ?? 0) - 1;
    const partner = stations[at];
    const own = given[at];
    if (!place || !partner || !own || stands(station, place) || !stands(partner, own)) return;
    const turn = ((place.turn ?? 0) - station.turn + 360) % 360;
    const [dx, dy] = turned(partner.x_mm - station.x_mm, partner.y_mm - station.y_mm, turn);
    next[at] = {
      ...own,
      face: place.face,
      x_mm: rounded((place.x_mm as number) + dx),
      y_mm: rounded((place.y_mm as number) + dy),
      turn: ((partner.turn + turn) % 360) as PlacedStation["turn"],
      locked: place.locked,
    };
  });
  return next;
}
