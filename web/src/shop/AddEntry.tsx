import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, Problem } from "../api/client";
import { keepShop } from "../api/queries";
import type { KindInfo, ShopItem } from "../api/types";
import { Choice } from "../ui/Field";
import { ProblemNotice } from "../ui/Notice";

/** A new entry begins as a copy of one that is there: complete from the start, and then changed. */
export function AddEntry({
  kind,
  entries,
  from,
  close,
  made,
}: {
  kind: KindInfo;
  entries: ShopItem[];
  from: ShopItem | undefined;
  close: () => void;
  made: (id: string) => void;
}) {
  const cache = useQueryClient();
  const [name, setName] = useState("");
  const [start, setStart] = useState(from?.id ?? entries[0]?.id ?? "");
  const model = entries.find((item) => item.id === start);
  const add = useMutation({
    mutationFn: (change: object) => {
      const data: Record<string, unknown> = { ...(model?.data ?? {}) };
      delete data.id;
      return call<ShopItem>(
        "POST",
        "/api/shop/entries",
        { kind: kind.kind, name, data, source: model ? `copied from ${model.name}` : "" },
        change,
      );
    },
    onSuccess: (item) => {
      keepShop(cache);
      made(item.id);
      close();
    },
  });
  const wrong =
    add.error instanceof Problem ? add.error.errors.find((item) => item.field === "name")?.message : undefined;
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          add.mutate({});
        }}
      >
        <DialogTitle>Add to {kind.plural.toLowerCase()}</DialogTitle>
        <DialogContent className="flex down gap-14 pad-above-8">
          <TextField
            name="entry-name"
            label="Name"
            value={name}
            required
            autoFocus
            onChange={(event) => setName(event.target.value)}
            error={Boolean(wrong)}
            helperText={wrong}
          />
          {entries.length > 0 && (
            <Choice
              label="Starts as a copy of"
              name="entry-start"
              value={start}
              options={entries.map((item) => ({ value: item.id, label: item.name }))}
              store={setStart}
            />
          )}
          {add.error && !wrong && <ProblemNotice error={add.error} />}
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={add.isPending || name.trim() === ""}>
            Add it
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
