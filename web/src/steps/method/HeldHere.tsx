/** Which ops this setup holds: of one part for complete parts at every door opening, of several parts for kits. */
import { Button } from "@mui/material";

import { useRouteChange } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { Choice } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";

export function HeldHere() {
  const { job, parts, here, mayEdit } = useEditor();
  const route = useRouteChange(job.id);
  const held = here.shown.held;
  const every = parts.flatMap((part, p) =>
    (part.ops ?? []).map((op, o) => ({
      part: p,
      op: o,
      value: `${String(p)} ${String(o)}`,
      label: `${part.name}, op ${String(op.number)}, ${op.up ?? "+Z"} up`,
    })),
  );
  const others = every.filter((item) => !held.some((one) => one.part === item.part && one.op === item.op));
  const put = (part: number, op: number, setup: number | null) =>
    route.mutate({ to: "held", body: { part, op, setup } });
  const only = held.length === 1 && job.setups.length === 1;
  return (
    <>
      <h2>Ops held here</h2>
      <div className="wide rows">
        {held.map((item) => (
          <p key={item.at + item.name} className="row">
            <span className="grow">
              {every.find((one) => one.part === item.part && one.op === item.op)?.label ?? item.name}
            </span>
            <Button
              size="small"
              disabled={!mayEdit || only}
              aria-label={`Take out ${item.name}`}
              onClick={() => put(item.part, item.op, null)}
            >
              Take out
            </Button>
          </p>
        ))}
        {others.length > 0 && (
          <Choice
            label="Hold here too"
            name="hold-here"
            value=""
            options={[{ value: "", label: "nothing else" }, ...others]}
            disabled={!mayEdit}
            store={(value) => {
              const one = others.find((item) => item.value === value);
              if (one) put(one.part, one.op, here.number);
            }}
          />
        )}
        {held.length > 1 && (
          <p className="quiet small">
            Counted in{" "}
            {new Set(held.map((item) => item.part)).size > 1
              ? "kits: every part in its number"
              : "complete parts: as many stations of each op, so finished parts come off at every door opening"}
            .
          </p>
        )}
        {route.error && <ProblemNotice error={route.error} />}
        {job.setups.length > 1 && mayEdit && (
          <p>
            <Button
              size="small"
              color="error"
              onClick={() => route.mutate({ to: `setups/${String(here.number)}/removal` })}
            >
              Take setup {here.number} out
            </Button>
          </p>
        )}
      </div>
    </>
  );
}
