/** What can be done with the stations by hand, and the layout's files. */
import { Button, Menu, MenuItem } from "@mui/material";
import { useRef, useState } from "react";

import { useCatalogue, useStationTable } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { Cell } from "../../ui/Cell";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import type { Placing } from "../../drawing/placing";

export function PlacingTools({ placing }: { placing: Placing }) {
  const { shownUnit, system } = useUnits();
  const faces = useEditor().here.on?.block.faces ?? 1;
  const none = placing.selected.size === 0;
  const one = placing.selected.size === 1;
  const act = (label: string, key: string, does: () => void, off = none) => (
    <button type="button" className="tool" disabled={off} onClick={does} title={key ? `Key ${key}` : undefined}>
      {label}
      {key && <kbd>{key}</kbd>}
    </button>
  );
  return (
    <div className="tools placing" role="toolbar" aria-label="Stations">
      {act("Turn", "T", () => placing.turn(90))}
      {act("Flip", "F", () => placing.turn(180))}
      {act("Lock", "L", placing.lock)}
      {act("Remove", "Del", placing.remove)}
      {faces > 1 && act("Next face", "N", () => placing.toFace(1))}
      <span className="gap" />
      {act("Add", "A", placing.add, placing.saving)}
      {act("Beside", "D", () => placing.repeat("+X", 1), !one || placing.saving)}
      {act("Row →", "", () => placing.repeat("+X"), !one || placing.saving)}
      {act("Column ↑", "", () => placing.repeat("+Y"), !one || placing.saving)}
      <span className="gap" />
      <label className="quiet flex gap-4 middle small">
        Step
        <Cell
          label="Step of nudging and dragging"
          name="step"
          value={placing.step}
          unit="mm"
          width={52}
          store={(typed) => placing.setStep(lengthOf(typed, system) ?? placing.step)}
        />
        {shownUnit("mm")}
      </label>
      <span className="grow" />
      <Files />
    </div>
  );
}

/** The step is a preference of this page, not a value of the job: read here. */
function lengthOf(typed: string | number | null, system: string): number | null {
  const text = String(typed ?? "");
  const value = Number.parseFloat(text.replace(",", "."));
  if (!Number.isFinite(value) || value < 0) return null;
  const inch = /in|"/.test(text) || (system === "inch" && !/mm/.test(text));
  return Math.round(value * (inch ? 25.4 : 1) * 1000) / 1000;
}

function Files() {
  const { job, here } = useEditor();
  const { system } = useUnits();
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const input = useRef<HTMLInputElement>(null);
  const table = useStationTable(job.id);
  const units = system === "inch" ? "inch" : "mm";
  const there = (job.latest?.run.current ?? false) && (here.result?.designs.length ?? 0) > 0;
  const picks = useCatalogue().data;
  const file = (format: string, label: string) => (
    <MenuItem
      key={format}
      component="a"
      href={`/api/jobs/${job.id}/layout/file?setup=${String(here.number)}&format=${format}&units=${units}`}
      download
      disabled={!there}
      onClick={() => setAnchor(null)}
      dense
    >
      {label}
    </MenuItem>
  );
  return (
    <>
      <Button size="small" variant="outlined" onClick={(event) => setAnchor(event.currentTarget)} aria-haspopup="menu">
        Files
      </Button>
      <input
        ref={input}
        type="file"
        name="stations"
        accept=".csv,.txt"
        hidden
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = "";
          void chosen?.text().then((text) => table.mutate({ setup: here.number, text, units }));
        }}
      />
      <Menu open={anchor !== null} anchorEl={anchor} onClose={() => setAnchor(null)}>
        {picks?.layout_files.map(({ format, label }) => file(format, label))}
        <MenuItem
          dense
          onClick={() => {
            setAnchor(null);
            input.current?.click();
          }}
        >
          Station positions from CSV
        </MenuItem>
        <MenuItem
          dense
          onClick={() => {
            setAnchor(null);
            window.setTimeout(() => window.print(), 100);
          }}
        >
          Print
        </MenuItem>
      </Menu>
      {table.error && <ProblemNotice error={table.error} />}
    </>
  );
}
