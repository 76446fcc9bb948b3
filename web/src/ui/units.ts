/** Showing quantities in a person's units. Reading what was typed is the service's work: it gets the text, with
 * the unit it was shown in. */
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
  K: { unit: "°C", factor: 1, digits: 2 }, // a difference: a machinist says degrees
  "mm²": { unit: "mm²", factor: 1, digits: 0 },
  "cm³": { unit: "cm³", factor: 1, digits: 2 },
  "mm³": { unit: "mm³", factor: 1, digits: 1 },
  "mm/min": { unit: "mm/min", factor: 1, digits: 0 },
  MPa: { unit: "MPa", factor: 1, digits: 1 },
  kPa: { unit: "kPa", factor: 1, digits: 1 },
  kW: { unit: "kW", factor: 1, digits: 2 },
  kN: { unit: "kN", factor: 1, digits: 2 },
  "m/min": { unit: "m/min", factor: 1, digits: 1 },
  "N/mm": { unit: "N/mm", factor: 1, digits: 0 },
  µm: { unit: "µm", factor: 1, digits: 1 },
  "1/min": { unit: "rpm", factor: 1, digits: 0 },
};

const PSI_MPA = 4.4482216152605 / 25.4 ** 2;

const INCH: Record<string, Shown> = {
  mm: { unit: "in", factor: 1 / 25.4, digits: 5 },
  "N·m": { unit: "in·lb", factor: 1 / 0.1129848290276167, digits: 3 },
  N: { unit: "lbf", factor: 1 / 4.4482216152605, digits: 1 },
  kg: { unit: "lb", factor: 1 / 0.45359237, digits: 2 },
  K: { unit: "°F", factor: 9 / 5, digits: 2 },
  "mm²": { unit: "in²", factor: 1 / 645.16, digits: 2 },
  "cm³": { unit: "in³", factor: 1 / 16.387064, digits: 3 },
  "mm³": { unit: "in³", factor: 1 / 16387.064, digits: 5 },
  "mm/min": { unit: "in/min", factor: 1 / 25.4, digits: 2 },
  MPa: { unit: "ksi", factor: 1e-3 / PSI_MPA, digits: 2 },
  kPa: { unit: "psi", factor: 1e-3 / PSI_MPA, digits: 2 },
  kW: { unit: "hp", factor: 1 / (0.55 * 0.3048 * 4.4482216152605), digits: 2 },
  kN: { unit: "lbf", factor: 1000 / 4.4482216152605, digits: 0 },
  "m/min": { unit: "ft/min", factor: 1 / 0.3048, digits: 1 },
  "N/mm": { unit: "lbf/in", factor: 25.4 / 4.4482216152605, digits: 0 },
  µm: { unit: "thou", factor: 1 / 25.4, digits: 2 },
  "1/min": { unit: "rpm", factor: 1, digits: 0 },
};

export const UnitsContext = createContext<Units>("metric");
/** Names that hold a quantity, "Outside, upper 8 mm": they stay as they were given. */
export const NamesContext = createContext<readonly string[]>([]);

const NUMBER = String.raw`\d+(?:\.\d+)?`;
/** One quantity, or several that share a unit: "3 to 20 mm", "80 x 40 mm". What is said a metre, or in both systems, stays so. */
const QUANTITY = new RegExp(
  String.raw`(?<![\w.])(${NUMBER})((?: (?:to|and|x) ${NUMBER})*)[ \u00a0](mm³|mm/min|mm|N·m|N/mm|N|kg|K|MPa|kPa|kW|kN|m/min|µm)(?![\w²³/·]| a metre| \(\d)`,
  "g",
);
/** A difference of temperature in a sentence of the engine. */
const KELVIN = /(\d)([ \u00a0])K\b/g;
const COORDINATE = /\b([XYZ])(-?\d+\.\d+)(?![\d.])/g;
/** Tells an inch by itself, other than in brackets behind the metric. */
const INCHES = /(?<!\([\d.]*)\d ?(?:in|in·lb|lbf|lb|thou)\b/;

export function useUnits() {
  const system = useContext(UnitsContext);
  const names = useContext(NamesContext);
  const table = system === "inch" ? INCH : METRIC;
  const shownUnit = (unit: string): string => table[unit]?.unit ?? unit;
  /** As a field holds it: as many digits as it takes to come back to the same value, up to eight, of an inch up to
   * five; none that do not matter. */
  const plain = (value: number, unit: string): string => {
    const entry = table[unit];
    const factor = entry?.factor ?? 1;
    const shown = value * factor;
    // What an inch reader has not typed is shown to a quarter of a micrometre: it is stored only when it is changed.
    const most = system === "inch" && entry && Math.abs(shown) >= 0.001 ? entry.digits : 8;
    for (let digits = 0; digits <= most; digits += 1) {
      const text = Number(shown.toFixed(digits));
      if (Math.abs(text / factor - value) <= 1e-9 * Math.max(1e-3, Math.abs(value))) return plainly(text);
    }
    return plainly(Number(shown.toFixed(Math.max(entry?.digits ?? 6, Math.abs(shown) < 1e-4 ? 10 : 0))));
  };
  /** As a figure shows it, with a fixed number of digits; inch lengths get one or two more. */
  const figure = (value: number, unit: string, digits: number): string => {
    const entry = table[unit];
    const factor = entry?.factor ?? 1;
    const small = { mm: digits >= 3 ? 1 : 2, "mm²": 3, "mm³": 4, MPa: 1, kPa: 1, µm: 1, kN: -2 }[unit] ?? 0;
    const extra = system === "inch" ? small : 0;
    return (value * factor).toFixed(Math.max(0, digits + extra)).replace(/^-(?=0\.?0*$)/, "");
  };
  /** A sentence of the engine, which speaks metric, in a person's units; names, and what tells both units by itself, are left. */
  const says = (text: string): string => {
    if (system !== "inch") return text.replace(KELVIN, "$1$2°C");
    if (INCHES.test(text)) return text;
    const told = (value: string, unit: string) => {
      const given = (value.split(".")[1] ?? "").length;
      const digits = unit === "K" ? given + 1 : unit === "mm" && given >= 3 ? 4 : given;
      return figure(Number(value), unit, digits).replace(/(\.\d{4,}?)0+$/, "$1");
    };
    const translate = (part: string) =>
      part
        .replace(
          QUANTITY,
          (_all, first: string, further: string, unit: string) =>
            `${told(first, unit)}${further.replace(new RegExp(NUMBER, "g"), (value) => told(value, unit))} ${shownUnit(unit)}`,
        )
        .replace(COORDINATE, (_all, axis: string, value: string) => `${axis}${told(value, "mm")}`);
    // Cut at the names; every second piece is one.
    return names.length === 0
      ? translate(text)
      : text
          .split(new RegExp(`(${names.map(literally).join("|")})`))
          .map((part, index) => (index % 2 ? part : translate(part)))
          .join("");
  };
  return {
    system,
    shownUnit,
    says,
    plain,
    figure,
    withUnit: (v: number, u: string, d: number) => `${figure(v, u, d)} ${shownUnit(u)}`.trim(),
  };
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

const literally = (name: string): string => name.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");

/** All names in a document that a translated sentence would break, the longest first. */
export function namesIn(document: unknown): string[] {
  const found = new Set<string>();
  const look = (node: unknown, key: string): void => {
    if (typeof node === "string") {
      if (key === "name" && (node.search(QUANTITY) >= 0 || node.search(COORDINATE) >= 0)) found.add(node);
    } else if (node && typeof node === "object") {
      for (const [inner, value] of Object.entries(node)) look(value, Array.isArray(node) ? key : inner);
    }
  };
  look(document, "");
  return [...found].sort((a, b) => b.length - a.length);
}

/** The first letter large. */
export const capital = (text: string): string => text.slice(0, 1).toUpperCase() + text.slice(1);
