/** Above a job's views: its name, what is wanted of it, who else is here, whether it is stored; undo, and what is rarely done. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle, Menu, MenuItem } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useNavigate, useParams } from "react-router";

import { call } from "../api/client";
import { useEditor, useSending } from "../editing/editor";
import { useMachineSaid } from "../editing/machine";
import { STEPS } from "../ui/StateMark";
import { Assumed } from "./Assumed";
import { useOthers } from "./Others";

export function Top({ keys }: { keys: () => void }) {
  const { job, here, mayEdit } = useEditor();
  const { step = "layout" } = useParams();
  const machine = useMachineSaid(here.setup.machine);
  const others = useOthers(job, STEPS.find(({ name }) => name === step)?.label ?? "");
  return (
    <header className="bar">
      <h1 title={job.name}>{job.name}</h1>
      <span className="tag">
        <span className="mono">{job.quantity}</span> wanted
      </span>
      {others.length > 0 && (
        <span className="tag edge-mark may-go no-print" data-testid="others" title={others.join(", ")}>
          also here: {others.join(", ")}
        </span>
      )}
      {job.due && <span className="tag">due {day(job.due, { day: "numeric", month: "short" })}</span>}
      <span className="tag may-go" title={machine.said}>
        {machine.said}
      </span>
      <Assumed job={job} />
      <span className="push print-only">
        version {job.version}, printed {day(new Date(), { day: "numeric", month: "short", year: "numeric" })}
      </span>
      <Stored />
      {mayEdit && <BackAndForth />}
      <JobMenu keys={keys} />
    </header>
  );
}

const day = (at: string | Date, how: Intl.DateTimeFormatOptions) => new Date(at).toLocaleDateString("en-GB", how);

function BackAndForth() {
  const { undo, redo } = useSending();
  return (
    <>
      <Button variant="outlined" disabled={!undo} onClick={() => undo?.()} title="Ctrl+Z">
        Undo
      </Button>
      <Button variant="outlined" disabled={!redo} onClick={() => redo?.()} title="Ctrl+Y">
        Redo
      </Button>
    </>
  );
}

/** Whether all that was done is kept. */
function Stored() {
  const { job } = useEditor();
  const { saving, trouble, stuck } = useSending();
  const stored = `Saved${job.updated_by ? ` by ${job.updated_by}` : ""}`;
  return (
    <span className="push quiet no-print" role="status" data-testid="saved">
      {trouble ? `Not saved yet: ${trouble.message}` : (stuck ?? (saving ? "Saving" : stored))}
    </span>
  );
}

/** Keys, the document as a file, deleting. */
function JobMenu({ keys }: { keys: () => void }) {
  const { job, mayEdit } = useEditor();
  const [open, setOpen] = useState(false);
  const [asking, setAsking] = useState(false);
  const button = useRef<HTMLButtonElement>(null);
  const then = (does: () => void) => () => {
    setOpen(false);
    does();
  };
  return (
    <>
      <Button ref={button} variant="outlined" aria-haspopup="menu" onClick={() => setOpen(true)}>
        Job
      </Button>
      <Menu open={open} anchorEl={() => button.current as Element} onClose={() => setOpen(false)}>
        <MenuItem dense onClick={then(keys)}>
          Keys <kbd>?</kbd>
        </MenuItem>
        <MenuItem
          dense
          component="a"
          href={`/api/jobs/${job.id}/document`}
          download
          onClick={() => setOpen(false)}
          data-testid="export"
        >
          Export
        </MenuItem>
        {mayEdit && (
          <MenuItem dense onClick={then(() => setAsking(true))} data-testid="delete">
            Delete
          </MenuItem>
        )}
      </Menu>
      <Deleting open={asking} close={() => setAsking(false)} />
    </>
  );
}

function Deleting({ open, close }: { open: boolean; close: () => void }) {
  const { job } = useEditor();
  const navigate = useNavigate();
  const cache = useQueryClient();
  const remove = useMutation({
    mutationFn: () => call<undefined>("DELETE", `/api/jobs/${job.id}`),
    onSuccess: () => {
      cache.removeQueries({ queryKey: ["jobs"] });
      void navigate("/jobs", { state: { deleted: { id: job.id, name: job.name } } });
    },
  });
  return (
    <Dialog open={open} onClose={close}>
      <DialogTitle>Delete “{job.name}”?</DialogTitle>
      <DialogContent>
        It rests for 30 days in the list of deleted jobs, designs and all, and can be brought back until then.
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Keep it</Button>
        <Button variant="contained" onClick={() => remove.mutate()} disabled={remove.isPending}>
          Delete
        </Button>
      </DialogActions>
    </Dialog>
  );
}
