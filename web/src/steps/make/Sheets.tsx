/** The drawing of a piece: its views alone, or sheet by sheet as it is printed. */
import { Button } from "@mui/material";
import { lazy, Suspense, useState } from "react";

import { useSession } from "../../api/queries";
import type { Piece } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { useUnits } from "../../ui/units";
import { Tool, Toolbar } from "../../ui/Toolbar";

/** Views alone, or a sheet counted from 1; below none, the solid. */
const VIEWS = 0;
const SOLID = -1;
const WorkpieceView = lazy(() => import("../../drawing/WorkpieceView"));

export function Sheets({ piece, place, count }: { piece: Piece; place: number; count: number }) {
  const { job, here } = useEditor();
  const { system } = useUnits();
  const [sheet, show] = useState(VIEWS);
  const [size, look] = useState<string>(piece.touching ? "nominal" : "");
  const asked = (format: string, more: Record<string, string> = {}) =>
    `/api/jobs/${job.id}/make/drawing?${new URLSearchParams({
      setup: String(here.number),
      piece: String(place + 1),
      sheet: String(Math.max(sheet, 1)),
      format,
      units: system === "inch" ? "inch" : "mm",
      ...more,
    }).toString()}`;
  const dark = useSession().data?.person?.theme === "dark";
  const solid = (format: string) =>
    `/api/jobs/${job.id}/make/solid?${new URLSearchParams({
      setup: String(here.number),
      piece: String(place + 1),
      format,
      run: job.latest?.run.id ?? "",
    }).toString()}`;
  const shown = asked("svg", { run: job.latest?.run.id ?? "", views_alone: String(sheet === VIEWS), touching: size });
  return (
    <>
      <div className="tools middle">
        <Toolbar label="Drawing or sheet" className="joined">
          <Tool label="Solid" pressed={sheet === SOLID} does={() => show(SOLID)} />
          <Tool label="Drawing" pressed={sheet === VIEWS} does={() => show(VIEWS)} />
          {Array.from({ length: count }, (_, k) => (
            <Tool
              key={k}
              label={count > 1 ? `Sheet ${String(k + 1)}` : "Sheet"}
              pressed={sheet === k + 1}
              does={() => show(k + 1)}
            />
          ))}
        </Toolbar>
        {piece.touching && sheet === VIEWS && (
          <Toolbar label="Part that is in the jaws" className="joined">
            {(piece.touching.rests ?? []).map((item) => (
              <Tool key={item.size} label={item.size} pressed={item.size === size} does={() => look(item.size)} />
            ))}
          </Toolbar>
        )}
        <span className="make-files">
          <Button size="small" component="a" href={shown} target="_blank" rel="noreferrer">
            Larger
          </Button>
          <Button size="small" component="a" href={asked("pdf")} download>
            PDF
          </Button>
          <Button size="small" component="a" href={asked("dxf")} download>
            DXF
          </Button>
          <Button
            size="small"
            component="a"
            href={solid("step")}
            download
            title="Written by the CAD kernel: takes some seconds"
          >
            STEP
          </Button>
          <Button size="small" component="a" href={solid("3mf")} download title="For a printed trial">
            3MF
          </Button>
        </span>
      </div>
      {sheet === SOLID ? (
        <div className="drawing grow least-240" data-testid="solid">
          <Suspense fallback={<p className="quiet">Fetching the solid</p>}>
            <WorkpieceView address={solid("glb")} dark={dark} />
          </Suspense>
        </div>
      ) : (
        <div className="paper" tabIndex={0}>
          <img src={shown} alt={`Drawing of ${piece.name}`} data-testid="drawing" />
        </div>
      )}
    </>
  );
}
