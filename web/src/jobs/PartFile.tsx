/** The file a part comes from, read as soon as it is chosen. */
import { Button } from "@mui/material";
import { useEffect, useState } from "react";

import { Problem } from "../api/client";
import { useDrawing, useSolid, useSolidUpload } from "../api/queries";
import type { Outline } from "../api/types";
import { DropFile } from "../ui/DropFile";
import { Notice, ProblemNotice } from "../ui/Notice";

/** What a file holds: a solid that the service keeps, or an outline. */
export interface Held {
  name: string;
  upload?: string | undefined;
  outline?: Outline | undefined;
}

const SOLIDS = /\.(step|stp|stl|3mf|glb)$/i;
const bare = (name: string) => name.replace(/\.[^.]*$/, "").replaceAll("_", " ") || name;

export function PartFile({ name, held, hold }: { name: string; held: Held | null; hold: (held: Held | null) => void }) {
  const { file, choose, drawn, busy, error } = usePartFile(hold);
  const said = busy ? `Reading ${file?.name ?? ""}` : held && file ? file.name : "Choose the part’s file";
  return (
    <div className="flex down gap-10">
      <DropFile
        name={name}
        label={said}
        hint="or drop it here: STEP, STL, 3MF, GLB, DXF or SVG, up to 25 MB"
        busy={busy}
        quiet={held !== null}
        choose={choose}
      />
      {error instanceof Problem && error.type === "units-missing" ? (
        <Notice title="Which units?" kind="info">
          <p>{error.message}</p>
          <div className="flex gap-8 above-8">
            <Button variant="contained" onClick={() => drawn("mm")}>
              It is mm
            </Button>
            <Button variant="contained" onClick={() => drawn("inch")}>
              It is inch
            </Button>
          </div>
        </Notice>
      ) : (
        error && <ProblemNotice error={error} />
      )}
    </div>
  );
}

function usePartFile(hold: (held: Held | null) => void) {
  const [file, setFile] = useState<File | null>(null);
  const drawing = useDrawing();
  const sent = useSolidUpload();
  const solid = useSolid(sent.data?.id ?? null);
  const state = solid.data;
  const read = (next: File, units?: string) =>
    drawing.mutate(
      { file: next, units },
      { onSuccess: (found) => hold({ name: bare(next.name), outline: found.outlines[0]?.outline }) },
    );
  const choose = (next: File | undefined) => {
    if (!next) return;
    hold(null);
    drawing.reset();
    sent.reset();
    setFile(next);
    if (SOLIDS.test(next.name)) sent.mutate({ file: next });
    else read(next);
  };
  const done = state?.status === "done" ? state.id : null;
  useEffect(() => {
    if (done && file) hold({ name: bare(file.name), upload: done });
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once for each solid that was read
  }, [done]);
  const refused =
    state?.status === "failed" ? new Problem(422, "File not used", state.error ?? "It was not read.") : null;
  return {
    file,
    choose,
    drawn: (units: string) => file && read(file, units),
    busy: drawing.isPending || sent.isPending || ["queued", "running"].includes(state?.status ?? ""),
    error: drawing.error ?? sent.error ?? solid.error ?? refused,
  };
}
