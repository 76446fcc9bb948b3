/** Showing quantities in a person's units. Reading what was typed is the service's work: it gets the text, with the unit it was shown in. */
import { createContext, useContext } from "react";

import type { Units } from "../api/types";

export type Kind = "length" | "torque" | "force" | "mass" | "temperature" | "none";

interface Shown {
  unit: string;
  factor: number;
  digits: number;
}

const METRIC: Record<string, Shown> = {
  mm: { unit: "mm", factor: 1, digits: 4 },
  "N·m": { unit: "N·m", factor: 1, digits: 3 },
  N: { unit: "N", factor: 1, digits: 1 },
  kg: { unit: "kg", factor: 1, digits: 2 },
  K: { unit: "K", factor: 1, digits: 2 },
  "mm²": { unit: "mm²", factor: 1, digits: 0 },
  "mm/min": { unit: "mm/min", factor: 1, digits: 0 },
};

const INCH: Record<string, Shown> = {
  mm: { unit: "in", factor: 1 / 25.4, digits: 5 },
  "N·m": { unit: "in·lb", factor: 1 / 0.1129848290276167, digits: 3 },
  N: { unit: "lbf", factor: 1 / 4.4482216152605, digits: 1 },
  kg: { unit: "lb", factor: 1 / 0.45359237, digits: 2 },
  K: { unit: "°F", factor: 9 / 5, digits: 2 },
  "mm²": { unit: "in²", factor: 1 / 645.16, digits: 2 },
  "mm/min": { unit: "in/min", factor: 1 / 25.4, digits: 2 },
};

export const UnitsContext = createContext<Units>("metric");

export function useUnits() {
  const system = useContext(UnitsContext);
  const table = system === "inch" ? INCH : METRIC;
  const shownUnit = (unit: string): string => table[unit]?.unit ?? unit;
  /** As a field holds it: as many digits as it takes to come back to the same value, up to eight; none that do not matter. */
  const plain = (value: number, unit: string): string => {
    const entry = table[unit];
    const factor = entry?.factor ?? 1;
    const shown = value * factor;
    for (let digits = 0; digits <= 8; digits += 1) {
      const text = Number(shown.toFixed(digits));
      if (Math.abs(text / factor - value) <= 1e-9 * Math.max(1e-3, Math.abs(value))) return plainly(text);
    }
    return plainly(Number(shown.toFixed(Math.max(entry?.digits ?? 6, Math.abs(shown) < 1e-4 ? 10 : 0))));
  };
  /** As a figure shows it, with a fixed number of digits; inch lengths get one or two more. */
  const figure = (value: number, unit: string, digits: number): string => {
    const entry = table[unit];
    const factor = entry?.factor ?? 1;
    const extra = unit === "mm" && system === "inch" ? (digits >= 3 ? 1 : 2) : 0;
    return (value * factor).toFixed(Math.max(0, digits + extra));
  };
  return { system, shownUnit, plain, figure, withUnit: (v: number, u: string, d: number) => `${figure(v, u, d)} ${shownUnit(u)}`.trim() };
}

/** Without an exponent, which no one types on a shop floor. */
function plainly(value: number): string {
  const text = String(value);
  return text.includes("e") ? value.toFixed(12).replace(/0+$/, "").replace(/\.$/, "") : text;
}

/** Does the text carry a unit of its own? */
export const isBare = (text: string): boolean => /^[\s\d./,+-]+$/.test(text);

export function clock(seconds: number): string {
  const whole = Math.round(seconds);
  const minutes = Math.floor(whole / 60);
  return `${String(minutes)}:${String(whole % 60).padStart(2, "0")}`;
}
