import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";

import { usePasteCuts } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

/** Cuts from a spreadsheet: pasted as text, read by the service, all of them or none. */
export function PasteCuts({ part, op, close }: { part: number; op: number; close: () => void }) {
  const { job } = useEditor();
  const { system, shownUnit } = useUnits();
  const paste = usePasteCuts(job.id);
  const [text, setText] = useState("");
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle>Paste cuts from a spreadsheet</DialogTitle>
      <DialogContent style={{ display: "flex", flexDirection: "column", gap: 12 }}>
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
          placeholder={
            "name\tkind\tdiameter\tteeth\tdepth\twidth\tfeed per tooth\trpm\tat\nT2 outside\tcontour\t10\t3\t8\t1.5\t0.05\t9000\t\nT5 holes\tdrill\t5\t2\t14\t\t0.06\t7000\t13, 16; 39, 16"
          }
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
