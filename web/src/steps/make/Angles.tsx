/** How else a part could stand between its soft jaws: tried when asked, each one press. */
import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";

import { call } from "../../api/client";
import { useRouteChange } from "../../api/queries";
import type { AngleTried } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

export function Angles() {
  const { job, here, mayEdit } = useEditor();
  const route = useRouteChange(job.id);
  const { data, error, isFetching, refetch } = useQuery({
    queryKey: ["angles", job.id, job.version, here.number],
    queryFn: () => call<{ angles: AngleTried[] }>("GET", `/api/jobs/${job.id}/angles?setup=${String(here.number)}`),
    enabled: false,
  });
  const [now, ...others] = data?.angles ?? [];
  return (
    <div data-testid="angles">
      {!data && (
        <p className="above-8">
          <Button size="small" variant="outlined" disabled={isFetching} onClick={() => void refetch()}>
            {isFetching ? "Trying its edges, widths, symmetry" : "Stand it otherwise?"}
          </Button>
        </p>
      )}
      {data && others.length === 0 && (
        <p className="quiet smaller">Every other angle that was tried is as it stands, or cannot be held.</p>
      )}
      {now && others.length > 0 && (
        <table className="lines tight">
          <thead>
            <tr>
              <th>Turned</th>
              <th className="num">Holds</th>
              <th className="num">Grips</th>
              <td />
            </tr>
          </thead>
          <tbody>
            <Row angle={now} />
            {others.map((angle) => (
              <Row
                key={angle.turn_deg}
                angle={angle}
                take={
                  mayEdit && !route.isPending
                    ? () => route.mutate({ to: "angles", body: { setup: here.number, turn_deg: angle.turn_deg } })
                    : undefined
                }
              />
            ))}
          </tbody>
        </table>
      )}
      {[error, route.error].map((problem) => problem && <ProblemNotice key={problem.message} error={problem} />)}
    </div>
  );
}

function Row({ angle, take }: { angle: AngleTried; take?: (() => void) | undefined }) {
  const { withUnit, figure } = useUnits();
  const turned = `${angle.turn_deg.toFixed(1).replace(/\.0$/, "")}°`;
  return (
    <>
      <tr>
        <td className="mono">{turned}</td>
        <td className="num mono">{(angle.factor ?? 0).toFixed(2)}</td>
        <td className="num mono one-line">
          {figure(angle.fixed_mm ?? 0, "mm", 0)}, {withUnit(angle.moving_mm ?? 0, "mm", 0)}
        </td>
        <td>
          {take && (
            <Button size="small" onClick={take} aria-label={`Turn it to ${turned}`}>
              Take
            </Button>
          )}
        </td>
      </tr>
      <tr>
        <td colSpan={4} className="quiet smaller">
          <Said text={capital(angle.why)} />
        </td>
      </tr>
    </>
  );
}
