/** One value in a table. Like a Field, but as tight as a table wants it; arrow keys and Enter go from row to row. */
import { useState } from "react";

import { useProposed } from "./proposed";
import { useUnits } from "./units";
import { useTyped } from "./useTyped";

interface Props {
  label: string;
  name: string;
  value: string | number | null;
  unit?: string;
  text?: boolean;
  disabled?: boolean;
  error?: string | undefined;
  width?: number | string;
  /** What stands there while nobody types, where the whole would be cut off. */
  short?: string | undefined;
  store: (value: string | number | null) => void;
}

function beside(input: HTMLInputElement, rows: number): HTMLInputElement | null {
  const row = input.closest("tr");
  const column = [...(row?.querySelectorAll("td") ?? [])].findIndex((cell) => cell.contains(input));
  const all = [...(row?.parentElement?.querySelectorAll("tr") ?? [])];
  const other = row ? all[all.indexOf(row) + rows] : undefined;
  return other?.querySelectorAll("td")[column]?.querySelector("input") ?? null;
}

export function Cell({
  label,
  name,
  value,
  unit = "",
  text = false,
  disabled = false,
  error,
  width = 66,
  short,
  store,
}: Props) {
  const [here, setHere] = useState(false);
  const { typed, begin, change, finish, giveUp } = useTyped({
    value,
    unit,
    text,
    error,
    store,
    cleared: () => store(null),
  });
  const proposed = useProposed(name);
  // A number is never cut off: what is longer than its column makes room for itself.
  const wide = text || typeof width !== "number" ? width : `max(${String(width)}px, ${String(typed.length + 1.8)}ch)`;
  return (
    <>
      <span className={text ? "print-only-here" : "print-only-here mono"}>{typed}</span>
      <input
        className={`cell ${text ? "" : "mono"} ${error ? "wrong" : ""} ${proposed ? "proposed" : ""}`}
        style={{ width: wide }}
        aria-label={label}
        title={error ?? (proposed ? `Proposed: ${proposed}` : short && typed)}
        aria-invalid={Boolean(error)}
        name={name}
        value={here || error ? typed : (short ?? typed)}
        disabled={disabled}
        spellCheck={false}
        autoComplete="off"
        onFocus={(event) => {
          begin();
          setHere(true);
          const input = event.target;
          if (short === undefined) input.select();
          else window.setTimeout(() => input.select()); // once the whole of it stands there
        }}
        onChange={(event) => change(event.target.value)}
        onBlur={() => {
          setHere(false);
          finish();
        }}
        onKeyDown={(event) => {
          const rows = { Enter: 1, ArrowDown: 1, ArrowUp: -1 }[event.key];
          if (rows !== undefined) {
            event.preventDefault();
            const other = beside(event.currentTarget, rows);
            if (other) other.focus();
            else finish();
          }
          if (event.key === "Escape") giveUp();
        }}
      />
    </>
  );
}

export function Pick({
  label,
  name,
  value,
  options,
  disabled = false,
  width = 110,
  store,
}: {
  label: string;
  name: string;
  value: string;
  options: { value: string; label: string }[];
  disabled?: boolean;
  width?: number | string;
  store: (value: string) => void;
}) {
  return (
    <>
      <span className="print-only-here">{options.find((option) => option.value === value)?.label ?? value}</span>
      <select
        className="cell"
        style={{ width }}
        aria-label={label}
        name={name}
        value={value}
        disabled={disabled}
        onChange={(event) => store(event.target.value)}
      >
        {options.some((option) => option.value === value) ? null : <option value={value}>{value}</option>}
        {options.map((option) => (
          <option key={option.value} value={option.value}>
            {option.label}
          </option>
        ))}
      </select>
    </>
  );
}

/** Places as they are written: X, Y; X, Y. */
export function usePlaces() {
  const { plain, shownUnit } = useUnits();
  return {
    shown: (at: readonly (readonly number[])[]): string =>
      at.map(([x, y]) => `${plain(x ?? 0, "mm")}, ${plain(y ?? 0, "mm")}`).join("; "),
    typed: (text: string): string =>
      /[a-zA-Z"]/.test(text) || text.trim() === "" ? text : `${text} ${shownUnit("mm")}`,
  };
}
