/** A job without a file: a block and common values, the shape typed in on the next screen. */
import { Button, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";

import { call } from "../api/client";
import { keepJob } from "../api/queries";
import type { JobState } from "../api/types";
import { Plain } from "../ui/Field";
import { ProblemNotice } from "../ui/Notice";

export function Blank({ close }: { close: () => void }) {
  const [name, setName] = useState("");
  const [quantity, setQuantity] = useState("100");
  const [due, setDue] = useState("");
  const cache = useQueryClient();
  const navigate = useNavigate();
  const make = useMutation({
    mutationFn: (given: { name: string; quantity: string | number; due: string | null }) =>
      call<JobState>("POST", "/api/jobs", given, given),
    onSuccess: (job) => {
      keepJob(cache, job);
      void navigate(`/jobs/${job.id}/part`);
    },
  });
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        const wanted = Number.isFinite(Number(quantity)) ? Number(quantity) : quantity;
        make.mutate({ name, quantity: wanted, due: due || null });
      }}
    >
      <DialogTitle>New job without a file</DialogTitle>
      <DialogContent className="flex down gap-14 pad-above-8">
        <Plain label="Part or job" name="name" value={name} set={setName} error={make.error} first />
        <Plain label="Quantity" name="quantity" value={quantity} set={setQuantity} error={make.error} />
        <TextField
          name="due"
          label="Due"
          type="date"
          value={due}
          onChange={(event) => setDue(event.target.value)}
          slotProps={{ inputLabel: { shrink: true } }}
        />
        <p className="quiet">
          It starts with a 60 x 40 mm block and common values; its shape is typed on the next screen.
        </p>
        {make.error && <ProblemNotice error={make.error} />}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button type="submit" variant="contained" disabled={make.isPending}>
          Make job
        </Button>
      </DialogActions>
    </form>
  );
}
