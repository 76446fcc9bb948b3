/** The cycle along a time line: each tool over the faces, index moves as gaps, the door or the pallet change at its end. */
import type { Design } from "../api/types";
import { Ask } from "../ui/Ask";
import { useFigures } from "../editing/editor";
import { clock } from "../ui/units";
import { counted } from "../ui/words";

type Segment = Design["cycle"]["segments"][number];

const FILL: Record<Segment["what"], string> = {
  cut: "var(--mark)",
  rapids: "var(--rule)",
  "tool change": "var(--steel)",
  index: "var(--ink)",
  "pallet change": "none",
  "door open": "none",
};

export function CycleRibbon({ design }: { design: Design }) {
  const find = useFigures();
  const { cycle } = design;
  const total = Math.max(1, cycle.seconds);
  const tools = groups(cycle.segments);
  const saved = cycle.tool_changes_other;
  return (
    <section className="ribbon" aria-label="Cycle" data-testid="ribbon">
      <p className="ribbon-head">
        <b>
          <Ask figure={find("cycle_seconds")}>Cycle</Ask>
        </b>
        <span className="quiet">
          {cycle.order}: {counted(cycle.tool_changes, "tool change")},{" "}
          {cycle.order === "by tool" ? `${String(saved)} by station` : `${String(saved)} by tool`}
          {cycle.index_moves > 0 ? `; ${counted(cycle.index_moves, "index move")}` : ""}; {clock(cycle.loading_seconds)}{" "}
          min of loading {cycle.hidden ? "hidden behind cutting" : "with the door open"}
        </span>
      </p>
      <div
        className="ribbon-line"
        role="img"
        aria-label={cycle.segments.map((item) => `${item.label} ${clock(item.seconds)}`).join(", ")}
      >
        {tools.map((group, index) => {
          const seconds = group.reduce((sum, item) => sum + item.seconds, 0);
          const first = group[0] as Segment;
          const open = first.what === "door open" || first.what === "pallet change";
          return (
            <div
              key={index}
              style={{ flex: `${String(seconds / total)} 1 0`, minWidth: open ? 2 : 0 }}
              title={`${first.label}: ${clock(seconds)} min`}
            >
              <span className="ribbon-name">{seconds / total > 0.045 ? first.label : ""}</span>
              <span className="ribbon-bar">
                {group.map((item, place) => (
                  <i
                    key={place}
                    style={{
                      flex: `${String(item.seconds)} 1 0`,
                      background: FILL[item.what],
                      opacity: item.what === "cut" ? 0.45 + 0.4 * ((index % 2) as number) : 1,
                      border: open ? "1px dashed var(--ink)" : undefined,
                    }}
                  />
                ))}
              </span>
            </div>
          );
        })}
      </div>
    </section>
  );
}

/** A tool with everything it does, its change first. */
function groups(segments: Segment[]): Segment[][] {
  const found: Segment[][] = [];
  for (const item of segments) {
    const last = found.at(-1);
    if (!last || item.what === "tool change" || item.what === "door open" || item.what === "pallet change")
      found.push([item]);
    else last.push(item);
  }
  return found;
}
