/** Step 8: the zeros of a setup, one program out of those of its ops, and what the stand-in for a control found. */
import { useState } from "react";

import { type Order, useProgram } from "../../api/queries";
import { BenchDrawing } from "../../drawing/BenchDrawing";
import { usePlacing } from "../../drawing/placing";
import { useEditor } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { capital } from "../../ui/units";
import { OpFiles } from "./OpFiles";
import { ProgramText } from "./ProgramText";
import { Trial } from "./Trial";
import { ToolOrder, Zeros } from "./Zeros";

export function ProgramStep() {
  const { job, here } = useEditor();
  const [order, setOrder] = useState<Order | null>(null);
  const [line, show] = useState<number | null>(null);
  const { data, error, isFetching } = useProgram(job, here.number, order);
  const design = here.result?.designs[0] ?? null;
  const placing = usePlacing(design);
  const stationOf = (part: number) => data?.table?.parts.find((item) => item.number === part)?.station ?? null;
  return (
    <div className={`program ${job.latest?.run.current === false ? "stale" : ""}`}>
      <aside className="make-list">
        {data?.table && <Zeros table={data.table} select={placing.select} />}
        {data?.program && <ToolOrder program={data.program} setOrder={setOrder} />}
      </aside>
      <section className="work">
        <NotCurrent />
        {error && <ProblemNotice error={error} />}
        {!data && isFetching && <p className="quiet">Working out zeros, trying the program</p>}
        {data && <OpFiles ops={data.ops} />}
        {data && !data.table && (
          <Notice title="Nothing to program yet" kind="info">
            {data.reasons?.map((says) => (
              <p key={says}>
                <Said text={capital(says)} />
              </p>
            ))}
          </Notice>
        )}
        {here.on && design && (
          <div className="drawing filled">
            <BenchDrawing
              jobId={job.id}
              version={job.version}
              setup={here.number}
              on={here.on}
              design={design}
              overlay="none"
              placing={placing}
              mayEdit={false}
            />
          </div>
        )}
        {data?.tried && (
          <Trial
            tried={data.tried}
            go={(finding) => {
              show(finding.line ?? null);
              placing.select(finding.part ? stationOf(finding.part) : null);
            }}
          />
        )}
      </section>
      <aside className="side">
        {data?.program && <ProgramText program={data.program} setup={here.number} order={order} line={line} />}
        {data && !data.program && (
          <>
            <h2>Program</h2>
            <p className="quiet">
              {data.table
                ? "With a program for each op above, one for the whole setup stands here."
                : "It follows from a layout."}
            </p>
          </>
        )}
      </aside>
    </div>
  );
}
