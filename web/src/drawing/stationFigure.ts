import type { Figure, PlacedStation } from "../api/types";

/** The tolerance figure of one station: formula and source are those of the worst station, the inputs its own. */
export function stationFigure(
  station: PlacedStation | null,
  worst: Figure | undefined,
  kind?: "probable" | "worst case",
): Figure | undefined {
  if (!worst || !station) return undefined;
  const growth = worst.inputs?.filter((item) => item.unit === "µm/m") ?? [];
  const probable = kind ? kind === "probable" : worst.formula.includes("root of the sum");
  return {
    ...worst,
    label: `Tolerance, station ${String(station.number)}, ${probable ? "probable" : "worst case"}`,
    value: probable ? station.probable_mm : station.worst_case_mm,
    formula: probable ? "2 x √(Σx² + Σy²), each Σ the root of the sum of squares" : "2 x √((Σ|x|)² + (Σ|y|)²)",
    inputs: [
      ...station.contributions.flatMap((item) => [
        { name: `${item.name}, X`, value: item.x_mm, unit: "mm", source: "plus or minus, at this station" },
        { name: `${item.name}, Y`, value: item.y_mm, unit: "mm", source: "plus or minus, at this station" },
      ]),
      ...growth,
    ],
  };
}
