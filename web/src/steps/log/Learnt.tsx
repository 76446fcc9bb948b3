/** What the log shows of each value that was assumed; nothing changes by itself. */
import { Button } from "@mui/material";
import { useState } from "react";

import { useEffects, useTakeBack, useTakeOver, type JobLog, type Learned } from "../../api/log";
import { useMeasured } from "../../api/queries";
import type { JobState } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { useUnits } from "../../ui/units";

export function Learnt({ job, learned, adopted }: { job: JobState; learned: Learned[]; adopted: JobLog["adopted"] }) {
  const { mayEdit } = useEditor();
  const [asked, setAsked] = useState<string | null>(null);
  const take = useTakeOver(job);
  const back = useTakeBack(job);
  const { figure, shownUnit } = useUnits();
  if (learned.length === 0) return null;
  const shown = (item: Learned, value: number) => figure(value, item.unit, item.digits);
  const failed = take.error ?? back.error;
  return (
    <section aria-label="Learned" data-testid="learned">
      <h2>Learned</h2>
      <table className="lines">
        <thead>
          <tr>
            <th>Value</th>
            <th className="num">in use</th>
            <th className="num">the log shows</th>
            <th className="num">90 %</th>
            <th className="num">n</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {learned.map((item) => (
            <tr key={item.id} title={item.source}>
              <td>
                {item.label}
                {item.contradicts && <strong> contradicted</strong>}
                {item.left_out.map((case_) => (
                  <div key={case_.id} className="quiet small">
                    left out: <Said text={case_.why} />, {new Date(case_.at).toLocaleDateString("en-GB")}
                  </div>
                ))}
                {asked === item.id && <Effect id={job.id} item={item} />}
              </td>
              <td className="num mono">{shown(item, item.in_use)}</td>
              <td className="num mono">
                <b>{shown(item, item.value)}</b> {shownUnit(item.unit)}
              </td>
              <td className="num mono one-line">
                {shown(item, item.low)} to {shown(item, item.high)}
              </td>
              <td className="num mono">{item.cases}</td>
              <td className="one-line">
                {item.field != null && asked !== item.id && (
                  <Button size="small" onClick={() => setAsked(item.id)}>
                    What it changes
                  </Button>
                )}
                {item.id.startsWith("place ") && item.contradicts && mayEdit && <AsMeasured job={job} item={item} />}
                {item.field != null && asked === item.id && mayEdit && (
                  <Button
                    size="small"
                    variant="contained"
                    disabled={take.isPending}
                    onClick={() => {
                      take.mutate({ learned: item.id, version: job.version });
                      setAsked(null);
                    }}
                  >
                    Adopt
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {failed && <ProblemNotice error={failed} />}
      {adopted.map((row) => (
        <p key={row.id} className="small" data-testid="adopted">
          {new Date(row.at).toLocaleDateString("en-GB")}: {row.person} took over{" "}
          <span className="mono">{row.after}</span> for <span className="mono">{row.before}</span> in{" "}
          {learned.find((item) => item.field === row.field)?.label ?? row.field}, measured, n = {row.cases}
          {row.undone ? "; taken back" : ""}{" "}
          {!row.undone && mayEdit && (
            <Button size="small" onClick={() => back.mutate({ id: row.id, version: job.version })}>
              Take back
            </Button>
          )}
        </p>
      ))}
    </section>
  );
}

/** Complete parts a day of the open jobs, before and after. */
function Effect({ id, item }: { id: string; item: Learned }) {
  const { data, error } = useEffects(id, item.id, true);
  if (error) return <ProblemNotice error={error} />;
  if (!data) return <p className="quiet small">Trying it in the open jobs</p>;
  const changed = data.jobs.filter((row) => Math.round(row.before) !== Math.round(row.after));
  return (
    <ul className="small" data-testid="effect">
      {changed.length === 0 && <li>No open job makes more or fewer a day with it.</li>}
      {changed.map((row) => (
        <li key={row.job_id}>
          {row.name}: <span className="mono">{Math.round(row.before)}</span> a day becomes{" "}
          <span className="mono">{Math.round(row.after)}</span>
        </li>
      ))}
    </ul>
  );
}

/** The station's place goes into Locate as measured; the layout stays as it is from then on. */
function AsMeasured({ job, item }: { job: JobState; item: Learned }) {
  const store = useMeasured(job.id);
  const [setup = 1, number = 0, axis = "X"] = item.id
    .split(" ")
    .slice(1)
    .map((word) => Number(word) || word);
  const design = job.latest?.result?.setups[Number(setup) - 1]?.result.designs[0];
  const station = design?.stations.find((each) => each.number === number);
  if (!station) return null;
  const place = {
    station: station.number,
    x_mm: station.x_mm + (axis === "X" ? item.value : 0),
    y_mm: station.y_mm + (axis === "Y" ? item.value : 0),
    z_mm: null,
  };
  return (
    <>
      <Button
        size="small"
        disabled={store.isPending}
        onClick={() => store.mutate({ setup: Number(setup), places: [place], within_mm: (item.high - item.low) / 2 })}
      >
        Take as measured
      </Button>
      {store.error && <ProblemNotice error={store.error} />}
      {store.isSuccess && <span className="quiet small">in Locate now</span>}
    </>
  );
}
