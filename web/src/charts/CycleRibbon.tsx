/** The cycle along a time line: each tool over the faces, index moves as gaps, the door or the pallet change at its end. */
import type { Design } from "../api/types";
import { Ask } from "../ui/Ask";
import { useFigures } from "../editing/editor";
import { clock } from "../ui/units";
import { counted } from "../ui/words";
import { Copy } from "../ui/Copy";
import { Strip } from "./Strip";

type Segment = Design["cycle"]["segments"][number];

export function CycleRibbon({ design }: { design: Design }) {
  const find = useFigures();
  const { cycle } = design;
  const total = Math.max(1, cycle.seconds);
  const tools = groups(cycle.segments);
  const saved = cycle.tool_changes_other;
  return (
    <section className="ribbon" aria-label="Cycle" data-testid="ribbon">
      <p className="ribbon-head">
        <span className="one-line">
          <b>
            <Ask figure={find("cycle_seconds")}>Cycle</Ask>
          </b>{" "}
          <Copy
            what="the cycle"
            rows={() => [["What", "Which", "Seconds"], ...cycle.segments.map((s) => [s.label, s.what, s.seconds])]}
          />
        </span>
        <span className="quiet">
          {counted(design.cycles, "cycle")}, {cycle.order}: {counted(cycle.tool_changes, "tool change")},{" "}
          {cycle.order === "by tool" ? `${String(saved)} by station` : `${String(saved)} by tool`}
          {cycle.index_moves > 0 ? `; ${counted(cycle.index_moves, "index move")}` : ""}; {clock(cycle.loading_seconds)}{" "}
          min of loading {cycle.hidden ? "hidden behind cutting" : "with the door open"}
        </span>
      </p>
      <Strip
        look="ribbon-line"
        says={`The cycle, ${clock(cycle.seconds)} min`}
        pieces={tools.map((group, index) => {
          const seconds = group.reduce((sum, item) => sum + item.seconds, 0);
          const first = group[0] as Segment;
          return {
            key: String(index),
            share: seconds / total,
            least: first.what === "door open" || first.what === "pallet change",
            says: `${first.label}: ${clock(seconds)} min`,
            drawn: (
              <>
                <span className="ribbon-name">{seconds / total > 0.045 ? first.label : ""}</span>
                <Drawn group={group} odd={index % 2 === 1} />
              </>
            ),
          };
        })}
      />
    </section>
  );
}

/** What a tool does, one thing after another: cutting in blue, the ways between in grey. */
function Drawn({ group, odd }: { group: Segment[]; odd: boolean }) {
  const ends = group.map((_, k) => group.slice(0, k + 1).reduce((sum, item) => sum + item.seconds, 0));
  const whole = Math.max(1e-9, ends.at(-1) ?? 0);
  return (
    <svg className="ribbon-bar" viewBox="0 0 1000 1" preserveAspectRatio="none" aria-hidden="true">
      {group.map((item, k) => (
        <rect
          key={k}
          x={(1000 * ((ends[k] ?? 0) - item.seconds)) / whole}
          width={(1000 * item.seconds) / whole}
          height={1}
          className={`ribbon-${item.what.replace(" ", "-")} ${odd ? "odd" : ""}`}
        />
      ))}
    </svg>
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
