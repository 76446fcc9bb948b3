/** A new job: a file, what it is made of, how many. Everything else is proposed, and can be argued with. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, Problem } from "../api/client";
import { keepJob } from "../api/queries";
import type { JobState } from "../api/types";
import { Plain } from "../ui/Field";
import { ProblemNotice } from "../ui/Notice";
import { Blank } from "./Blank";
import { DraftPiece, NO_PIECE, useAsked, type Piece } from "./DraftPiece";

export function NewJob({ close }: { close: () => void }) {
  const [byHand, setByHand] = useState(false);
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      {byHand ? <Blank close={close} /> : <FromFile close={close} byHand={() => setByHand(true)} />}
    </Dialog>
  );
}

function FromFile({ close, byHand }: { close: () => void; byHand: () => void }) {
  const [pieces, setPieces] = useState<Piece[]>([NO_PIECE]);
  const [quantity, setQuantity] = useState("100");
  const draft = useDraft();
  const asked = useAsked();
  const kit = pieces.length > 1;
  const ready = pieces.every((piece) => piece.held !== null);
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const [first, ...more] = pieces.map(asked);
        if (!first || !ready) return;
        draft.mutate({ ...first, more, quantity: Number.isFinite(Number(quantity)) ? Number(quantity) : quantity });
      }}
    >
      <DialogTitle>New job</DialogTitle>
      <DialogContent className="flex down gap-14 pad-above-8">
        {pieces.map((piece, index) => (
          <DraftPiece
            key={index}
            piece={piece}
            index={index}
            kit={kit}
            error={draft.error}
            change={(next) => setPieces((now) => now.map((one, k) => (k === index ? next(one) : one)))}
            remove={() => setPieces((now) => now.filter((_one, k) => k !== index))}
          />
        ))}
        {ready && (
          <Button size="small" onClick={() => setPieces((now) => [...now, NO_PIECE])}>
            Another part of a kit
          </Button>
        )}
        <Plain
          label={kit ? "Kits" : "Quantity"}
          name="quantity"
          value={quantity}
          set={setQuantity}
          error={draft.error}
        />
        {draft.error && <ProblemNotice error={draft.error} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={byHand}>Without a file</Button>
        <span className="push" />
        <Button onClick={close}>Cancel</Button>
        <Button type="submit" variant="contained" disabled={!ready || draft.isPending}>
          Draft it
        </Button>
      </DialogActions>
    </form>
  );
}

function useDraft() {
  const cache = useQueryClient();
  const navigate = useNavigate();
  return useMutation<JobState, Problem | Error, Record<string, unknown>>({
    mutationFn: (given) => call<JobState>("POST", "/api/jobs/drafts", given, given),
    onSuccess: (job) => {
      keepJob(cache, job);
      void navigate(`/jobs/${job.id}/layout`);
    },
  });
}
