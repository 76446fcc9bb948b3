/** Step 10: what a setter works by, to read at the machine and on paper. */
import { Button } from "@mui/material";

import { Link } from "react-router";

import { useSession, useSheet } from "../../api/queries";
import { useMakeFixture } from "../../api/shelf";
import type { SetupSheet } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { clock, useUnits } from "../../ui/units";
import { SheetFace } from "../../drawing/SheetFace";
import { Lifts, Measures, Tightened, ToolsToLoad, ZerosToSet } from "./tables";

export function SheetStep() {
  const { job, here } = useEditor();
  const shelf = useMakeFixture();
  const mayMake = useSession().data?.person?.role !== "viewer";
  const { system } = useUnits();
  const { data, error, isFetching } = useSheet(job, here.number);
  const file = (paper: string) =>
    `/api/jobs/${job.id}/sheet.pdf?${new URLSearchParams({ setup: String(here.number), paper, units: system === "inch" ? "inch" : "mm" }).toString()}`;
  return (
    <div className="sheet-page">
      {!data && isFetching && <p className="quiet">Putting the sheet together</p>}
      {error && <ProblemNotice error={error} />}
      {shelf.error && <ProblemNotice error={shelf.error} />}
      {data && (
        <>
          <div className="tools middle">
            <Button variant="contained" component="a" href={file(system === "inch" ? "letter" : "A4")} download>
              Print, {system === "inch" ? "letter" : "A4"}
            </Button>
            <Button component="a" href={file(system === "inch" ? "A4" : "letter")} download>
              {system === "inch" ? "A4" : "Letter"}
            </Button>
            {mayMake && (
              <Button
                disabled={shelf.isPending || !data.current}
                onClick={() => shelf.mutate({ job_id: job.id, setup: here.number })}
              >
                Made: put it on the shelf
              </Button>
            )}
            {shelf.data && <Link to={`/shelf/${shelf.data.number}`}>{shelf.data.number} is on the shelf</Link>}
            <span className="quiet">
              design <span className="mono">{data.version}</span>
            </span>
          </div>
          {!data.current && (
            <Notice title="Out of date">
              The job was changed since it was planned: this sheet is of the design before.
            </Notice>
          )}
          {(data.exceeded ?? []).length > 0 && (
            <Notice title="Do not run it" kind="over">
              Beyond its limit: <Said text={(data.exceeded ?? []).join(", ")} />.
            </Notice>
          )}
          <Sheet sheet={data} />
        </>
      )}
    </div>
  );
}

function Sheet({ sheet }: { sheet: SetupSheet }) {
  return (
    <div className="sheet-columns">
      <section aria-label="Where parts go">
        <h2>
          {sheet.parts_a_cycle} parts a cycle on {sheet.machine}
        </h2>
        <div className={sheet.faces.length > 1 ? "sheet-faces many" : "sheet-faces"}>
          {sheet.faces.map((face, k) => (
            <SheetFace key={k} face={face} alone={sheet.faces.length === 1} />
          ))}
        </div>
      </section>
      <section aria-label="What to do">
        <h2>Load</h2>
        <ol data-testid="loading">
          {sheet.loading.map((step) => (
            <li key={step}>
              <Said text={step} />
            </li>
          ))}
        </ol>
        <Tightened sheet={sheet} />
        <h2>Program</h2>
        <p>
          {sheet.program ? (
            <>
              <span className="mono">{sheet.program}</span>
              {sheet.seconds != null && (
                <>
                  , <span className="mono">{clock(sheet.seconds)}</span> min
                </>
              )}
              ,{" "}
              <strong className={sheet.accepted ? "" : sheet.wrong ? "over-text" : "not-known"}>
                {sheet.accepted
                  ? "accepted by the stand-in"
                  : sheet.wrong
                    ? `not accepted, ${String(sheet.wrong)} wrong`
                    : "not accepted yet, not everything was looked at"}
              </strong>
            </>
          ) : (
            <span className="quiet">None yet: it is put together in step 8.</span>
          )}
        </p>
        <ZerosToSet sheet={sheet} />
        <ToolsToLoad sheet={sheet} />
        <Measures sheet={sheet} />
        <Lifts sheet={sheet} />
        <h2>Before the start</h2>
        <ul className="boxes">
          {sheet.checks.map((check) => (
            <li key={check}>{check}</li>
          ))}
        </ul>
        {sheet.cautions.length > 0 && (
          <>
            <h2>Cautions</h2>
            <ul>
              {sheet.cautions.map((caution) => (
                <li key={caution}>
                  <Said text={caution} />
                </li>
              ))}
            </ul>
          </>
        )}
      </section>
    </div>
  );
}
