/** A program as it goes: where it is, going on or back, line by line or in time. */
import { useCallback, useEffect, useMemo, useState } from "react";

import type { Played } from "../../api/types";
import type { Tip } from "../../drawing/tip";

/** How much quicker than the machine it can go. */
export const PACES = [1, 10, 60, 300] as const;
const TRAIL = 160;

export interface Playing {
  played: Played;
  /** Seconds since the program began. */
  at: number;
  whole: number;
  row: number;
  line: number;
  going: boolean;
  pace: number;
  setPace: (pace: number) => void;
  /** Goes on, or stops. */
  press: () => void;
  to: (seconds: number) => void;
  /** To the next line, or the one before. */
  step: (way: 1 | -1) => void;
}

/** The first row that is not yet over; rows are in the order of time. */
export function rowAt(seconds: readonly number[], at: number): number {
  let low = 0;
  let high = seconds.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if ((seconds[middle] ?? 0) < at) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** Where it is: at a time, or where a move begins, which may be asked for before the moves are here. */
export type Where = { seconds: number } | { move: number } | { line: number };

export function usePlaying(played: Played | null): [Playing | null, (there: Where) => void] {
  const [where, setWhere] = useState<Where>({ seconds: 0 });
  const [pressed, setPressed] = useState(false);
  const [pace, setPace] = useState<number>(60);
  const seconds = useMemo(() => played?.seconds ?? [], [played]);
  const whole = seconds.at(-1) ?? 0;
  const timeOf = useCallback(
    (there: Where): number => {
      if ("seconds" in there) return there.seconds;
      const first =
        "move" in there
          ? (played?.move ?? []).findIndex((item) => item >= there.move)
          : (played?.line ?? []).indexOf(there.line);
      return seconds[first < 0 ? seconds.length - 1 : first] ?? 0;
    },
    [played, seconds],
  );
  const at = timeOf(where);
  const going = pressed && at < whole;
  useEffect(() => {
    if (!going) return undefined;
    let before: number | null = null;
    let next = 0;
    const frame = (now: number) => {
      const passed = before === null ? 0 : (now - before) / 1000;
      before = now;
      setWhere((was) => ({ seconds: Math.min(whole, timeOf(was) + passed * pace) }));
      next = requestAnimationFrame(frame);
    };
    next = requestAnimationFrame(frame);
    return () => cancelAnimationFrame(next);
  }, [going, whole, pace, timeOf]);
  const goTo = (there: Where) => {
    setPressed(false);
    setWhere(there);
  };
  if (!played || whole === 0) return [null, goTo];
  const row = rowAt(seconds, at);
  const lines = played.line ?? [];
  const to = (wanted: number) => {
    setPressed(false);
    setWhere({ seconds: Math.max(0, Math.min(whole, wanted)) });
  };
  const step = (way: 1 | -1) => {
    let there = row;
    while (lines[there] === lines[row] && there + way >= 0 && there + way < lines.length) there += way;
    // to where that line ends
    while (there + 1 < lines.length && lines[there + 1] === lines[there]) there += 1;
    to(seconds[there] ?? 0);
  };
  const press = () => {
    if (!going && at >= whole) setWhere({ seconds: 0 });
    setPressed(!going);
  };
  return [{ played, at, whole, row, line: lines[row] ?? 1, going, pace, setPace, press, to, step }, goTo];
}

/** The tool where it is, between two places by the time. */
export function useTip(playing: Playing | null): Tip | null {
  return useMemo(() => {
    if (!playing) return null;
    const { played, row, at } = playing;
    const column = (name: "x" | "y" | "z" | "face" | "seconds" | "tool" | "what", k: number) =>
      (played[name] ?? [])[k] ?? 0;
    const tool = played.tools.find((item) => item.number === column("tool", row));
    const face = column("face", row);
    const near = row > 0 && column("face", row - 1) === face && column("tool", row - 1) === column("tool", row);
    const begun = row > 0 ? column("seconds", row - 1) : 0;
    const took = column("seconds", row) - begun;
    const share = near && took > 0 ? Math.max(0, Math.min(1, (at - begun) / took)) : 1;
    const between = (name: "x" | "y" | "z") =>
      near ? column(name, row - 1) + share * (column(name, row) - column(name, row - 1)) : column(name, row);
    const place = { x: between("x"), y: between("y"), z: between("z") };
    const trail = [];
    for (let k = row - 1; k >= 0 && k > row - TRAIL; k -= 1) {
      if (column("face", k) !== face || column("tool", k) !== column("tool", row)) break;
      trail.unshift({ x: column("x", k), y: column("y", k), rapid: column("what", k) !== 1 });
    }
    trail.push({ x: place.x, y: place.y, rapid: column("what", row) !== 1 });
    return {
      face,
      ...place,
      rings: (tool?.rings ?? []) as [number, number][],
      length_mm: tool?.length_mm ?? 0,
      trail,
    };
  }, [playing]);
}
