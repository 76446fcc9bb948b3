/** A row between jaws: what each part gets of the force, on average and in all but one clamping of a hundred either way. */
import type { Figure } from "../api/types";
import { Ask } from "../ui/Ask";
import { useUnits } from "../ui/units";
import type { Hold } from "../api/hold";
import { Bars } from "./lazy";

export function RowShares({ row, figure }: { row: NonNullable<Hold["row"]>; figure: Figure | undefined }) {
  const { withUnit } = useUnits();
  return (
    <div data-testid="row-shares">
      <h2>Row between the jaws</h2>
      <Bars
        says="Force on each part of the row, on average and in all but one clamping of a hundred either way"
        each="Part"
        bars={row.parts.map((part, k) => ({
          name: String(k + 1),
          value: part.mean_n,
          low: part.low_n,
          high: part.high_n,
        }))}
        told={(k) => {
          const part = row.parts[k];
          return part
            ? `${withUnit(part.mean_n, "N", 0)}, ${withUnit(part.low_n, "N", 0)} to ${withUnit(part.high_n, "N", 0)}`
            : "";
        }}
        show={(force) => withUnit(force, "N", 0)}
        wide={62}
      />
      <p className="small">
        The least-held part gets{" "}
        <Ask className="mono" figure={figure}>
          {withUnit(row.least_n, "N", 0)}
        </Ask>{" "}
        in 99 of 100 clampings; one is loose in <span className="mono">{(100 * row.chance_loose).toFixed(1)}</span> of
        100.
      </p>
    </div>
  );
}
