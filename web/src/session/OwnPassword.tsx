import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";

import { useOwnPassword } from "../api/queries";
import { Notice, ProblemNotice } from "../ui/Notice";

/** One's own password: the present one first, the new one twice. Signed in elsewhere, one is not any more. */
export function OwnPassword({ close }: { close: () => void }) {
  const [given, setGiven] = useState({ present: "", fresh: "", again: "" });
  const change = useOwnPassword();
  const differs = given.again !== "" && given.again !== given.fresh;
  const field = (name: keyof typeof given, label: string, complete: string, wrong?: string) => (
    <TextField
      name={name}
      label={label}
      type="password"
      autoComplete={complete}
      required
      autoFocus={name === "present"}
      value={given[name]}
      onChange={(event) => setGiven({ ...given, [name]: event.target.value })}
      error={Boolean(wrong)}
      helperText={wrong ?? (name === "fresh" ? "at least 10 characters" : "")}
    />
  );
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (given.again === given.fresh) change.mutate({ present: given.present, fresh: given.fresh });
        }}
      >
        <DialogTitle>Your password</DialogTitle>
        {change.isSuccess ? (
          <DialogContent>
            <Notice title="Changed; you are signed out everywhere else" kind="info"></Notice>
          </DialogContent>
        ) : (
          <DialogContent>
            <div className="stack">
              {field("present", "Present password", "current-password")}
              {field("fresh", "New password", "new-password")}
              {field("again", "New password again", "new-password", differs ? "this is not the same" : undefined)}
              {change.error && <ProblemNotice error={change.error} />}
            </div>
          </DialogContent>
        )}
        <DialogActions>
          <Button onClick={close}>{change.isSuccess ? "Close" : "Cancel"}</Button>
          {!change.isSuccess && (
            <Button type="submit" variant="contained" disabled={change.isPending || differs}>
              Change it
            </Button>
          )}
        </DialogActions>
      </form>
    </Dialog>
  );
}
