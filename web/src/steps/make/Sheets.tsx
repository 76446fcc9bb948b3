/** The drawing of a piece, sheet by sheet, as it is printed. */
import { Button, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useState } from "react";

import type { Piece } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { useUnits } from "../../ui/units";

export function Sheets({ piece, place, count }: { piece: Piece; place: number; count: number }) {
  const { job, here } = useEditor();
  const { system } = useUnits();
  const [sheet, show] = useState(1);
  const asked = (format: string) =>
    `/api/jobs/${job.id}/make/drawing?${new URLSearchParams({
      setup: String(here.number),
      piece: String(place + 1),
      sheet: String(sheet),
      format,
      units: system === "inch" ? "inch" : "mm",
    }).toString()}`;
  // the address changes with the run, so that a drawing of an older layout is never shown from the cache
  const shown = `${asked("svg")}&run=${job.latest?.run.id ?? ""}`;
  return (
    <>
      <div className="tools middle">
        {count > 1 && (
          <ToggleButtonGroup
            exclusive
            size="small"
            value={sheet}
            onChange={(_event, value: number | null) => value && show(value)}
            aria-label="Sheet"
          >
            {Array.from({ length: count }, (_, k) => (
              <ToggleButton key={k} value={k + 1}>
                Sheet {k + 1}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
        )}
        <span className="grow" />
        <Button size="small" component="a" href={shown} target="_blank" rel="noreferrer">
          Larger
        </Button>
        <Button size="small" component="a" href={asked("pdf")} download>
          PDF
        </Button>
        <Button size="small" component="a" href={asked("dxf")} download>
          DXF
        </Button>
      </div>
      <div className="paper">
        <img src={shown} alt={`Drawing of ${piece.name}, sheet ${String(sheet)}`} data-testid="drawing" />
      </div>
    </>
  );
}
