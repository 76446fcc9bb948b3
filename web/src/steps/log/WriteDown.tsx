/** An entry typed by hand: what kind, and what it takes. */
import { Button, MenuItem, TextField } from "@mui/material";
import { useState } from "react";

import { writeDown, type Fresh } from "../../api/outbox";
import { useEditor } from "../../editing/editor";

interface Asked {
  name: string;
  label: string;
  text?: boolean;
}

const KINDS: Record<string, { label: string; asks: Asked[] }> = {
  cycle: {
    label: "A cycle ended",
    asks: [
      { name: "seconds", label: "Seconds" },
      { name: "good", label: "Good parts" },
      { name: "scrapped", label: "Stations scrapped, as 3 7", text: true },
    ],
  },
  load: {
    label: "A fixture was loaded",
    asks: [
      { name: "seconds", label: "Seconds" },
      { name: "parts", label: "Parts" },
    ],
  },
  measure: {
    label: "A part was measured",
    asks: [
      { name: "station", label: "Station" },
      { name: "feature", label: "Feature", text: true },
      { name: "axis", label: "X, Y or nothing", text: true },
      { name: "off_mm", label: "Off by, as 0.02 mm", text: true },
    ],
  },
  edge: {
    label: "A new edge",
    asks: [
      { name: "tool", label: "Tool", text: true },
      { name: "minutes", label: "Minutes it has cut" },
    ],
  },
  stop: {
    label: "The machine stood",
    asks: [
      { name: "seconds", label: "Seconds" },
      { name: "reason", label: "Why", text: true },
    ],
  },
  note: { label: "A note", asks: [{ name: "note", label: "What happened", text: true }] },
};

export function WriteDown() {
  const { job, here } = useEditor();
  const [kind, setKind] = useState("cycle");
  const [typed, setTyped] = useState<Record<string, string>>({});
  const asks = KINDS[kind]?.asks ?? [];
  const store = () => {
    const given: Record<string, unknown> = { kind, setup: here.number, by: "typed" };
    for (const { name, text } of asks) {
      const value = (typed[name] ?? "").trim();
      if (name === "scrapped")
        given[name] = value
          .split(/[\s,]+/)
          .filter(Boolean)
          .map(Number);
      else given[name] = text ? value : Number(value.replace(",", "."));
    }
    writeDown(job.id, given as unknown as Fresh);
    setTyped({});
  };
  const whole = asks.every(({ name }) => ["scrapped", "axis"].includes(name) || (typed[name] ?? "").trim() !== "");
  return (
    <form
      className="run-fields"
      onSubmit={(event) => {
        event.preventDefault();
        if (whole) store();
      }}
    >
      <TextField select label="What" value={kind} onChange={(event) => setKind(event.target.value)} name="log.kind">
        {Object.entries(KINDS).map(([name, { label }]) => (
          <MenuItem key={name} value={name}>
            {label}
          </MenuItem>
        ))}
      </TextField>
      {asks.map(({ name, label }) => (
        <TextField
          key={name}
          name={`log.${name}`}
          label={label}
          value={typed[name] ?? ""}
          onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
          slotProps={{ htmlInput: { autoComplete: "off" } }}
        />
      ))}
      <Button type="submit" variant="contained" disabled={!whole}>
        Write it down
      </Button>
    </form>
  );
}
