/** Step 4, the bench: the faces with every station, the headline above, the limits beside, the cycle below. */
import { Button } from "@mui/material";
import { useEffect, useMemo, useState } from "react";

import { active, useCatalogue, useSession } from "../../api/queries";
import type { Design, Part, PlacedStation, PlanResult } from "../../api/types";
import { CycleRibbon } from "../../charts/CycleRibbon";
import { BenchDrawing } from "../../drawing/BenchDrawing";
import { InSpace } from "../../drawing/InSpace";
import { Judged, type Overlay } from "../../drawing/PlateDrawing";
import { type Placing, usePlacing } from "../../drawing/placing";
import { useEditor, useFigures } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Said } from "../../ui/Said";
import { Compare } from "./Compare";
import { Designs } from "./Designs";
import { Headline, Nothing } from "./Headline";
import { Ledger } from "./Ledger";
import { OverlayLine, OVERLAYS } from "./Overlays";
import { PlacingTools } from "./PlacingTools";
import { PlanTools } from "./PlanTools";
import { HeldNowhere, Reasons } from "./Reasons";
import { StationLine } from "./StationLine";

type View = "bench" | "3-D" | "compare";

export function LayoutStep() {
  const { job, parts, here, mayEdit } = useEditor();
  const [overlay, setOverlay] = useState<Overlay>("none");
  const [picked, setPicked] = useState(0);
  const [view, setView] = useView3d();
  const result = here.result;
  const designs = result?.designs ?? [];
  const design = designs[picked] ?? designs[0] ?? null;
  const current = job.latest?.run.current ?? false;
  const busy = active(job.latest);
  const placing = usePlacing(design);
  const judged = useJudged(result);
  const chosen = placing.stations.filter((item) => placing.selected.has(item.number));
  const station = chosen.length === 1 ? (chosen[0] ?? null) : null;
  const swap = (wanted: View) => setView(view === wanted ? "bench" : wanted);
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
          {mayEdit && <PlanTools placing={placing} busy={busy} />}
          <div className="overlays" role="group" aria-label="Show on the stations">
            {OVERLAYS.map((item) => (
              <button
                key={item.key}
                type="button"
                className="tool"
                disabled={!design || view !== "bench"}
                onClick={() => setOverlay(overlay === item.key ? "none" : item.key)}
                aria-pressed={view === "bench" && overlay === item.key}
                title={item.title}
              >
                {item.label}
              </button>
            ))}
          </div>
          <Button
            variant={view === "3-D" ? "contained" : "outlined"}
            className="tall"
            disabled={!design}
            onClick={() => swap("3-D")}
            aria-pressed={view === "3-D"}
            title="Key V"
          >
            3-D
          </Button>
        </div>
        {designs.length > 1 && (
          <Designs
            designs={designs}
            shown={design}
            pick={setPicked}
            comparing={view === "compare"}
            compare={() => swap("compare")}
            take={
              picked > 0 && mayEdit && design
                ? () => {
                    placing.take();
                    setPicked(0);
                  }
                : null
            }
          />
        )}
        {design && mayEdit && view === "bench" && <PlacingTools placing={placing} />}
        <NotCurrent />
        <HeldNowhere />
        {result && !result.feasible && current && !busy && (
          <Reasons result={result} design={design} pick={placing.select} />
        )}
        <div className={!current && design ? "stale drawing filled" : "drawing filled"}>
          <Judged.Provider value={judged}>
            <Drawn view={view} designs={designs} design={design} overlay={overlay} placing={placing} />
          </Judged.Provider>
        </div>
        {view === "bench" && <OverlayLine overlay={overlay} design={design} judged={judged} />}
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
      <Limits design={design} cautions={result?.cautions ?? []} current={current} />
    </div>
  );
}

/** The bench, 3-D or designs side by side; V goes to 3-D and back. */
function useView3d() {
  const [view, setView] = useState<View>("bench");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const typing = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
      if (event.key.toLowerCase() === "v" && !typing && !event.ctrlKey && !event.metaKey && !event.altKey)
        setView((before) => (before === "3-D" ? "bench" : "3-D"));
    };
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, []);
  return [view, setView] as const;
}

/** What stations are shaded by, as the service has it. */
function useJudged(result: PlanResult | null) {
  const close = useCatalogue().data?.close_share ?? 1;
  return useMemo(() => {
    const holds = [result?.hold, ...(result?.others ?? []).map((item) => item.hold)];
    return { needed: holds.map((item) => item?.needed ?? 2), close };
  }, [result, close]);
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
    <aside className="side" aria-label="Limits">
      <h2>Limits</h2>
      {design ? (
        <div className={current ? "" : "stale"}>
          <Ledger limits={design.limits} find={find} />
        </div>
      ) : (
        <p className="quiet">They stand here once there is a design.</p>
      )}
      {cautions.length > 0 && (
        <>
          <hr />
          <h2>Caution</h2>
          {cautions.map((text) => (
            <p key={text} className="caution">
              <Said text={text} />
            </p>
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
