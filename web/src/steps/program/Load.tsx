/** What is loaded this time: all of it, a first article, some parts missing, or parts that go in again. */
import { MenuItem, TextField } from "@mui/material";
import { useState } from "react";

import type { ProgramLoad } from "../../api/queries";

type Kind = "all" | "first" | "missing" | "tools";

const SAID: Record<Kind, string> = {
  all: "Every part",
  first: "A first article",
  missing: "Some parts missing",
  tools: "Parts in again",
};
const ASKS: Record<Kind, string> = {
  all: "",
  first: "Part, by its number",
  missing: "Parts that are not there, as 3, 7",
  tools: "Only these tools, as 5, 6",
};
const DOES: Record<Kind, string> = {
  all: "",
  first: "30 mm over the work first, then a stop to look, then at size.",
  missing: "",
  tools: "Tried on parts that were cut before.",
};

export function Load({ load, set }: { load: ProgramLoad; set: (load: ProgramLoad) => void }) {
  const [kind, setKind] = useState<Kind>(
    load.first ? "first" : load.missing ? "missing" : load.tools ? "tools" : "all",
  );
  const [text, setText] = useState(String(load.first ?? load.missing ?? load.tools ?? ""));
  const give = (what: Kind, said: string) => {
    const numbers = said.match(/\d+/g) ?? [];
    if (what === "all" || numbers.length === 0) set({});
    else if (what === "first") set({ first: numbers[0] ?? "" });
    else set({ [what]: numbers.join(",") });
  };
  return (
    <section aria-label="This load" className="op-file">
      <div className="pair">
        <TextField
          select
          size="small"
          label="This load"
          value={kind}
          onChange={(event) => {
            const next = event.target.value as Kind;
            const said = next === "first" ? "1" : "";
            setKind(next);
            setText(said);
            give(next, said);
          }}
        >
          {(Object.keys(SAID) as Kind[]).map((item) => (
            <MenuItem key={item} value={item}>
              {SAID[item]}
            </MenuItem>
          ))}
        </TextField>
        {kind !== "all" && (
          <TextField
            size="small"
            label={ASKS[kind]}
            value={text}
            onChange={(event) => setText(event.target.value)}
            onBlur={() => give(kind, text)}
            onKeyDown={(event) => event.key === "Enter" && give(kind, text)}
          />
        )}
      </div>
      {DOES[kind] && <p className="quiet smaller">{DOES[kind]}</p>}
    </section>
  );
}
