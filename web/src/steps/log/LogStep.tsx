/** Step 11: what happened, against what was planned; the bad pocket, the drift, and what was learned. */
import { Button } from "@mui/material";

import { useLogFile, useLogSaid, type LogSaid } from "../../api/log";
import { useEditor } from "../../editing/editor";
import { DropFile } from "../../ui/DropFile";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { clock, useUnits } from "../../ui/units";
import { Control } from "./Control";
import { Entries } from "./Entries";
import { Learnt } from "./Learnt";
import { Stations } from "./Stations";
import { WriteDown } from "./WriteDown";

export function LogStep() {
  const { job, here } = useEditor();
  const { data, error } = useLogSaid(job);
  const file = useLogFile(job.id);
  const said = data?.said;
  return (
    <div className="run-page">
      <div className="run-main">
        {error && <ProblemNotice error={error} />}
        {said && said.entries === 0 && (
          <Notice title="Nothing has been logged yet" kind="info">
            <p>
              At the machine the tablet page writes it down; or type it at the right, or drop a table with a row of
              titles (at, kind, seconds, parts, …).
            </p>
          </Notice>
        )}
        {said && said.entries > 0 && (
          <>
            <Head said={said} />
            <Stations said={said} />
            <Against said={said} />
            <Learnt job={job} learned={said.learned} adopted={data.adopted} />
            <Torques said={said} />
            <div className="charts">
              {said.charts.map((chart) => (
                <Control key={`${chart.what} ${String(chart.setup)} ${String(chart.station ?? "")}`} chart={chart} />
              ))}
            </div>
          </>
        )}
        <Entries id={job.id} />
      </div>
      <aside className="side" tabIndex={0} aria-label="Write down">
        <h2>Write down</h2>
        <Button variant="outlined" fullWidth component="a" href={`/jobs/${job.id}/tablet?setup=${String(here.number)}`}>
          Tablet page, setup {here.number}
        </Button>
        <WriteDown />
        <DropFile
          name="log"
          label="A log as a table, CSV"
          hint=""
          accept=".csv,.txt,.tsv"
          busy={file.isPending}
          choose={(chosen) => chosen && file.mutate(chosen)}
        />
        {file.error && <ProblemNotice error={file.error} />}
        {file.data && (
          <p role="status" data-testid="file-read">
            {file.data.stored} new, {file.data.known} known already
            {(file.data.wrong ?? 0) > 0 ? `, ${String(file.data.wrong)} not read` : ""}.
          </p>
        )}
        {(file.data?.faults ?? []).map((fault) => (
          <p key={fault.row} className="over-text small">
            Row {fault.row}
            {fault.column ? `, ${fault.column}` : ""}: {fault.message}
          </p>
        ))}
        <Button component="a" href={`/api/jobs/${job.id}/log.csv`} download>
          All of it as a table
        </Button>
      </aside>
    </div>
  );
}

function Head({ said }: { said: LogSaid }) {
  const made = said.good + said.scrapped;
  return (
    <>
      <div className="headline" data-testid="log-head">
        <div>
          <div className="big mono">{said.complete}</div>
          <div className="label">complete of {said.quantity} wanted</div>
        </div>
        <div>
          <div className="mid mono">{made > 0 ? ((100 * said.scrapped) / made).toFixed(1) : "0.0"} %</div>
          <div className="label">
            {said.scrapped} of {made} scrapped
          </div>
        </div>
        <div>
          <div className="mid mono">{said.entries}</div>
          <div className="label">entries</div>
        </div>
        {said.stops[0] && (
          <div>
            <div className="mid mono">{clock(said.stops[0][2])}</div>
            <div className="label">
              stood for {said.stops[0][0]}, {said.stops[0][1]} times
            </div>
          </div>
        )}
      </div>
      {said.says.map((sentence) => (
        <p key={sentence} className="money-says">
          <Said text={sentence} />
        </p>
      ))}
    </>
  );
}

function Against({ said }: { said: LogSaid }) {
  const show = (value: number, unit: string) => (unit === "s" ? clock(value) : value.toFixed(1));
  return (
    <>
      <h2>Planned and real</h2>
      <table className="lines" data-testid="against">
        <thead>
          <tr>
            <th>Setup</th>
            <th>What</th>
            <th className="num">planned</th>
            <th className="num">real</th>
            <th className="num">off by</th>
            <th className="num">cases</th>
          </tr>
        </thead>
        <tbody>
          {said.against.map((row) => (
            <tr key={`${String(row.setup)} ${row.what}`}>
              <td className="mono">{row.setup}</td>
              <td>{row.what}</td>
              <td className="num mono">{show(row.planned, row.unit)}</td>
              <td className="num mono">{show(row.real, row.unit)}</td>
              <td className="num mono">
                {row.planned > 0 ? `${String(Math.round((100 * (row.real - row.planned)) / row.planned) + 0)} %` : ""}
              </td>
              <td className="num mono">{row.cases}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Torques({ said }: { said: LogSaid }) {
  const { withUnit } = useUnits();
  return (
    <>
      {said.torques.map((seen) => (
        <p key={seen.setup}>
          Torque, setup {seen.setup}: {withUnit(seen.asked_nm, "N·m", 1)} asked; {seen.within} within{" "}
          {withUnit(seen.least_nm, "N·m", 1)} to {withUnit(seen.most_nm, "N·m", 1)}
          {seen.off.length > 0 && (
            <strong className="over-text">
              {" "}
              {seen.off.length} outside:{" "}
              {seen.off
                .slice(0, 6)
                .map(([at, nm]) => `station ${String(at)} ${withUnit(nm, "N·m", 1)}`)
                .join(", ")}
              {seen.off.length > 6 ? ` and ${String(seen.off.length - 6)} more` : ""}
            </strong>
          )}
        </p>
      ))}
    </>
  );
}
