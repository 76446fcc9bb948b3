/** The rarer tools of the bench, each with its key, and the layout's files. */
import { Divider, ListSubheader, Menu, MenuItem } from "@mui/material";
import { useRef, useState, type ReactNode } from "react";

import { useCatalogue, useStationTable } from "../../api/queries";
import { useEditor, useSending } from "../../editing/editor";
import { Cell } from "../../ui/Cell";
import { ProblemNotice } from "../../ui/Notice";
import { Tool } from "../../ui/Toolbar";
import { useUnits } from "../../ui/units";
import type { Placing } from "../../drawing/placing";

export function More({ placing, placeable }: { placing: Placing; placeable: boolean }) {
  const { job, here } = useEditor();
  const { saving } = useSending();
  const { system } = useUnits();
  const [open, setOpen] = useState(false);
  const button = useRef<HTMLSpanElement>(null);
  const input = useRef<HTMLInputElement>(null);
  const table = useStationTable(job.id);
  const units = system === "inch" ? "inch" : "mm";
  const close = () => setOpen(false);
  return (
    <span ref={button}>
      <Tool label="More" shortcut="E" does={() => setOpen(true)} />
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
      <Menu open={open} anchorEl={() => button.current as Element} onClose={close}>
        {placeable && placedItems(placing, saving, here.on?.block.faces ?? 1, close)}
        <Files close={close} address={`/api/jobs/${job.id}/layout/file?setup=${String(here.number)}&units=${units}`} />
        <Item
          does={() => {
            close();
            input.current?.click();
          }}
        >
          Station positions from CSV
        </Item>
        <Item
          shortcut="Ctrl+P"
          does={() => {
            close();
            window.setTimeout(() => window.print(), 100);
          }}
        >
          Print
        </Item>
        {placeable && <StepOfNudging placing={placing} />}
      </Menu>
      {table.error && <ProblemNotice error={table.error} />}
    </span>
  );
}

function Item(props: { shortcut?: string; off?: boolean; does: () => void; children: ReactNode; href?: string }) {
  const { shortcut, off = false, does, children, href } = props;
  const link = href ? { component: "a", href, download: true } : {};
  return (
    <MenuItem dense disabled={off} onClick={does} {...link}>
      <span className="grow">{children}</span>
      {shortcut && <kbd>{shortcut}</kbd>}
    </MenuItem>
  );
}

/** An array, as a menu wants its items to be its own children. */
function placedItems(placing: Placing, saving: boolean, faces: number, close: () => void) {
  const none = placing.selected.size === 0;
  const one = placing.selected.size === 1 && !saving;
  const acts: [string, string, () => void, boolean][] = [
    ["Flip", "F", () => placing.turn(180), none],
    ["Beside", "D", () => placing.repeat("+X", 1), !one],
    ["Column, upwards", "C", () => placing.repeat("+Y"), !one],
    ...(faces > 1 ? [["Next face", "N", () => placing.toFace(1), none] as [string, string, () => void, boolean]] : []),
    ["Forget my placing", "", placing.asPlanned, !placing.own],
  ];
  return [
    ...acts.map(([label, shortcut, does, off]) => (
      <Item
        key={label}
        shortcut={shortcut}
        off={off}
        does={() => {
          close();
          does();
        }}
      >
        {label}
      </Item>
    )),
    <Divider key="rule" />,
  ];
}

function Files({ close, address }: { close: () => void; address: string }) {
  const { job, here } = useEditor();
  const there = (job.latest?.run.current ?? false) && (here.result?.designs.length ?? 0) > 0;
  return useCatalogue().data?.layout_files.map(({ format, label }) => (
    <Item key={format} href={`${address}&format=${format}`} off={!there} does={close}>
      {label}
    </Item>
  ));
}

function StepOfNudging({ placing }: { placing: Placing }) {
  const { shownUnit, system } = useUnits();
  return (
    <ListSubheader component="label" className="flex gap-4 middle small" onKeyDown={(event) => event.stopPropagation()}>
      Step of nudging
      <Cell
        label="Step of nudging and dragging"
        name="step"
        value={placing.step}
        unit="mm"
        width={52}
        store={(typed) => placing.setStep(lengthOf(typed, system) ?? placing.step)}
      />
      {shownUnit("mm")}
    </ListSubheader>
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
