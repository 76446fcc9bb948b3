import { Button } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router";

import { active, usePlan } from "../api/queries";
import type { Design, PlacedStation } from "../api/types";
import { useEditor, useFigures, useStored, usePlanned } from "../job/editor";
import { NotCurrent } from "../job/NotCurrent";
import { stepOf } from "../job/route";
import { Ask } from "../ui/Ask";
import { Field } from "../ui/Field";
import { Notice } from "../ui/Notice";
import { clock, useUnits } from "../ui/units";
import { Ledger } from "./Ledger";
import { PlateDrawing, type Overlay } from "./PlateDrawing";
import { stationFigure } from "./stationFigure";

/** The bench: the plate with every station, the headline above, the limits beside. */
export function LayoutStep() {
  const { job, request, mayEdit } = useEditor();
  const stored = useStored();
  const plan = usePlan(job.id);
  const find = useFigures();
  const [overlay, setOverlay] = useState<Overlay>("none");
  const [selected, setSelected] = useState<number | null>(null);
  const result = job.latest?.result ?? null;
  const design = result?.designs[0] ?? null;
  const current = job.latest?.run.current ?? false;
  const busy = active(job.latest) || plan.isPending;
  const station = design?.stations.find((item) => item.number === selected) ?? null;
  const { part, judged } = usePlanned();
  const tightest = [...judged].sort((a, b) => a.feature.tolerance_mm - b.feature.tolerance_mm)[0];
  const toggle = (wanted: Overlay) => setOverlay(overlay === wanted ? "none" : wanted);
  return (
    <div className="bench">
      <section className="work" aria-label="Layout">
        {design ? <Headline design={design} stale={!current} /> : result ? <Nothing stale={!current} /> : <h2>Layout</h2>}
        <div className="tools">
          {mayEdit && (
            <>
              <div style={{ width: 128 }}>
                <Field label="Screw torque" {...stored("station.clamp.torque_nm", "N·m")} />
              </div>
              {tightest && (
                <div style={{ width: 128 }}>
                  <Field label="Position zone" {...stored(`parts.${String(part)}.features.${String(tightest.index)}.tolerance_mm`, "mm")} />
                </div>
              )}
              <div style={{ width: 118 }}>
                <Field label="Clearance" {...stored("station.clearance_mm", "mm")} />
              </div>
              <Button variant="contained" size="medium" style={{ height: 38 }} disabled={busy} onClick={() => plan.mutate()} title="Ctrl+Enter" data-testid="plan">
                {busy ? "Planning" : "Plan"}
              </Button>
            </>
          )}
          <Button variant={overlay === "tolerance" ? "contained" : "outlined"} style={{ height: 38 }} disabled={!design} onClick={() => toggle("tolerance")} aria-pressed={overlay === "tolerance"}>
            Tolerance used
          </Button>
          <Button variant={overlay === "sweep" ? "contained" : "outlined"} style={{ height: 38 }} disabled={!design} onClick={() => toggle("sweep")} aria-pressed={overlay === "sweep"}>
            Cutter sweep
          </Button>
        </div>
        <NotCurrent />
        {result && !result.feasible && current && !busy && (
          <div data-testid="reasons" style={{ display: "flex", flexDirection: "column", gap: 8 }}>
            {result.reasons.map((reason) => (
              <Notice
                key={reason.field + reason.what}
                title={`No design: ${reason.what}`}
                kind="over"
                action={
                  <Link to={`/jobs/${job.id}/${stepOf(reason.field)}`} style={{ whiteSpace: "nowrap" }}>
                    Go to it
                  </Link>
                }
              >
                <p>Why: {reason.why}.</p>
                <p>Nearest that works: {reason.nearest}.</p>
              </Notice>
            ))}
          </div>
        )}
        <div className={!current && design ? "stale drawing" : "drawing"} style={{ display: "flex" }}>
          <PlateDrawing request={request} design={design} overlay={overlay} selected={selected} select={setSelected} />
        </div>
        <p className="quiet" style={{ minHeight: 20 }} data-testid="station-line">
          {station ? <StationLine station={station} zone={judged.find((item) => item.feature.name === station.feature)?.feature.tolerance_mm ?? 0} /> : design ? "Pick a station for its figures; arrow keys go from one to the next." : ""}
        </p>
      </section>
      <aside className="side" aria-label="Limits">
        <h2>Limits</h2>
        {design ? (
          <div className={current ? "" : "stale"}>
            <Ledger limits={design.limits} find={find} />
          </div>
        ) : (
          <p className="quiet">They stand here once there is a design.</p>
        )}
        {result && result.cautions.length > 0 && (
          <>
            <hr />
            <h2>Caution</h2>
            {result.cautions.map((text) => (
              <p key={text} style={{ marginBottom: 6, fontSize: 13.5 }}>
                {text}
              </p>
            ))}
          </>
        )}
      </aside>
    </div>
  );
}

function Headline({ design, stale }: { design: Design; stale: boolean }) {
  const find = useFigures();
  const more = design.count - design.by_hand;
  return (
    <div className={`headline ${stale ? "stale" : ""}`} data-testid="headline">
      <div>
        <div className="big mono" data-testid="count">
          <Ask figure={find("count")}>{design.count}</Ask>
        </div>
        <div className="label">parts per cycle</div>
      </div>
      <div>
        <div className="mid mono">
          <Ask figure={find("cycles")}>{design.cycles}</Ask>
        </div>
        <div className="label">cycles for the batch</div>
      </div>
      <div>
        <div className="mid mono">
          <Ask figure={find("cut_seconds")}>{clock(design.cut_seconds)}</Ask>
        </div>
        <div className="label">min a part, cutting only</div>
      </div>
      <div className="verdict">
        <div style={{ color: design.proven ? "var(--within)" : "var(--close-text)" }} data-testid="statement">
          <Ask figure={find("bound")}>{design.proven ? "Proven largest" : `At most ${String(design.bound)}`}</Ask>
        </div>
        <div className="quiet" style={{ fontSize: 12.5, fontWeight: 400 }}>
          boxes spaced by hand: <Ask figure={find("by_hand")}>{design.by_hand}</Ask>
          {more > 0 ? ` (${String(more)} fewer)` : ""}
        </div>
      </div>
    </div>
  );
}

function Nothing({ stale }: { stale: boolean }) {
  return (
    <div className={`headline ${stale ? "stale" : ""}`}>
      <div>
        <div className="big mono" style={{ color: "var(--over)" }}>
          0
        </div>
        <div className="label">parts per cycle that would be held and in tolerance</div>
      </div>
    </div>
  );
}

function StationLine({ station, zone }: { station: PlacedStation; zone: number }) {
  const { withUnit, figure } = useUnits();
  const asked = stationFigure(station, useFigures()("tolerance"));
  return (
    <>
      Station <b>{station.number}</b>: datum X<span className="mono">{figure(station.x_mm, "mm", 3)}</span> Y<span className="mono">{figure(station.y_mm, "mm", 3)}</span>, turned{" "}
      <span className="mono">{station.turn}°</span>,{" "}
      <Ask figure={asked} className="mono">
        {figure(asked?.value ?? station.probable_mm, "mm", 3)}
      </Ask>{" "}
      of <span className="mono">{withUnit(zone, "mm", 3)}</span>
    </>
  );
}
