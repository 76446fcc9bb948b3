/** One value of a document. It is stored when it is left or Enter is pressed; a value that is not possible stays
 * on screen with the reason. */
import { InputAdornment, MenuItem, TextField } from "@mui/material";
import { type ReactNode, useId } from "react";

import { Problem } from "../api/client";
import { useProposed } from "./proposed";
import { useUnits } from "./units";
import { useTyped } from "./useTyped";

export interface Stored {
  value: string | number;
  /** Unit of the document, empty for plain numbers and text. */
  unit?: string;
  text?: boolean;
  disabled?: boolean;
  error?: string | undefined;
  store: (value: string | number) => void;
}

interface Props extends Stored {
  label: string;
  help?: string;
  name: string;
}

export function Field({ label, value, unit = "", text = false, disabled = false, error, store, help, name }: Props) {
  const { shownUnit, says } = useUnits();
  const id = useId();
  const { typed, begin, change, finish, giveUp } = useTyped({ value, unit, text, error, store });
  const proposed = useProposed(name);
  return (
    <>
      <OnPaper label={label}>
        {typed} {unit && shownUnit(unit)}
      </OnPaper>
      <TextField
        className="on-screen"
        id={id}
        name={name}
        label={label}
        value={typed}
        disabled={disabled}
        error={Boolean(error)}
        helperText={says(error ?? help ?? (proposed ? `Proposed: ${proposed}` : ""))}
        title={proposed && says(`Proposed: ${proposed}`)}
        fullWidth
        onFocus={begin}
        onChange={(event) => change(event.target.value)}
        onBlur={finish}
        onKeyDown={(event) => {
          if (event.key === "Enter") finish();
          if (event.key === "Escape") giveUp();
        }}
        slotProps={{
          input: {
            ...(unit ? { endAdornment: <InputAdornment position="end">{shownUnit(unit)}</InputAdornment> } : {}),
            sx: text ? {} : { fontFamily: "IBM Plex Mono", fontSize: 14 },
          },
          htmlInput: { spellCheck: false, autoComplete: "off" },
          formHelperText: { className: error || help ? "" : "proposed-why" },
        }}
      />
    </>
  );
}

/** A field as it is printed: what it is, and what stands in it. */
function OnPaper({ label, children }: { label: string; children: ReactNode }) {
  return (
    <p className="print-only">
      {label}: <span className="mono">{children}</span>
    </p>
  );
}

interface ChoiceProps {
  label: string;
  name: string;
  value: string;
  options: { value: string; label: string }[];
  disabled?: boolean;
  store: (value: string) => void;
}

export function Choice({ label, name, value, options, disabled = false, store }: ChoiceProps) {
  const id = useId();
  const { says } = useUnits();
  const proposed = useProposed(name);
  return (
    <>
      <OnPaper label={label}>{options.find((option) => option.value === value)?.label ?? value}</OnPaper>
      <TextField
        select
        className="on-screen"
        id={id}
        name={name}
        label={label}
        value={value}
        disabled={disabled}
        helperText={proposed && says(`Proposed: ${proposed}`)}
        title={proposed && says(`Proposed: ${proposed}`)}
        slotProps={{ formHelperText: { className: "proposed-why" } }}
        fullWidth
        onChange={(event) => store(event.target.value)}
      >
        {options.map((option) => (
          <MenuItem key={option.value} value={option.value} dense>
            {option.label}
          </MenuItem>
        ))}
      </TextField>
    </>
  );
}

/** A field of a form that is sent as a whole; what the service says is wrong with it stands under it. */
export function Plain({
  label,
  name,
  value,
  set,
  error,
  first = false,
}: {
  label: string;
  name: string;
  value: string;
  set: (value: string) => void;
  error: Error | null;
  first?: boolean;
}) {
  const wrong = error instanceof Problem ? error.errors.find((item) => item.field === name)?.message : undefined;
  return (
    <TextField
      name={name}
      label={label}
      value={value}
      onChange={(event) => set(event.target.value)}
      required
      autoFocus={first}
      error={Boolean(wrong)}
      helperText={wrong}
    />
  );
}
