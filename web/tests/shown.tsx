/** What the tests share: a reader of one system of units, and stations to stand about. */
import { renderHook } from "@testing-library/react";
import type { ReactNode } from "react";

import type { PlacedStation } from "../src/api/types";
import { NamesContext, UnitsContext, useUnits } from "../src/ui/units";

export type System = "metric" | "inch";

/** The units as a reader of the system has them, with names that must stay as they are. */
export function reader(system: System, names: readonly string[] = []) {
  const wrapper = ({ children }: { children: ReactNode }) => (
    <UnitsContext.Provider value={system}>
      <NamesContext.Provider value={names}>{children}</NamesContext.Provider>
    </UnitsContext.Provider>
  );
  return renderHook(() => useUnits(), { wrapper }).result.current;
}

export const Reads = ({ system, children }: { system: System; children: ReactNode }) => (
  <UnitsContext.Provider value={system}>{children}</UnitsContext.Provider>
);

/** A station with nothing said of it but where it stands. */
export const station = (number: number, x_mm: number, y_mm: number, more: Partial<PlacedStation> = {}) =>
  ({ number, x_mm, y_mm, turn: 0, face: 0, kind: 0, locked: false, with_station: null, ...more }) as PlacedStation;
