/** Stations placed by hand: what is selected, and what can be done with it. Every step is stored, judged by the
 * service, and can be undone. */
import { useEffect, useState } from "react";

import { fetchRoom, fetchRow } from "../api/queries";
import type { Design, OwnStation, PlacedStation } from "../api/types";
import { useEditor } from "../editing/editor";
import { together, withPartners } from "./partners";
import { drawingOf, middleOf, turned } from "./drawing";

type Turn = PlacedStation["turn"];
export type Towards = "+X" | "-X" | "+Y" | "-Y";

export interface Placing {
  stations: PlacedStation[];
  selected: ReadonlySet<number>;
  select: (number: number | null, more?: boolean) => void;
  own: boolean;
  locked: number;
  step: number;
  setStep: (step: number) => void;
  said: string | null;
  move: (number: number, x: number, y: number, face?: number) => void;
  toFace: (by: number) => void;
  put: (number: number, axis: "x" | "y", typed: string | number | null) => void;
  nudge: (dx: number, dy: number) => void;
  turn: (by: number) => void;
  remove: () => void;
  lock: () => void;
  add: () => void;
  repeat: (towards: Towards, most?: number) => void;
  aroundLocked: () => void;
  asPlanned: () => void;
  take: () => void;
}

const rounded = (value: number): number => Math.round(value * 1000) / 1000;

const bare = (station: PlacedStation): OwnStation => ({
  face: station.face ?? 0,
  kind: station.kind ?? 0,
  x_mm: station.x_mm,
  y_mm: station.y_mm,
  turn: station.turn,
  locked: station.locked ?? false,
  measured: null,
});

/** A station that stays where it was measured keeps what was found; one that is moved is another place. */
const remembered = (next: OwnStation[], known: OwnStation[]): OwnStation[] =>
  next.map((item) => ({
    ...item,
    measured:
      known.find(
        (old) =>
          old.measured &&
          (old.face ?? 0) === item.face &&
          (old.kind ?? 0) === item.kind &&
          old.x_mm === item.x_mm &&
          old.y_mm === item.y_mm &&
          (old.turn ?? 0) === item.turn,
      )?.measured ?? null,
  }));

export function usePlacing(design: Design | null): Placing {
  const { job, here, change, errors, busy, onRest, steps } = useEditor();
  const arrangement = here.setup.arrangement;
  const at = here.of("arrangement");
  const [selected, setSelected] = useState<ReadonlySet<number>>(new Set());
  const [step, setStep] = useState(1);
  const [said, setSaid] = useState<string | null>(null);
  const [pending, setPending] = useState<OwnStation[] | null>(null);
  useEffect(() => onRest(() => setPending(null)), [onRest]);
  const [wasAt, setWasAt] = useState(steps);
  if (wasAt !== steps) {
    setWasAt(steps); // something was taken back: what was put ahead of the service is not what stands
    setPending(null);
  }

  const known = design?.stations ?? [];
  // Until the service has judged them, moved stations stand where they were put, without a verdict.
  const stations = pending ? pending.map((place, index) => merged(place, index, known)) : known;
  const turns = here.shown.held[0]?.station.turns ?? [0];
  const faces = here.on?.block.faces ?? 1;
  const chosen = stations.filter((station) => selected.has(station.number));

  const store = (given: OwnStation[], own = true) => {
    const next = remembered(together(stations, given), arrangement?.stations ?? []);
    setSaid(null);
    if (own) setPending(next);
    change(at, { own, stations: next });
  };
  const each = (alter: (station: PlacedStation) => OwnStation) => {
    if (chosen.length > 0)
      store(stations.map((station) => (selected.has(station.number) ? alter(station) : bare(station))));
  };
  const append = (more: OwnStation[]) => {
    if (more.length === 0) return;
    store([...stations.map(bare), ...more]);
    setSelected(new Set(more.map((_unused, index) => stations.length + 1 + index)));
  };

  return {
    stations,
    selected,
    select: (number, more = false) =>
      setSelected((before) => {
        if (number === null) return before.size === 0 ? before : new Set();
        if (!more) return before.size === 1 && before.has(number) ? before : new Set([number]);
        const next = new Set(before);
        if (!next.delete(number)) next.add(number);
        return next;
      }),
    own: arrangement?.own ?? false,
    locked: stations.filter((station) => station.locked).length,
    step,
    setStep,
    said: said ?? errors[at] ?? null,
    move: (number, x, y, face) =>
      store(
        stations.map((station) =>
          station.number === number
            ? { ...bare(station), face: face ?? station.face ?? 0, x_mm: x, y_mm: y }
            : bare(station),
        ),
      ),
    toFace: (by) => each((station) => ({ ...bare(station), face: ((station.face ?? 0) + by + faces) % faces })),
    put: (number, axis, typed) => {
      // The service reads what was typed, with its unit: only it knows where the station is then.
      if (typed === null) return;
      setSaid(null);
      change(at, {
        own: true,
        stations: stations.map((station) =>
          station.number === number ? { ...bare(station), [`${axis}_mm`]: typed } : bare(station),
        ),
      });
    },
    nudge: (dx, dy) =>
      each((station) => ({ ...bare(station), x_mm: rounded(station.x_mm + dx), y_mm: rounded(station.y_mm + dy) })),
    turn: (by) =>
      each((station) => {
        if (!design) return bare(station);
        let next = station.turn as number;
        do next = (next + by) % 360;
        while (!turns.includes(next as Turn) && next !== station.turn);
        const [mx, my] = middleOf(drawingOf(design, station));
        const [ax, ay] = turned(mx, my, station.turn);
        const [bx, by_] = turned(mx, my, next);
        return {
          ...bare(station),
          turn: next as Turn,
          x_mm: rounded(station.x_mm + ax - bx),
          y_mm: rounded(station.y_mm + ay - by_),
        };
      }),
    remove: () => {
      if (chosen.length === 0) return;
      const gone = withPartners(stations, selected);
      store(stations.filter((station) => !gone.has(station.number)).map(bare));
      setSelected(new Set());
    },
    lock: () => {
      const all = chosen.every((station) => station.locked);
      each((station) => ({ ...bare(station), locked: !all }));
    },
    add: () => {
      if (busy()) return; // where there is room is known only once the step before is stored
      const face = chosen[0]?.face ?? 0;
      const kind = chosen[0]?.kind ?? 0;
      const own = chosen[0]?.turn ?? turns[0] ?? 0;
      const every = [own, ...turns.filter((turn) => turn !== own)];
      const at = async (rest: readonly Turn[]): Promise<OwnStation[]> => {
        const [turn, ...others] = rest;
        if (turn === undefined) return [];
        const room = await fetchRoom(job.id, job.version, { setup: here.number, station: null, turn, face, kind });
        return room.first ? (room.stations ?? []) : at(others);
      };
      void at(every)
        .then((found) =>
          found.length > 0
            ? append(found)
            : setSaid(`No place is left for a station${faces > 1 ? " on this face" : ""}, however it is turned.`),
        )
        .catch((error: Error) => setSaid(error.message));
    },
    repeat: (towards, most) => {
      const from = chosen[0];
      if (!from || busy()) return;
      void fetchRow(job.id, job.version, here.number, from.number - 1, towards, most)
        .then((row) =>
          row.stations.length > 0
            ? append(row.stations)
            : setSaid(`No station fits ${SIDES[towards]} station ${String(from.number)} in line with it.`),
        )
        .catch((error: Error) => setSaid(error.message));
    },
    aroundLocked: () => store(stations.filter((station) => station.locked).map(bare), false),
    asPlanned: () => store([], false),
    take: () => store(stations.map(bare)),
  };
}

const SIDES: Record<Towards, string> = {
  "+X": "to the right of",
  "-X": "to the left of",
  "+Y": "above",
  "-Y": "below",
};

function merged(place: OwnStation, index: number, known: PlacedStation[]): PlacedStation {
  const before = known[index];
  const same = before?.number === index + 1 && (before.locked ?? false) === (place.locked ?? false);
  const moved =
    !before ||
    (before.face ?? 0) !== (place.face ?? 0) ||
    before.x_mm !== place.x_mm ||
    before.y_mm !== place.y_mm ||
    before.turn !== place.turn;
  if (same && !moved) return before; // itself, so that it is not drawn again
  const blank = {
    hold_factor: 0,
    reach_share: 0,
    feature: "",
    feature_x_mm: 0,
    feature_y_mm: 0,
    tolerance_share: 0,
    probable_mm: 0,
    worst_case_mm: 0,
    contributions: [],
    nearest_mm: null,
    with_station: before?.with_station ?? null,
  };
  return {
    ...blank,
    ...(moved ? {} : before),
    number: index + 1,
    face: place.face ?? 0,
    kind: place.kind ?? 0,
    x_mm: place.x_mm as number,
    y_mm: place.y_mm as number,
    turn: place.turn ?? 0,
    locked: place.locked ?? false,
    faults: moved ? [] : (before.faults ?? []),
  };
}
