import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { call } from "../api/client";
import { keepShop } from "../api/queries";
import type { ImportPreview, KindInfo } from "../api/types";
import { Notice, ProblemNotice } from "../ui/Notice";
import { counted } from "../ui/words";

/** A table brought in: first what it would change, then the change, all of it or nothing. */
export function ImportEntries({ kind, close }: { kind: KindInfo; close: () => void }) {
  const cache = useQueryClient();
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  const send = useMutation({
    mutationFn: ({ chosen, store }: { chosen: File; store: boolean }) => {
      const form = new FormData();
      form.set("file", chosen);
      form.set("kind", kind.kind);
      if (store) form.set("store", "yes");
      return call<ImportPreview>("POST", "/api/shop/import", form);
    },
    onSuccess: (answer) => {
      if (answer.stored) keepShop(cache);
    },
  });
  const found = send.data;
  const names = (list: string[]) =>
    list.length > 12 ? `${list.slice(0, 12).join(", ")} and ${String(list.length - 12)} more` : list.join(", ");
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle>Import {kind.plural.toLowerCase()}</DialogTitle>
      <DialogContent className="flex down gap-12">
        <p>
          A CSV of {kind.plural.toLowerCase()} with the columns of the export (any order, not all needed), or a JSON
          export of the whole shop. Entries are known by their names: known ones are changed in the columns the file
          has, others are added. You see what would change first.
        </p>
        <input
          ref={input}
          type="file"
          name="table"
          accept=".csv,.txt,.json"
          hidden
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            event.target.value = "";
            if (!chosen) return;
            setFile(chosen);
            send.mutate({ chosen, store: false });
          }}
        />
        <div>
          <Button variant="outlined" onClick={() => input.current?.click()} disabled={send.isPending}>
            Choose a file
          </Button>
        </div>
        {send.error && <ProblemNotice error={send.error} />}
        {found && found.faults.length > 0 && (
          <Notice
            title={`Nothing can be stored: ${counted(found.faults.length, "thing")} ${found.faults.length === 1 ? "is" : "are"} wrong`}
          >
            {found.faults.slice(0, 12).map((fault, index) => (
              <p key={index}>
                Row {fault.row}, {fault.column || "titles"}: {fault.message}
              </p>
            ))}
          </Notice>
        )}
        {found && found.faults.length === 0 && (
          <Notice title={found.stored ? "Stored" : "This would change"} kind="info">
            <p>
              <span className="mono">{found.added.length}</span> added
              {found.added.length > 0 && `: ${names(found.added)}`}
            </p>
            <p>
              <span className="mono">{found.changed.length}</span> changed
              {found.changed.length > 0 && `: ${names(found.changed)}`}
            </p>
            <p>
              <span className="mono">{found.unchanged}</span> as they are
            </p>
          </Notice>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>{found?.stored ? "Close" : "Cancel"}</Button>
        {found && !found.stored && (
          <Button
            variant="contained"
            disabled={
              !file || found.faults.length > 0 || found.added.length + found.changed.length === 0 || send.isPending
            }
            onClick={() => file && send.mutate({ chosen: file, store: true })}
          >
            Store all of it
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
