/** The ways of clamping the planner tried: what each takes in screws and time, how many parts it gives, or why it would not do. */
import { Button } from "@mui/material";

import type { Way } from "../../api/types";
import { useRouteChange } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";

const asked = (way: Way, id: string) => way.figures?.find((figure) => figure.id === id);

export function Ways({ kind }: { kind: number }) {
  const { job, here, mayEdit, change } = useEditor();
  const { withUnit, says } = useUnits();
  const route = useRouteChange(job.id);
  const every = here.result?.ways ?? [];
  const ways = every.filter((way) => (way.kind ?? 0) === kind);
  const first = here.shown.held[0];
  const planner = first?.station.by_planner ?? false;
  // What is taken by hand stays: from then on the person picks.
  const take = (way: Way) =>
    route.mutate({ to: `setups/${String(here.number)}/way`, body: { way: every.indexOf(way) } });
  if (!planner && ways.length === 0)
    return (
      <div>
        <p className="under-10 text-wide">
          You picked the clamps. The planner can try every way the shop offers: kind of clamp, how many, at which
          torque, and what that costs in parts a cycle and in loading time.
        </p>
        <Button variant="outlined" disabled={!mayEdit} onClick={() => first && change(`${first.at}.by_planner`, true)}>
          Let the planner choose, then plan
        </Button>
      </div>
    );
  const good = ways.filter((way) => way.rank > 0);
  const most = Math.max(1, ...good.map((way) => way.count));
  return (
    <div data-testid="ways" className="scrolls">
      {route.error && <ProblemNotice error={route.error} />}
      {planner && ways.length === 0 && <p>The planner chooses with the next plan.</p>}
      {ways.length > 0 && (
        <table className="lines tight">
          <thead>
            <tr>
              <th>Way of clamping</th>
              <th className="num">Parts a cycle</th>
              <td />
              <th className="num">Time a part</th>
              <th className="num">Screws</th>
              <th className="num">Loading</th>
              <th className="num">Torque</th>
              <th className="num">Factor</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {good.map((way) => (
              <tr key={way.name}>
                <td className={way.rank === 1 ? "strong" : "plain-weight"}>{way.name}</td>
                <td className="num mono strong">
                  <Ask figure={asked(way, "way_count")}>{way.count}</Ask>
                </td>
                <td className="wide-100">
                  <span
                    aria-hidden
                    className="block"
                    style={{
                      height: 8,
                      width: `${String((100 * way.count) / most)}%`,
                      background: way.rank === 1 ? "var(--mark)" : "var(--steel)",
                    }}
                  />
                </td>
                <td className="num mono">
                  <Ask figure={asked(way, "way_seconds")}>{way.part_seconds.toFixed(1)} s</Ask>
                </td>
                <td className="num mono">{way.screws}</td>
                <td className="num mono">
                  <Ask figure={asked(way, "way_loading")}>{Math.round(way.loading_seconds)} s</Ask>
                </td>
                <td className="num mono">{way.torque_nm ? withUnit(way.torque_nm, "N·m", 1) : "no screw"}</td>
                <td className="num mono">{way.factor.toFixed(2)}</td>
                <td className="num">
                  <Button size="small" disabled={!mayEdit} onClick={() => take(way)} aria-label={`Take ${way.name}`}>
                    Take
                  </Button>
                </td>
              </tr>
            ))}
            {ways
              .filter((way) => way.rank === 0)
              .map((way) => (
                <tr key={way.name} className="quiet">
                  <td>{way.name}</td>
                  <td colSpan={8} className="small">
                    {says(way.refused ?? "")}
                  </td>
                </tr>
              ))}
          </tbody>
        </table>
      )}
      <p className="quiet smaller above-6">
        Most parts first, then least time a part. Each with the least torque that holds with the house rule&rsquo;s
        factor; counts are those of a short search, the plan itself looks longer. A clamp that holds alone is not tried
        in greater numbers.
      </p>
    </div>
  );
}
