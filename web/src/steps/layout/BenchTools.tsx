/** All that is done on the bench, in one row; what is rarely wanted stands in the menu at its end. */
import { Button } from "@mui/material";

import { usePlan } from "../../api/queries";
import type { Design } from "../../api/types";
import type { Placing } from "../../drawing/placing";
import type { Overlay } from "../../drawing/Station";
import { useEditor, useSending } from "../../editing/editor";
import { Tool, Toolbar } from "../../ui/Toolbar";
import { More } from "./More";
import { OVERLAYS } from "./Overlays";

export type View = "bench" | "3-D" | "compare";

interface Props {
  design: Design | null;
  placing: Placing;
  busy: boolean;
  overlay: Overlay;
  cover: (overlay: Overlay) => void;
  view: View;
  swap: (view: View) => void;
}

export function BenchTools({ design, placing, busy, overlay, cover, view, swap }: Props) {
  const { mayEdit } = useEditor();
  const flat = design !== null && view === "bench";
  return (
    <Toolbar label="Bench">
      {mayEdit && <PlanButton placing={placing} busy={busy} />}
      {mayEdit && flat && <Placed placing={placing} />}
      <div className="joined" role="group" aria-label="Show on the stations">
        {OVERLAYS.map((item) => (
          <Tool
            key={item.key}
            label={item.label}
            shortcut={item.shortcut}
            title={item.title}
            off={!flat}
            pressed={view === "bench" && overlay === item.key}
            does={() => cover(overlay === item.key ? "none" : item.key)}
          />
        ))}
      </div>
      <div className="joined">
        <Tool label="3-D" shortcut="V" off={!design} pressed={view === "3-D"} does={() => swap("3-D")} />
        <More placing={placing} placeable={mayEdit && flat} />
      </div>
    </Toolbar>
  );
}

function Placed({ placing }: { placing: Placing }) {
  const none = placing.selected.size === 0;
  const { saving } = useSending();
  return (
    <div className="joined" role="group" aria-label="Stations">
      <Tool label="Turn" shortcut="T" off={none} does={() => placing.turn(90)} />
      <Tool label="Lock" shortcut="L" off={none} does={placing.lock} />
      <Tool label="Remove" shortcut="Del" off={none} does={placing.remove} />
      <Tool label="Add" shortcut="A" off={saving} does={placing.add} />
      <Tool
        label="Row"
        shortcut="R"
        title="As many beside it as fit, to the right"
        off={placing.selected.size !== 1 || saving}
        does={() => placing.repeat("+X")}
      />
    </div>
  );
}

function PlanButton({ placing, busy }: { placing: Placing; busy: boolean }) {
  const { job } = useEditor();
  const plan = usePlan(job.id);
  const around = placing.own;
  const waits = busy || (plan.isPending && !around);
  const label = placing.locked > 0 ? `Plan around ${String(placing.locked)} locked` : "Plan anew";
  return (
    <Button
      variant="contained"
      disabled={waits}
      onClick={() => {
        if (around) placing.aroundLocked();
        plan.mutate();
      }}
      title="Ctrl+Enter"
      data-testid={around ? "plan-around" : "plan"}
    >
      {around ? label : waits ? "Planning" : "Plan"}
    </Button>
  );
}
