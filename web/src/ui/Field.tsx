/** One value of a document. It is stored when it is left or Enter is pressed; a value that is not possible stays on screen with the reason. */
import { InputAdornment, MenuItem, TextField } from "@mui/material";
import { useEffect, useId, useRef, useState } from "react";

import { isBare, useUnits } from "./units";

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
  const { plain, shownUnit, system } = useUnits();
  const id = useId();
  const shown = typeof value === "number" ? plain(value, unit) : value;
  const [typed, setTyped] = useState(shown);
  const editing = useRef(false);

  // What comes from the service shows, except over something being typed or refused.
  useEffect(() => {
    if (!editing.current && !error) setTyped(shown);
  }, [shown, error, system]);

  const finish = () => {
    editing.current = false;
    const trimmed = typed.trim();
    if (trimmed === shown) {
      setTyped(shown);
      return;
    }
    if (text) store(trimmed);
    else if (unit) store(isBare(trimmed) && trimmed !== "" ? `${trimmed} ${shownUnit(unit)}` : trimmed);
    else store(trimmed !== "" && Number.isFinite(Number(trimmed)) ? Number(trimmed) : trimmed);
  };

  return (
    <TextField
      id={id}
      name={name}
      label={label}
      value={typed}
      disabled={disabled}
      error={Boolean(error)}
      helperText={error ?? help}
      fullWidth
      onFocus={() => (editing.current = true)}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={finish}
      onKeyDown={(event) => {
        if (event.key === "Enter") finish();
        if (event.key === "Escape") {
          setTyped(shown);
          editing.current = false;
        }
      }}
      slotProps={{
        input: {
          ...(unit ? { endAdornment: <InputAdornment position="end">{shownUnit(unit)}</InputAdornment> } : {}),
          sx: text ? {} : { fontFamily: "IBM Plex Mono", fontSize: 14 },
        },
        htmlInput: { spellCheck: false, autoComplete: "off" },
      }}
    />
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
  return (
    <TextField select id={id} name={name} label={label} value={value} disabled={disabled} fullWidth onChange={(event) => store(event.target.value)}>
      {options.map((option) => (
        <MenuItem key={option.value} value={option.value} dense>
          {option.label}
        </MenuItem>
      ))}
    </TextField>
  );
}
