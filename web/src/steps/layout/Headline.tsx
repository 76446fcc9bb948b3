/** The count, the seconds, the cycle: what a machinist looks for first. */
import type { Design } from "../../api/types";
import { useEditor, useFigures } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { clock } from "../../ui/units";
import { counted } from "../../ui/words";

export function Headline({ design, stale }: { design: Design; stale: boolean }) {
  const every = useFigures();
  const { programmed_s: programmed } = useEditor().here;
  const find = (id: string) => design.figures.find((item) => item.id === id) ?? every(id);
  return (
    <div className={`headline ${stale ? "stale" : ""}`} data-testid="headline">
      <div>
        <div className="big mono" data-testid="count">
          <Ask figure={find("count")}>{design.count}</Ask>
        </div>
        <div
          className="label"
          title={design.kinds.map((kind) => `${counted(kind.stations, "station")}: ${kind.name}`).join("\n")}
        >
          {design.counted ?? "parts"} per cycle
        </div>
      </div>
      <div>
        <div className="mid mono">
          <Ask figure={find("part_seconds")}>{clock(find("part_seconds")?.value ?? 0)}</Ask>
        </div>
        <div className="label">
          min a {design.counted === "kits" ? "kit" : "part"},{" "}
          <Ask figure={find("cut_seconds")}>{clock(design.cut_seconds)}</Ask> cutting
        </div>
      </div>
      <div>
        <div className="mid mono">
          <Ask figure={find("cycle_seconds")}>{clock(design.cycle.seconds)}</Ask>
        </div>
        <div className="label" title={programmed === null ? undefined : "At work, by its program that was tried"}>
          {programmed === null ? (
            <>
              min a cycle, <Ask figure={find("cycles")}>{design.cycles}</Ask> cycles
            </>
          ) : (
            `min, by program ${clock(programmed)}`
          )}
        </div>
      </div>
      <div>
        <div className="mid mono">
          <Ask figure={find("unattended")}>{(find("unattended")?.value ?? 0).toFixed(1)}</Ask> h
        </div>
        <div className="label">
          unattended{design.cycle.pallets > 1 ? `, ${String(design.cycle.pallets)} pallets` : ""}
        </div>
      </div>
    </div>
  );
}

/** How good the count is: proven, or what it cannot be above; and what a person spacing boxes would have. */
export function Statement({ design }: { design: Design }) {
  const every = useFigures();
  const find = (id: string) => design.figures.find((item) => item.id === id) ?? every(id);
  const more = design.count - design.by_hand;
  return (
    <div className="verdict">
      <span data-testid="statement">
        <Ask figure={find("bound")}>{design.proven ? "Proven largest" : `At most ${String(design.bound)}`}</Ask>
      </span>
      {design.by_hand > 0 && (
        <span className="quiet smaller plain-weight">
          {" "}
          boxes spaced by hand: <Ask figure={find("by_hand")}>{design.by_hand}</Ask>
          {more > 0 ? ` (${String(more)} fewer)` : ""}
        </span>
      )}
    </div>
  );
}

export function Nothing({ planned, stale }: { planned: boolean; stale: boolean }) {
  if (!planned) return <h2>Layout</h2>;
  return (
    <div className={`headline ${stale ? "stale" : ""}`}>
      <div>
        <div className="big mono stands-not">0</div>
        <div className="label">parts per cycle that would be held and in tolerance</div>
      </div>
    </div>
  );
}
