/** The setups of the route, in the order a part goes through them: which one is on screen, and the job as a whole. */
import { useNavigate, useParams } from "react-router";

import { useEditor } from "../editing/editor";
import { Ask } from "../ui/Ask";

export function SetupBar() {
  const { job, here } = useEditor();
  const navigate = useNavigate();
  const { step = "layout" } = useParams();
  if (job.setups.length < 2) return null;
  const result = job.latest?.result;
  const find = (id: string) => result?.figures.find((item) => item.id === id);
  const limits = result?.limits ?? null;
  return (
    <div
      className={`setup-bar ${job.latest?.run.current || job.latest?.run.so_far ? "" : "stale"}`}
      role="group"
      aria-label="Setups of the route"
    >
      {job.setups.map((setup) => {
        const count = result?.setups.find((item) => item.number === setup.number)?.result.designs[0]?.count;
        return (
          <button
            key={setup.number}
            type="button"
            aria-pressed={setup.number === here.number}
            onClick={() => void navigate(`/jobs/${job.id}/${step}?setup=${String(setup.number)}`)}
          >
            <span className="mono">{setup.number}</span> {setup.held.map((item) => item.name).join(", ")}, {setup.form}
            <b className="mono">{count ?? (result ? "none" : "")}</b>
            {limits === setup.number && <em>limits</em>}
          </button>
        );
      })}
      {typeof result?.complete_a_cycle === "number" && (
        <span className="whole" data-testid="whole">
          <Ask figure={find("complete_a_cycle")}>
            <b className="mono">{result.complete_a_cycle}</b>
          </Ask>{" "}
          {result.counted} a cycle,{" "}
          <Ask figure={find("a_day")}>
            <b className="mono">{Math.floor(result.a_day ?? 0)}</b>
          </Ask>{" "}
          a day
        </span>
      )}
    </div>
  );
}
