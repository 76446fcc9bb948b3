/** A new job: a file, what it is made of, how many. Everything else is proposed, and can be argued with. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call, Problem } from "../api/client";
import { keepJob, useCatalogue } from "../api/queries";
import type { JobState } from "../api/types";
import { Choice, Plain } from "../ui/Field";
import { ProblemNotice } from "../ui/Notice";
import { Blank } from "./Blank";
import { PartFile, type Held } from "./PartFile";

export function NewJob({ close }: { close: () => void }) {
  const [byHand, setByHand] = useState(false);
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      {byHand ? <Blank close={close} /> : <FromFile close={close} byHand={() => setByHand(true)} />}
    </Dialog>
  );
}

function FromFile({ close, byHand }: { close: () => void; byHand: () => void }) {
  const catalogue = useCatalogue();
  const [held, setHeld] = useState<Held | null>(null);
  const [material, setMaterial] = useState("");
  const [quantity, setQuantity] = useState("100");
  const [thickness, setThickness] = useState("");
  const draft = useDraft();
  const materials = catalogue.data?.materials ?? [];
  const picked = materials.find((item) => item.id === material) ?? materials[0];
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        if (!held || !picked) return;
        const { name, upload, outline } = held;
        const wanted = Number.isFinite(Number(quantity)) ? Number(quantity) : quantity;
        const thick = outline ? { thickness_mm: thickness } : {};
        draft.mutate({ name, upload, outline, material: picked, quantity: wanted, ...thick });
      }}
    >
      <DialogTitle>New job</DialogTitle>
      <DialogContent className="flex down gap-14 pad-above-8">
        <PartFile held={held} hold={setHeld} />
        {held?.outline && (
          <Plain
            label="Thickness of the part"
            name="thickness_mm"
            value={thickness}
            set={setThickness}
            error={draft.error}
          />
        )}
        <Choice
          label="Material"
          name="material"
          value={picked?.id ?? ""}
          options={materials.map((item) => ({ value: item.id, label: item.name }))}
          store={setMaterial}
        />
        <Plain label="Quantity" name="quantity" value={quantity} set={setQuantity} error={draft.error} />
        {draft.error && <ProblemNotice error={draft.error} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={byHand}>Without a file</Button>
        <span className="push" />
        <Button onClick={close}>Cancel</Button>
        <Button type="submit" variant="contained" disabled={!held || draft.isPending}>
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
