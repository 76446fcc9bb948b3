/** The program, line by line; the line that was asked for is in view. */
import { Button, TextField } from "@mui/material";
import { useEffect, useMemo, useRef } from "react";

import type { ProgramMade } from "../../api/types";

/** So many lines are on screen round the one that was asked for: a program can have a hundred thousand. */
const AROUND = 300;

interface Shown {
  text: string;
  /** Of somebody's own file; nothing for ours. */
  name: string | null;
  /** Where ours is fetched as a file. */
  file: string;
  /** Counts from 1. */
  line: number | null;
  /** From which numbered lines a tool can begin again, each at a part. */
  restarts: ProgramMade["restarts"];
  show: (line: number) => void;
}

export function ProgramText({ text, name, file, line, restarts, show }: Shown) {
  const lines = useMemo(() => text.trimEnd().split("\n"), [text]);
  const first = Math.max(0, (line ?? 1) - AROUND / 2);
  const shown = lines.slice(first, first + AROUND);
  const marked = useRef<HTMLSpanElement>(null);
  useEffect(() => {
    marked.current?.scrollIntoView({ block: "center" });
  }, [line]);
  return (
    <>
      <h2>Program</h2>
      <p className="tools">
        {name === null ? (
          <Button variant="contained" component="a" href={file} download data-testid="program-file">
            Program
          </Button>
        ) : (
          <strong>{name}</strong>
        )}
        <span className="quiet">
          <span className="mono">{lines.length}</span> lines
        </span>
      </p>
      {restarts.length > 0 && (
        <TextField
          select
          size="small"
          label="Begin again at"
          value=""
          onChange={(event) => {
            const found = lines.findIndex((said) => said.startsWith(`N${event.target.value} `));
            if (found >= 0) show(found + 1);
          }}
          slotProps={{ select: { native: true } }}
          className="above-8"
        >
          <option value="" />
          {restarts.map((item) => (
            <option key={item.line} value={item.line}>
              {item.tool ? `T${String(item.tool)}, ` : ""}station {item.station}, part {item.part}: N{item.line}
            </option>
          ))}
        </TextField>
      )}
      <pre className="nc mono" aria-label="The program's lines" tabIndex={0}>
        {first > 0 && (
          <span className="quiet">
            … {first} lines before{"\n"}
          </span>
        )}
        {shown.map((said, place) => {
          const asked_for = first + place + 1 === line;
          return (
            <span
              key={first + place}
              ref={asked_for ? marked : null}
              className={asked_for ? "nc-line asked" : "nc-line"}
            >
              {said}
              {"\n"}
            </span>
          );
        })}
        {first + AROUND < lines.length && <span className="quiet">… {lines.length - first - AROUND} more lines</span>}
      </pre>
    </>
  );
}
