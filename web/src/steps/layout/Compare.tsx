/** Two designs side by side, and what differs. */
import { useState } from "react";

import type { Design } from "../../api/types";
import type { Carrier } from "../../editing/here";
import { Choice } from "../../ui/Field";
import { clock, useUnits } from "../../ui/units";
import { PlateDrawing } from "../../drawing/PlateDrawing";

export function Compare({ on, designs }: { on: Carrier; designs: Design[] }) {
  const [sides, setSides] = useState<[number, number]>([0, 1]);
  const { withUnit } = useUnits();
  const options = designs.map((item, index) => ({ value: String(index), label: `${String(item.count)} ${item.name}` }));
  const [left, right] = sides.map((index) => designs[index] ?? designs[0]) as [Design, Design];
  const lines: [string, (design: Design) => string | number][] = [
    [`${left.counted.slice(0, 1).toUpperCase()}${left.counted.slice(1)} per cycle`, (design) => design.count],
    ["Minutes a part", (design) => clock(design.figures.find((item) => item.id === "part_seconds")?.value ?? 0)],
    ["Minutes a cycle", (design) => clock(design.cycle.seconds)],
    ["Cycles for the batch", (design) => design.cycles],
    ["Turns used", (design) => (design.turns ?? []).map((turn) => `${String(turn)}°`).join(", ")],
    ["Rows, at their own height", (design) => design.rows ?? 0],
    ["Work offsets used", (design) => design.offsets ?? 1],
    [
      "Most of a tolerance used",
      (design) =>
        `${Math.round(100 * Math.max(0, ...design.stations.map((item) => item.tolerance_share))).toFixed(0)} %`,
    ],
    ["Table load", (design) => withUnit(design.limits.find((item) => item.id === "load")?.used ?? 0, "kg", 1)],
  ];
  return (
    <div className="compare" data-testid="compare">
      {[left, right].map((design, side) => (
        <div key={side} className="flex down may-narrow">
          <div className="under-6 wide-300">
            <Choice
              label={side === 0 ? "Left" : "Right"}
              name={`compare.${String(side)}`}
              value={String(sides[side])}
              options={options}
              disabled={false}
              store={(value) => setSides(side === 0 ? [Number(value), sides[1]] : [sides[0], Number(value)])}
            />
          </div>
          <PlateDrawing on={on} design={design} />
        </div>
      ))}
      <table className="lines tight whole-row">
        <tbody>
          {lines.map(([label, of]) => {
            const [a, b] = [of(left), of(right)];
            return (
              <tr key={label} className={a === b ? "plain-weight" : "strong"}>
                <td>{label}</td>
                <td className="num mono">{a}</td>
                <td className="num mono">{b}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}
