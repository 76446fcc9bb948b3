/** Step 6: where every feature may end up, station by station, and why. */
import { Button } from "@mui/material";
import { useState } from "react";

import { useVerdicts } from "../../api/queries";
import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Ask } from "../../ui/Ask";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { useView, Views } from "../../ui/Views";
import { AddsUp } from "./AddsUp";
import { Datums } from "./Datums";
import { FirstArticle } from "./FirstArticle";
import { Freedoms } from "./Freedoms";
import { LocateFields } from "./LocateFields";
import { MeasuredPlaces } from "./MeasuredPlaces";
import { VerdictGrid } from "./VerdictGrid";
import { FaceMap } from "./FaceMap";
import { Stack } from "../../charts/Stack";
import { Said } from "../../ui/Said";
import type { Chosen } from "./chosen";

const VIEWS = [
  { value: "verdicts", label: "Verdicts" },
  { value: "adds-up", label: "What adds up" },
  { value: "freedoms", label: "Six freedoms" },
  { value: "datum", label: "Datum" },
  { value: "first-article", label: "First article" },
  { value: "measured", label: "As measured" },
] as const;

/** The feature and station that use most: what is looked at first. */
function most(found: Verdicts): Chosen | null {
  let best: { share: number; chosen: Chosen } | null = null;
  for (const column of found.columns) {
    for (const verdict of column.verdicts) {
      if (verdict.station < found.placed && (!best || verdict.share > best.share))
        best = { share: verdict.share, chosen: { station: verdict.station + 1, feature: column.feature } };
    }
  }
  return best?.chosen ?? null;
}

export function LocateStep() {
  const { job, rules, here } = useEditor();
  const { figure, shownUnit } = useUnits();
  const [view, show] = useView(VIEWS);
  const [picked, setPicked] = useState<Chosen | null>(null);
  const table = useVerdicts(job, here.number, null, null);
  const known = table.data ?? null;
  const there =
    known &&
    picked &&
    known.columns.some(
      (column) =>
        column.feature === picked.feature && column.verdicts.some((verdict) => verdict.station === picked.station - 1),
    );
  const chosen = there ? picked : known ? most(known) : null;
  const { data: asked } = useVerdicts(job, here.number, chosen?.station ?? null, chosen?.feature ?? null);
  const detail =
    asked?.detail && asked.detail.feature === chosen?.feature && asked.detail.station === (chosen?.station ?? 0) - 1
      ? asked.detail
      : null;
  const stale = job.latest?.run.current === false ? "stale" : "";
  const verdict = known?.columns
    .find(
      (column) =>
        column.feature === chosen?.feature &&
        column.verdicts.some((item) => item.station === (chosen?.station ?? 0) - 1),
    )
    ?.verdicts.find((item) => item.station === (chosen?.station ?? 0) - 1);
  const find = (id: string) => detail?.figures.find((item) => item.id === id);
  const placed = known?.placed ?? 0;
  const outside = chosen !== null && !known?.pretend && chosen.station > placed;
  const why = (asked: Chosen) => {
    setPicked(asked);
    show("adds-up");
  };
  const tolerance = known?.columns.find((column) => column.feature === chosen?.feature)?.tolerance_mm ?? 0;
  const rule = (rules.tolerance_rule ?? "probable") === "worst case" ? "worst_mm" : "probable_mm";
  // One digit more where it would else look just as large as its tolerance.
  const digits = verdict && figure(verdict[rule], "mm", 3) === figure(tolerance, "mm", 3) ? 4 : 3;
  return (
    <div className="bench">
      <section className="work">
        <NotCurrent />
        {table.error && <ProblemNotice error={table.error} />}
        {known?.pretend && (
          <Notice title="No layout yet: judged as if a station stood at the datum">
            <p>
              <Said text={here.result?.reasons[0]?.what} />. What would bring it in is under What adds up.
            </p>
          </Notice>
        )}
        {!known && table.isFetching && <p className="quiet">Adding up</p>}
        {known && known.columns.length === 0 && (
          <Notice title="Nothing to judge yet" kind="info">
            <p>No feature of the planned ops has a tolerance. Features are entered in step 1.</p>
          </Notice>
        )}
        {known && (
          <div className={`${stale} flex down gap-10 grow may-shrink`}>
            <div className="headline one-row">
              {verdict && chosen && (
                <>
                  <div className="least-wide-210">
                    <div
                      className={`big mono one-line ${verdict.state === "over" ? "stands-not" : ""}`}
                      data-testid="uses"
                    >
                      <Ask figure={find(rule === "worst_mm" ? "locate_worst" : "locate_probable")}>
                        {figure(verdict[rule], "mm", digits)}
                      </Ask>
                    </div>
                    <div className="label">
                      of {figure(tolerance, "mm", digits)} {shownUnit("mm")}: {chosen.feature},{" "}
                      {known.pretend
                        ? "at the datum"
                        : outside
                          ? `left out, ${String(chosen.station)}`
                          : `station ${String(chosen.station)}`}
                    </div>
                  </div>
                  <div>
                    <div className={`mid mono ${verdict.worst_state}`}>
                      <Ask figure={find("locate_worst")}>{figure(verdict.worst_mm, "mm", 3)}</Ask>
                    </div>
                    <div className="label">worst case{verdict.worst_state === "over" ? ", over" : ""}</div>
                  </div>
                  <div>
                    <div className="mid mono one-line">
                      <Ask figure={find("locate_out")}>
                        {verdict.out_share === 0
                          ? "0"
                          : (100 * verdict.out_share).toFixed(verdict.out_share < 0.001 ? 3 : 2)}{" "}
                        %
                      </Ask>
                    </div>
                    <div className="label">out of tolerance</div>
                  </div>
                  <div>
                    <div className="mid mono one-line">
                      <Ask figure={find("locate_cpk")}>
                        {verdict.cpk_at_least ? "> " : ""}
                        {verdict.cpk.toFixed(2)}
                      </Ask>
                    </div>
                    <div className="label">Cpk</div>
                  </div>
                </>
              )}
              {!known.pretend && known.parts > 0 && (
                <div className="verdict one-line">
                  <div className="mid mono">
                    <Ask figure={known.figures?.[0]}>{known.good_parts.toFixed(2)}</Ask>
                  </div>
                  <div className="label plain-weight">good of {known.parts} a cycle, expected</div>
                </div>
              )}
            </div>
            <div className="flex middle gap-12">
              <div className="grow may-narrow">
                <Views label="Locate" views={VIEWS} shown={view} show={show} />
              </div>
              <Button size="small" onClick={() => window.print()}>
                Print
              </Button>
            </div>
            {view === "verdicts" && (
              <>
                <VerdictGrid found={known} chosen={chosen} pick={setPicked} placed={placed} />
                <div className="beside grid gap-14 grow halves least-240">
                  <FaceMap found={known} chosen={chosen} pick={setPicked} />
                  <div className="scroll" tabIndex={0}>
                    {detail && <Stack detail={detail} />}
                  </div>
                </div>
              </>
            )}
            {view === "adds-up" && (detail ? <AddsUp detail={detail} /> : <p className="quiet">Adding up</p>)}
            {view === "freedoms" && <Freedoms found={known} />}
            {view === "datum" && <Datums found={known} why={why} />}
            {view === "first-article" && <FirstArticle found={known} />}
            {view === "measured" && <MeasuredPlaces found={known} />}
          </div>
        )}
      </section>
      <LocateFields scheme={known?.schemes ?? []} />
    </div>
  );
}
