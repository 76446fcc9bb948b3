/** A place to drop one file, or to choose it. */
import { Button, LinearProgress } from "@mui/material";
import { useRef, useState, type ReactNode } from "react";

export function DropFile({
  name,
  label,
  hint,
  busy,
  disabled = busy,
  quiet = false,
  accept = ".dxf,.svg,.step,.stp,.stl,.3mf,.glb",
  choose,
}: {
  name: string;
  label: ReactNode;
  hint: string;
  busy: boolean;
  disabled?: boolean;
  quiet?: boolean;
  accept?: string;
  choose: (file: File | undefined) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  return (
    <div
      className={`drop ${over ? "over" : ""} ${hint ? "" : "slim"}`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        choose(event.dataTransfer.files[0]);
      }}
    >
      <input
        ref={input}
        name={name}
        type="file"
        accept={accept}
        hidden
        onChange={(event) => {
          choose(event.target.files?.[0]);
          event.target.value = "";
        }}
      />
      <Button variant={quiet ? "outlined" : "contained"} disabled={disabled} onClick={() => input.current?.click()}>
        {label}
      </Button>
      {hint && <p className="quiet above-6 small">{hint}</p>}
      {busy && <LinearProgress className="above-8" aria-label="Reading" />}
    </div>
  );
}
