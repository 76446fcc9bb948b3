/** Everything proposed anew round what a person set. */
import { Button } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { call } from "../../api/client";
import { keepJob } from "../../api/queries";
import type { JobState } from "../../api/types";
import { ProblemNotice } from "../../ui/Notice";

export function DraftAgain({ id }: { id: string }) {
  const cache = useQueryClient();
  const draft = useMutation({
    mutationFn: () => call<JobState>("POST", `/api/jobs/${id}/draft`),
    onSuccess: (found) => keepJob(cache, found),
  });
  return (
    <>
      <Button variant="outlined" disabled={draft.isPending} onClick={() => draft.mutate()}>
        Draft stock, ops and cuts
      </Button>
      <p className="quiet small">
        Proposed anew round what you set: blanks, tolerances, rules, the machine, ops and forms that you changed.
      </p>
      {draft.error && <ProblemNotice error={draft.error} />}
    </>
  );
}
