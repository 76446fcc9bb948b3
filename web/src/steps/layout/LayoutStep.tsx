/** Step 4, the bench: the faces with every station, the headline above, the limits beside, the cycle below. */
import { useEffect, useState } from "react";

import { active, useSession } from "../../api/queries";
import type { Design, Part, PlacedStation } from "../../api/types";
import { CycleRibbon } from "../../charts/CycleRibbon";
import { unrolled } from "../../drawing/drawing";
import { BenchDrawing } from "../../drawing/BenchDrawing";
import { InSpace } from "../../drawing/InSpace";
import { Judged, type Overlay } from "../../drawing/Station";
import { type Placing, usePlacing } from "../../drawing/placing";
import { useJudged } from "../../drawing/useJudged";
import { useEditor, useFigures } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Brief } from "../../ui/More";
import { BenchTools, type View } from "./BenchTools";
import { Compare } from "./Compare";
import { Designs } from "./Designs";
import { Drivers } from "./Drivers";
import { Headline, Nothing, Statement } from "./Headline";
import { Ledger } from "./Ledger";
import { OverlayLine } from "./Overlays";
import { Paper } from "./Paper";
import { HeldNowhere, Reasons } from "./Reasons";
import { StationPanel } from "./StationPanel";
import { toolKeys } from "./toolKeys";

export function LayoutStep() {
  const { job, here, mayEdit } = useEditor();
  const [overlay, setOverlay] = useState<Overlay>("none");
  const [picked, setPicked] = useState(0);
  const result = here.result;
  const designs = result?.designs ?? [];
  const design = designs[picked] ?? designs[0] ?? null;
  const { current = false, so_far = false } = job.latest?.run ?? {};
  const stands = current || so_far; // the first layout is there to be looked at while more is looked for
  const busy = active(job.latest);
  const placing = usePlacing(design);
  const judged = useJudged(result);
  const [view, swap] = useBenchView();
  const cover = (key: Overlay) => setOverlay(overlay === key ? "none" : key);
  const keys = toolKeys({ placing, mayMove: mayEdit && design !== null && view === "bench", cover, swap });
  const take = () => {
    placing.take();
    setPicked(0);
  };
  return (
    <div className="bench">
      <section className="work" aria-label="Layout" onKeyDown={keys}>
        <div className="headline-row">
          {design ? (
            <Headline design={design} stale={!stands} />
          ) : (
            <Nothing planned={result !== null} stale={!stands} />
          )}
          <div className="verdict-side">
            {design && <Statement design={design} />}
            {designs.length > 1 && (
              <Designs
                designs={designs}
                shown={design}
                pick={setPicked}
                comparing={view === "compare"}
                compare={() => swap("compare")}
                take={picked > 0 && mayEdit && design ? take : null}
              />
            )}
          </div>
        </div>
        <BenchTools
          design={design}
          placing={placing}
          busy={busy}
          overlay={overlay}
          cover={cover}
          view={view}
          swap={swap}
        />
        <div className={!stands && design ? "stale drawing filled" : "drawing filled"}>
          <Judged.Provider value={judged}>
            <Drawn view={view} designs={designs} design={design} overlay={overlay} placing={placing} />
          </Judged.Provider>
          {view !== "compare" && <Picked placing={placing} design={design} />}
        </div>
        {view === "bench" && <OverlayLine overlay={overlay} design={design} judged={judged} />}
        {design && view !== "compare" && <CycleRibbon design={design} />}
        {design && <Paper design={design} />}
      </section>
      <div className="beside-bench">
        <State design={design} placing={placing} />
        <Limits design={design} cautions={result?.cautions ?? []} current={stands} />
      </div>
    </div>
  );
}

/** What stands between the person and a design: not planned, planning, out of date, stations that stand wrong. */
function State({ design, placing }: { design: Design | null; placing: Placing }) {
  const { job, here } = useEditor();
  const wrong = here.result && !here.result.feasible && (job.latest?.run.current ?? false) && !active(job.latest);
  return (
    <div className="bench-state">
      <NotCurrent />
      <HeldNowhere />
      {here.result && wrong && <Reasons result={here.result} design={design} pick={placing.select} />}
    </div>
  );
}

/** The one station that is picked, at the side of the drawing where it does not stand itself. */
function Picked({ placing, design }: { placing: Placing; design: Design | null }) {
  const { parts, here, mayEdit } = useEditor();
  const chosen = placing.stations.filter((item) => placing.selected.has(item.number));
  const station = chosen.length === 1 ? (chosen[0] ?? null) : null;
  const { faces, pitch, width } = here.on ? unrolled(here.on) : { faces: 1, pitch: 0, width: 0 };
  const right = station !== null && (station.face ?? 0) * pitch + station.x_mm > width / 2;
  const op = station?.kind ?? 0;
  const held = op === 0 ? here.result?.hold : here.result?.others[op - 1]?.hold;
  return (
    <StationPanel
      placing={placing}
      station={station}
      zone={zoneOf(parts, design, station)}
      needed={held?.needed ?? 0}
      mayEdit={mayEdit}
      faces={faces > 1 ? (design?.faces ?? []) : []}
      aside={right ? "left" : "right"}
    />
  );
}

/** The bench, 3-D or designs side by side; V goes to 3-D and back. */
function useBenchView() {
  const [view, setView] = useState<View>("bench");
  const swap = (wanted: View) => setView((before) => (before === wanted ? "bench" : wanted));
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      if (event.key.toLowerCase() === "v" && !typing && !event.ctrlKey && !event.metaKey && !event.altKey)
        setView((before) => (before === "3-D" ? "bench" : "3-D"));
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
  return [view, swap] as const;
}

interface DrawnProps {
  view: View;
  designs: Design[];
  design: Design | null;
  overlay: Overlay;
  placing: Placing;
}

function Drawn({ view, designs, design, overlay, placing }: DrawnProps) {
  const { job, here, mayEdit } = useEditor();
  const dark = useSession().data?.person?.theme === "dark";
  if (!here.on) return null;
  if (view === "compare" && designs.length > 1) return <Compare on={here.on} designs={designs} />;
  if (view === "3-D" && design)
    return (
      <InSpace
        jobId={job.id}
        version={job.version}
        on={here.on}
        design={design}
        held={here.shown.held}
        placing={placing}
        dark={dark}
      />
    );
  return (
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
  );
}

function Limits({ design, cautions, current }: { design: Design | null; cautions: string[]; current: boolean }) {
  const find = useFigures();
  return (
    <aside className="side" tabIndex={0} aria-label="Limits">
      <h2>Limits</h2>
      {design ? (
        <div className={current ? "" : "stale"}>
          <Ledger limits={design.limits} find={find} />
        </div>
      ) : (
        <>
          <p className="quiet under-10">They stand here once there is a design. What moves them most:</p>
          <Drivers />
        </>
      )}
      {cautions.length > 0 && (
        <>
          <hr />
          <h2>Caution</h2>
          {cautions.map((text) => (
            <Brief key={text} className="caution" text={text} />
          ))}
        </>
      )}
    </aside>
  );
}

/** The tolerance of the feature a station was judged by. */
function zoneOf(parts: Part[], design: Design | null, station: PlacedStation | null): number {
  const part = design?.kinds[station?.kind ?? 0]?.planned.part ?? 0;
  return parts[part]?.features?.find((feature) => feature.name === station?.feature)?.tolerance_mm ?? 0;
}
