/** What an inch reader sees, against the conversion factors of NIST SP 811 (2008), appendix B.8, as printed there. */
import fc from "fast-check";
import { describe, expect, it } from "vitest";

import { clock, isBare, namesIn } from "../src/ui/units";
import { reader } from "./shown";

/** Unit of the document, what an inch reader has, and how much of the document's unit one of those is. */
const PRINTED: [string, string, number][] = [
  ["mm", "in", 25.4],
  ["N·m", "in·lb", 0.1129848],
  ["N", "lbf", 4.448222],
  ["kN", "lbf", 4.448222e-3],
  ["kg", "lb", 0.4535924],
  ["mm²", "in²", 645.16],
  ["cm³", "in³", 16.38706],
  ["mm³", "in³", 16387.06],
  ["mm/min", "in/min", 25.4],
  ["MPa", "ksi", 6.894757],
  ["kPa", "psi", 6.894757],
  ["kW", "hp", 0.7456999],
  ["m/min", "ft/min", 0.3048],
  ["N/mm", "lbf/in", 0.1751268],
  ["K", "°F", 5 / 9],
];

describe("quantities", () => {
  const [metric, inch] = [reader("metric"), reader("inch")];

  it.each(PRINTED)("%s is shown in %s by the printed factor", (unit, shown, factor) => {
    expect(inch.shownUnit(unit)).toBe(shown);
    // 1,000 of them, with six digits of the factor as printed.
    expect(Number(inch.figure(1000 * factor, unit, 6))).toBeCloseTo(1000, 2);
    expect(Number(inch.plain(1000 * factor, unit))).toBeCloseTo(1000, 2);
    expect(metric.figure(1000 * factor, unit, 6)).toBe((1000 * factor).toFixed(6));
  });

  const length = fc.integer({ min: -5_000_000, max: 5_000_000 }).map((micrometres) => micrometres / 1000);

  it("a field holds what comes back to the same length, and no digit more", () => {
    fc.assert(
      fc.property(length, (mm) => {
        const text = metric.plain(mm, "mm");
        expect(Number(text)).toBeCloseTo(mm, 8);
        expect(text).not.toMatch(/e|^-?0\d|\.\d*0$/);
        const digits = (text.split(".")[1] ?? "").length;
        if (digits > 0) expect(Math.abs(Number(mm.toFixed(digits - 1)) - mm)).toBeGreaterThan(1e-10);
      }),
    );
  });

  it("what an inch reader typed comes back as typed; what he did not is within a quarter of a micrometre", () => {
    fc.assert(
      fc.property(fc.integer({ min: -400_000, max: 400_000 }), (tenths_of_a_thou) => {
        const typed = tenths_of_a_thou / 10_000;
        expect(Number(inch.plain(typed * 25.4, "mm"))).toBe(typed);
      }),
    );
    fc.assert(
      fc.property(length, (mm) => {
        expect(Math.abs(Number(inch.plain(mm, "mm")) * 25.4 - mm)).toBeLessThan(0.00025);
      }),
    );
  });

  it("a figure has its digits, and nothing is minus nothing", () => {
    fc.assert(
      fc.property(fc.double({ min: -1e5, max: 1e5, noNaN: true }), fc.integer({ min: 0, max: 5 }), (value, digits) => {
        for (const { figure } of [metric, inch]) {
          const text = figure(value, "N", digits);
          expect(text).not.toMatch(/^-0(\.0*)?$/);
          expect((text.split(".")[1] ?? "").length).toBe(digits);
        }
      }),
    );
    expect(metric.figure(-0.0004, "mm", 3)).toBe("0.000");
    // A thousandth of a millimetre is four decimals of an inch, a tenth three.
    expect(inch.figure(0.112, "mm", 3)).toBe("0.0044");
    expect(inch.figure(25.4, "mm", 1)).toBe("1.000");
    expect(inch.figure(1.5, "kN", 2)).toBe("337");
  });

  it("knows a bare number from one with its unit", () => {
    for (const bare of ["3", "-0.5", "1 1/2", "3, 4"]) expect(isBare(bare)).toBe(true);
    for (const own of ["3 mm", '1"', "0.5in", "two"]) expect(isBare(own)).toBe(false);
  });
});

describe("sentences of the engine", () => {
  it.each([
    ["Stands 2.5 mm too near station 4", "Stands 0.098 in too near station 4"],
    ["holds from 3 to 20 mm", "holds from 0.12 to 0.79 in"],
    ["a blank 80 x 40 x 25.4 mm", "a blank 3.15 x 1.57 x 1.000 in"],
    ["4448 N on the screw, 16 N·m", "1000 lbf on the screw, 142 in·lb"],
    ["marks at 131 MPa, sucked with 80 kPa", "marks at 19.0 ksi, sucked with 11.6 psi"],
    ["warms by 2 K", "warms by 3.6 °F"],
    ["drill at X25.4 Y50.8, top", "drill at X1.000 Y2.000, top"],
    ["0.112 mm of 0.1270 mm", "0.00441 in of 0.0050 in"],
  ])("%s", (said, inch) => {
    expect(reader("inch").says(said)).toBe(inch);
    expect(reader("metric").says(said)).toBe(said.replace(/(\d) K\b/, "$1 °C"));
  });

  it.each([
    "±0.004 mm and 0.008 mm a metre",
    "weighs 25.1 kg (55 lb)",
    "stock 1/2 in plate, 12.7 mm",
    "M8 and T2 at station 12",
    "G54 in line N110",
  ])("is left where it tells an inch reader enough by itself: %s", (said) => {
    const left = reader("inch").says(said);
    // A length that is said a metre stays; one that is not is told in inches.
    expect(left).toContain(said.slice(-8));
    if (!said.includes("±")) expect(left).toBe(said);
  });

  it("never breaks a name", () => {
    const names = namesIn({
      job: { parts: [{ name: "Outside, upper 8 mm" }, { name: "Boss" }] },
      route: [{ name: "Outside, upper 8 mm, op 20" }],
    });
    expect(names).toEqual(["Outside, upper 8 mm, op 20", "Outside, upper 8 mm"]);
    const said = "Outside, upper 8 mm, op 20 stands 8 mm too near Outside, upper 8 mm";
    expect(reader("inch", names).says(said)).toBe(
      "Outside, upper 8 mm, op 20 stands 0.31 in too near Outside, upper 8 mm",
    );
  });

  it("loses no word and no number, whatever is said", () => {
    const word = fc.constantFrom("station", "needs", "at", "of", "the", "top,", "op", "12", "T3:");
    const quantity = fc
      .tuple(fc.integer({ min: 1, max: 99_999 }), fc.constantFrom(1, 10, 100), fc.constantFrom("mm", "N", "kg", "MPa"))
      .map(([value, share, unit]) => `${String(value / share)} ${unit}`);
    fc.assert(
      fc.property(fc.array(fc.oneof(word, quantity), { minLength: 1, maxLength: 12 }), (pieces) => {
        const said = reader("inch").says(pieces.join(" "));
        const words = (text: string) => text.split(" ").filter((piece) => !/^[\d.]+$/.test(piece));
        const shown: Record<string, string> = { mm: "in", N: "lbf", kg: "lb", MPa: "ksi" };
        expect(words(said)).toEqual(words(pieces.join(" ")).map((piece) => shown[piece] ?? piece));
        const numbers = (text: string) => text.split(" ").filter((piece) => /^[\d.]+$/.test(piece)).length;
        expect(numbers(said)).toBe(numbers(pieces.join(" ")));
      }),
    );
  });
});

it("a clock says whole seconds, and sixty of them are a minute", () => {
  fc.assert(
    fc.property(fc.double({ min: 0, max: 360_000, noNaN: true }), (seconds) => {
      const [minutes = 0, rest = 0] = clock(seconds).split(":").map(Number);
      expect(rest).toBeLessThan(60);
      expect(Math.abs(60 * minutes + rest - seconds)).toBeLessThanOrEqual(0.5);
    }),
  );
  expect(clock(59.6)).toBe("1:00");
});
