import { Button } from "@mui/material";
import { lazy, Suspense, useEffect, useMemo, useState } from "react";
import { Link } from "react-router";

import { active, usePlan, useSession } from "../../api/queries";
import type { Design, Part, PlacedStation } from "../../api/types";
import { useEditor, useFigures, useStored, usePlanned } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { wayTo } from "../../editing/route";
import { Ask } from "../../ui/Ask";
import { Cell } from "../../ui/Cell";
import { Field } from "../../ui/Field";
import { Notice } from "../../ui/Notice";
import { clock, useUnits } from "../../ui/units";
import { Compare } from "./Compare";
import { CycleRibbon } from "../../charts/CycleRibbon";
import { Ledger } from "./Ledger";
import { BenchDrawing } from "../../drawing/BenchDrawing";
import { usePlacing, type Placing } from "../../drawing/placing";
import { PlacingTools } from "./PlacingTools";
import { Needed, type Overlay, shareOf } from "../../drawing/PlateDrawing";
import { stationFigure } from "../../drawing/stationFigure";
import { Said } from "../../ui/Said";

const LayoutView3d = lazy(() => import("../../drawing/LayoutView3d"));

/** The bench: the faces with every station, the headline above, the limits beside, the cycle below. */
export function LayoutStep() {
  const { job, parts, here, mayEdit } = useEditor();
  const stored = useStored();
  const plan = usePlan(job.id);
  const find = useFigures();
  const { withUnit } = useUnits();
  const [overlay, setOverlay] = useState<Overlay>("none");
  const result = here.result;
  const first = here.shown.held[0];
  const [picked, setPicked] = useState(0);
  const [view, setView] = useState<"bench" | "3-D" | "compare">("bench");
  const dark = useSession().data?.person?.theme === "dark";
  const designs = result?.designs ?? [];
  const design = designs[picked] ?? designs[0] ?? null;
  const current = job.latest?.run.current ?? false;
  const busy = active(job.latest) || plan.isPending;
  const placing = usePlacing(design);
  const station =
    placing.selected.size === 1 ? (placing.stations.find((item) => placing.selected.has(item.number)) ?? null) : null;
  const { part, judged } = usePlanned();
  const tightest = [...judged].sort((a, b) => a.feature.tolerance_mm - b.feature.tolerance_mm)[0];
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      if (event.key.toLowerCase() === "v" && !typing && !event.ctrlKey && !event.metaKey && !event.altKey)
        setView((before) => (before === "3-D" ? "bench" : "3-D"));
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
  const needed = useMemo(
    () => [result?.hold, ...(result?.others ?? []).map((item) => item.hold)].map((item) => item?.needed ?? 2),
    [result],
  );
  const toggle = (wanted: Overlay) => setOverlay(overlay === wanted ? "none" : wanted);
  return (
    <div className="bench">
      <section className="work" aria-label="Layout">
        {design ? (
          <Headline design={design} stale={!current} />
        ) : result ? (
          <Nothing stale={!current} />
        ) : (
          <h2>Layout</h2>
        )}
        <div className="tools">
          {mayEdit && (
            <>
              <div style={{ width: 128 }}>
                <Field label="Screw torque" {...stored(`${first?.at ?? ""}.clamp.torque_nm`, "N·m")} />
              </div>
              {tightest && (
                <div style={{ width: 128 }}>
                  <Field
                    label="Position zone"
                    {...stored(`job.parts.${String(part)}.features.${String(tightest.index)}.tolerance_mm`, "mm")}
                  />
                </div>
              )}
              <div style={{ width: 118 }}>
                <Field label="Clearance" {...stored(`${first?.at ?? ""}.clearance_mm`, "mm")} />
              </div>
              {placing.own ? (
                <>
                  <Button
                    variant="contained"
                    style={{ height: 38 }}
                    disabled={busy}
                    onClick={() => {
                      placing.aroundLocked();
                      plan.mutate();
                    }}
                    data-testid="plan-around"
                  >
                    {placing.locked > 0 ? `Plan around ${String(placing.locked)} locked` : "Plan anew"}
                  </Button>
                  <Button style={{ height: 38 }} onClick={placing.asPlanned} disabled={busy}>
                    Forget my placing
                  </Button>
                </>
              ) : (
                <Button
                  variant="contained"
                  size="medium"
                  style={{ height: 38 }}
                  disabled={busy}
                  onClick={() => plan.mutate()}
                  title="Ctrl+Enter"
                  data-testid="plan"
                >
                  {busy ? "Planning" : "Plan"}
                </Button>
              )}
            </>
          )}
          <div className="overlays" role="group" aria-label="Show on the stations">
            {OVERLAYS.map((item) => (
              <button
                key={item.key}
                type="button"
                className="tool"
                disabled={!design || view !== "bench"}
                onClick={() => toggle(item.key)}
                aria-pressed={view === "bench" && overlay === item.key}
                title={item.title}
              >
                {item.label}
              </button>
            ))}
          </div>
          <Button
            variant={view === "3-D" ? "contained" : "outlined"}
            style={{ height: 38 }}
            disabled={!design}
            onClick={() => setView(view === "3-D" ? "bench" : "3-D")}
            aria-pressed={view === "3-D"}
            title="Key V"
          >
            3-D
          </Button>
        </div>
        {designs.length > 1 && (
          <div className="tools alternatives" role="group" aria-label="Designs">
            {designs.map((item, index) => (
              <button
                key={item.name}
                type="button"
                className="tool"
                aria-pressed={item === design}
                onClick={() => setPicked(index)}
              >
                <b className="mono">{item.count}</b> {item.name}
                {item.more_room_mm ? `, ${withUnit(item.more_room_mm, "mm", 1)} more between stations` : ""}
              </button>
            ))}
            <button
              type="button"
              className="tool"
              aria-pressed={view === "compare"}
              onClick={() => setView(view === "compare" ? "bench" : "compare")}
            >
              Compare
            </button>
            {picked > 0 && mayEdit && design && (
              <button
                type="button"
                className="tool"
                onClick={() => {
                  placing.take();
                  setPicked(0);
                }}
              >
                Take this one
              </button>
            )}
          </div>
        )}
        {design && mayEdit && view === "bench" && <PlacingTools placing={placing} />}
        <NotCurrent />
        <HeldNowhere />
        {result && !result.feasible && current && !busy && (
          <div data-testid="reasons" style={{ display: "flex", flexDirection: "column", gap: 8 }}>
            {design && <Wrong design={design} pick={placing.select} />}
            {result.reasons
              .filter((reason) => !design || reason.field === here.of("arrangement"))
              .map((reason) => (
                <Notice
                  key={reason.field + reason.what}
                  title={
                    reason.field.startsWith(here.of("arrangement")) ? capital(reason.what) : `No design: ${reason.what}`
                  }
                  kind="over"
                  action={
                    reason.field.startsWith(here.of("arrangement")) ? undefined : (
                      <Link to={wayTo(reason.field, job)}>Go to it</Link>
                    )
                  }
                >
                  {reason.why && (
                    <p>
                      Why: <Said text={reason.why} />.
                    </p>
                  )}
                  <p>
                    Nearest that works: <Said text={reason.nearest} />.
                  </p>
                </Notice>
              ))}
          </div>
        )}
        <div className={!current && design ? "stale drawing" : "drawing"} style={{ display: "flex" }}>
          {!here.on ? null : view === "compare" && designs.length > 1 ? (
            <Compare on={here.on} designs={designs} />
          ) : view === "3-D" && design ? (
            <Suspense fallback={<p className="quiet">Fetching the 3-D view</p>}>
              <LayoutView3d
                on={here.on}
                design={design}
                selected={placing.selected}
                select={(number) => placing.select(number)}
                dark={dark}
              />
            </Suspense>
          ) : (
            <Needed.Provider value={needed}>
              <BenchDrawing
                jobId={job.id}
                version={job.version}
                setup={here.number}
                on={here.on}
                design={design}
                overlay={overlay}
                placing={placing}
                mayEdit={mayEdit}
              />
            </Needed.Provider>
          )}
        </div>
        {view === "bench" && <OverlayLine overlay={overlay} design={design} needed={needed} />}
        {view !== "compare" && (
          <StationLine
            placing={placing}
            station={station}
            zone={zoneOf(parts, design, station)}
            mayEdit={mayEdit}
            there={design !== null}
            faces={design?.faces ?? []}
          />
        )}
        {design && view !== "compare" && <CycleRibbon design={design} />}
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
                <Said text={text} />
              </p>
            ))}
          </>
        )}
      </aside>
    </div>
  );
}

/** Ops that no setup holds: without them nothing comes off complete. */
function HeldNowhere() {
  const { job } = useEditor();
  const reasons = job.latest?.run.current ? (job.latest.result?.reasons ?? []) : [];
  if (reasons.length === 0) return null;
  return (
    <p className="held-nowhere" data-testid="held-nowhere">
      {reasons.map((reason) => (
        <span key={reason.field}>
          <Said text={capital(reason.what)} />. <Link to={wayTo(reason.field, job)}>Hold it</Link>{" "}
        </span>
      ))}
    </p>
  );
}

/** What can be laid over the stations; the last shades the plate instead. */
const OVERLAYS: { key: Overlay; label: string; title: string }[] = [
  {
    key: "tolerance",
    label: "Tolerance used",
    title: "Share of its tightest feature's tolerance, and where on the plate it would be missed",
  },
  { key: "clamping", label: "Clamping", title: "Factor needed over the factor there is, as each station is turned" },
  { key: "reach", label: "Reach", title: "Share of the machine's travel that the station's cuts use" },
  { key: "sweep", label: "Cutter sweep", title: "Where cutter and holder go" },
];

function Headline({ design, stale }: { design: Design; stale: boolean }) {
  const every = useFigures();
  const find = (id: string) => design.figures.find((item) => item.id === id) ?? every(id);
  const more = design.count - design.by_hand;
  return (
    <div className={`headline ${stale ? "stale" : ""}`} data-testid="headline">
      <div>
        <div className="big mono" data-testid="count">
          <Ask figure={find("count")}>{design.count}</Ask>
        </div>
        <div
          className="label"
          title={design.kinds.map((kind) => `${String(kind.stations)} stations: ${kind.name}`).join("\n")}
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
        <div className="label">
          min a cycle, <Ask figure={find("cycles")}>{design.cycles}</Ask> cycles
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
      <div className="verdict">
        <div style={{ color: design.proven ? "var(--within)" : "var(--close-text)" }} data-testid="statement">
          <Ask figure={find("bound")}>{design.proven ? "Proven largest" : `At most ${String(design.bound)}`}</Ask>
        </div>
        {design.by_hand > 0 && (
          <div className="quiet" style={{ fontSize: 12.5, fontWeight: 400 }}>
            boxes spaced by hand: <Ask figure={find("by_hand")}>{design.by_hand}</Ask>
            {more > 0 ? ` (${String(more)} fewer)` : ""}
          </div>
        )}
      </div>
    </div>
  );
}

/** Stations that stand wrong, to go to. The count above leaves them out. */
function Wrong({ design, pick }: { design: Design; pick: (number: number) => void }) {
  const { says } = useUnits();
  const wrong = design.stations.filter((station) => (station.faults ?? []).length > 0);
  if (wrong.length === 0) return null;
  return (
    <div role="alert" className="wrong-line">
      <b>{wrong.length === 1 ? "One station stands wrong" : `${String(wrong.length)} stations stand wrong`}</b> and{" "}
      {wrong.length === 1 ? "is" : "are"} not counted:
      {wrong.slice(0, 14).map((station) => (
        <button
          key={station.number}
          type="button"
          className="tool"
          onClick={() => pick(station.number)}
          title={says(station.faults?.join("; ") ?? "")}
        >
          {station.number}
        </button>
      ))}
      {wrong.length > 14 && <span>and {wrong.length - 14} more</span>}
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

/** What is picked: its place, which can be typed, its turn, what its tightest feature uses, and what is wrong with it. */
function StationLine({
  placing,
  station,
  zone,
  mayEdit,
  there,
  faces,
}: {
  placing: Placing;
  station: PlacedStation | null;
  zone: number;
  mayEdit: boolean;
  there: boolean;
  faces: string[];
}) {
  const { withUnit, figure, shownUnit, says } = useUnits();
  const asked = stationFigure(station, useFigures()("tolerance"));
  const line = { minHeight: 30, display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" } as const;
  if (!station)
    return (
      <p className="quiet" style={line} data-testid="station-line">
        {placing.said ??
          (placing.selected.size > 1
            ? `${String(placing.selected.size)} stations picked.`
            : there
              ? "Pick a station for its figures, or drag it. Shift picks more, arrow keys walk, ? lists all keys."
              : "")}
      </p>
    );
  const cell = (axis: "x" | "y", value: number) => (
    <Cell
      label={`${axis.toUpperCase()} of station ${String(station.number)}`}
      name={`station.${axis}`}
      value={Number(value.toFixed(4))}
      unit="mm"
      width={84}
      disabled={!mayEdit || (station.locked ?? false)}
      store={(typed) => placing.put(station.number, axis, typed)}
    />
  );
  return (
    <div style={line} data-testid="station-line">
      <span>
        Station <b>{station.number}</b>
        {faces.length > 1 && ` on ${faces[station.face ?? 0] ?? ""}`} at
      </span>
      X {cell("x", station.x_mm)} Y {cell("y", station.y_mm)} {shownUnit("mm")}, turned{" "}
      <span className="mono">{station.turn}°</span>
      {station.feature && (
        <span>
          , uses{" "}
          <Ask figure={asked} className="mono">
            {figure(asked?.value ?? station.probable_mm, "mm", 3)}
          </Ask>{" "}
          of <span className="mono">{withUnit(zone, "mm", 3)}</span>
        </span>
      )}
      {station.faults?.[0] && (
        <b style={{ color: "var(--over)" }} title={says(station.faults.join("; "))}>
          <Said text={capital(station.faults[0])} />
          {station.faults.length > 1 ? `, and ${String(station.faults.length - 1)} more` : ""}.
        </b>
      )}
      {station.nearest_mm && mayEdit && (
        <Button
          size="small"
          variant="outlined"
          onClick={() => placing.move(station.number, station.nearest_mm?.[0] ?? 0, station.nearest_mm?.[1] ?? 0)}
        >
          To the nearest clear place
        </Button>
      )}
      {placing.said && <span className="quiet">{placing.said}</span>}
    </div>
  );
}

/** What the shades of an overlay mean, and the station that uses most. */
function OverlayLine({ overlay, design, needed }: { overlay: Overlay; design: Design | null; needed: number[] }) {
  const words = OVERLAYS.find((item) => item.key === overlay);
  const shares = (design?.stations ?? []).map((station) => ({
    number: station.number,
    share: shareOf(overlay, station, needed[station.kind ?? 0] ?? 2),
  }));
  const most = shares.reduce((high, item) => ((item.share ?? -1) > (high.share ?? -1) ? item : high), {
    number: 0,
    share: null as number | null,
  });
  if (!words || most.share === null) return null;
  return (
    <p className="quiet" style={{ fontSize: 13 }} data-testid="overlay-line">
      {words.title}. Most: <span className="mono">{Math.round(100 * most.share)} %</span>, station {most.number}. Green:
      room left, amber: over 90 %, red: over the limit.
    </p>
  );
}

const capital = (text: string): string => text.slice(0, 1).toUpperCase() + text.slice(1);

/** The tolerance of the feature a station was judged by. */
function zoneOf(parts: Part[], design: Design | null, station: PlacedStation | null): number {
  const part = design?.kinds[station?.kind ?? 0]?.planned.part ?? 0;
  return parts[part]?.features?.find((feature) => feature.name === station?.feature)?.tolerance_mm ?? 0;
}
