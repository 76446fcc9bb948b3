import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";

import { usePasteCuts } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

const EXAMPLE = [
  ["name", "kind", "diameter", "teeth", "depth", "width", "feed per tooth", "rpm", "at"],
  ["T2 outside", "contour", "10", "3", "8", "1.5", "0.05", "9000", ""],
  ["T5 holes", "drill", "5", "2", "14", "", "0.06", "7000", "13, 16; 39, 16"],
]
  .map((row) => row.join("\t"))
  .join("\n");

/** Cuts from a spreadsheet: pasted as text, read by the service, all of them or none. */
export function PasteCuts({ part, op, close }: { part: number; op: number; close: () => void }) {
  const { job } = useEditor();
  const { system, shownUnit } = useUnits();
  const paste = usePasteCuts(job.id);
  const [text, setText] = useState("");
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle>Paste cuts from a spreadsheet</DialogTitle>
      <DialogContent className="flex down gap-12">
        <p>
          One cut a row. A first row of titles says what the columns are: name, kind, diameter, teeth, depth, width,
          feed per tooth, rpm, at, seconds. Without titles they come in that order. Bare lengths are in{" "}
          {shownUnit("mm")}; a cell left empty takes the value of the row above.
        </p>
        <TextField
          multiline
          minRows={9}
          value={text}
          autoFocus
          name="table"
          placeholder={EXAMPLE}
          onChange={(event) => setText(event.target.value)}
          slotProps={{
            htmlInput: {
              style: { fontFamily: "IBM Plex Mono", fontSize: 13, whiteSpace: "pre" },
              "aria-label": "Table",
            },
          }}
        />
        {paste.error && <ProblemNotice error={paste.error} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!text.trim() || paste.isPending}
          onClick={() => paste.mutate({ part, op, text, inch: system === "inch" }, { onSuccess: close })}
        >
          Add these cuts
        </Button>
      </DialogActions>
    </Dialog>
  );
}
