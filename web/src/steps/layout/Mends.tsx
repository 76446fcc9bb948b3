/** What would hold it: each was tried, holds, and is one press. */
import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import { useRouteChange } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { capital } from "../../ui/units";

export function Mends() {
  const { job, here, mayEdit } = useEditor();
  const route = useRouteChange(job.id);
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["mends", job.id, job.version, here.number],
    queryFn: () => call<{ mends: string[] }>("GET", `/api/jobs/${job.id}/mends?setup=${String(here.number)}`),
    enabled: false,
  });
  if (!mayEdit) return null;
  return (
    <div data-testid="mends" className="flex down gap-8">
      {!data && (
        <p>
          <Button variant="outlined" disabled={isFetching} onClick={() => void refetch()}>
            {isFetching ? "Trying vises, plates, more stock, lighter cuts" : "What would hold it?"}
          </Button>
        </p>
      )}
      {data?.mends.length === 0 && (
        <p className="quiet">
          Nothing of the shop holds it: no vise or plate, not with more stock under it, with lighter cuts, or with a cut
          in an op of its own.
        </p>
      )}
      {(data?.mends ?? []).map((what) => (
        <p key={what} className="row">
          <span className="grow">
            <Said text={capital(what)} />
          </span>
          <Button
            size="small"
            variant="outlined"
            disabled={route.isPending}
            aria-label={`Take ${what}`}
            onClick={() => route.mutate({ to: "mends", body: { setup: here.number, what } })}
          >
            Take
          </Button>
        </p>
      ))}
      {[error, route.error].map((problem) => problem && <ProblemNotice key={problem.message} error={problem} />)}
    </div>
  );
}
