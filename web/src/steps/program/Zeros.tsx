/** Work offsets of a setup, and in which order its tools are changed in. */
import { Button } from "@mui/material";
import { Fragment } from "react";

import type { Order } from "../../api/queries";
import type { ProgramMade, ZeroTable } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

export function Zeros({ table, select }: { table: ZeroTable; select: (station: number | null) => void }) {
  const { job, here } = useEditor();
  const { figure, shownUnit } = useUnits();
  const file = (format: string) =>
    `/api/jobs/${job.id}/program/text?setup=${String(here.number)}&format=${encodeURIComponent(format)}`;
  const first = (parts: number[]) => table.parts.find((part) => part.number === parts[0])?.station ?? null;
  return (
    <>
      <h2>Zeros</h2>
      <table className="lines tight" data-testid="zeros">
        <thead>
          <tr>
            <th>Offset</th>
            <th className="num">X {shownUnit("mm")}</th>
            <th className="num">Y</th>
            <th className="num">Z</th>
          </tr>
        </thead>
        <tbody>
          {table.zeros.map((zero) => (
            <Fragment key={zero.name}>
              <tr className="row-link bare" onClick={() => select(first(zero.parts))} title={capital(zero.says)}>
                <td>
                  <strong className="mono">{zero.name}</strong>
                </td>
                {zero.at_mm.map((value, axis) => (
                  <td key={axis} className="num mono">
                    {figure(value, "mm", 3)}
                  </td>
                ))}
              </tr>
              <tr>
                <td colSpan={4} className="quiet smaller">
                  {standing(zero, here.on?.block.faces ?? 1)}
                  {(zero.steps ?? []).length > 0 && (
                    <details>
                      <summary>How it is picked up</summary>
                      <ol>
                        {(zero.steps ?? []).map((step) => (
                          <li key={step}>
                            <Said text={capital(step)} />
                          </li>
                        ))}
                      </ol>
                    </details>
                  )}
                </td>
              </tr>
            </Fragment>
          ))}
        </tbody>
      </table>
      {[...(table.notes ?? []), ...(table.doubts ?? [])].map((says) => (
        <p key={says} className={table.doubts?.includes(says) ? "not-known smaller" : "quiet smaller"}>
          <Said text={capital(says)} />.
        </p>
      ))}
      <p className="tools above-8">
        <Button component="a" href={file("zeros.nc")} download>
          G10 block
        </Button>
        <Button component="a" href={file("zeros.csv")} download>
          Table
        </Button>
      </p>
    </>
  );
}

function standing(zero: ZeroTable["zeros"][number], faces: number): string {
  const parts = `${String(zero.parts.length)} ${zero.parts.length === 1 ? "part" : "parts"}`;
  const face = faces > 1 && zero.face !== null ? `face ${String(zero.face + 1)}, ` : "";
  const turned = zero.turn_deg ? `, turned ${String(zero.turn_deg)}°` : "";
  return `${face}${parts}${turned}`;
}

interface Ordered {
  program: ProgramMade;
  setOrder: (order: Order) => void;
  /** Runs a sister in the place of a tool. */
  instead: (tool: number, sister: number) => void;
}

export function ToolOrder({ program, setOrder, instead }: Ordered) {
  const other = program.order === "by tool" ? "by station" : "by tool";
  return (
    <>
      <h2 className="above-8">Order</h2>
      <p>
        <span className="mid mono" data-testid="tool-changes">
          {program.tool_changes}
        </span>{" "}
        tool {program.tool_changes === 1 ? "change" : "changes"}
        {program.index_moves > 0 && (
          <>
            , <span className="mono">{program.index_moves}</span> index {program.index_moves === 1 ? "move" : "moves"}
          </>
        )}
        , {program.order}.
      </p>
      <p className="quiet smaller">
        {capital(other)} it would be <span className="mono">{program.tool_changes_other}</span>.
      </p>
      <p className="mono smaller">
        {program.tools
          .slice(0, 40)
          .map((tool) => `T${String(tool)}`)
          .join(" ")}
      </p>
      {(program.sisters ?? []).map(([tool, sister]) => (
        <p key={`${String(tool)} ${String(sister)}`} className="quiet smaller">
          <span className="mono">T{sister}</span> is the same as <span className="mono">T{tool}</span>.{" "}
          <Button size="small" onClick={() => instead(tool, sister)}>
            Use it
          </Button>
        </p>
      ))}
      <Button onClick={() => setOrder(other)}>{capital(other)} instead</Button>
    </>
  );
}
