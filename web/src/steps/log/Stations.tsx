/** Share scrapped by station, one bar each with the interval of its true share: the one bad pocket shows. */
import type { LogSaid } from "../../api/log";
import { Bars } from "../../charts/lazy";

type Row = LogSaid["stations"][number];

export function Stations({ said }: { said: LogSaid }) {
  const setups = [...new Set(said.stations.map((row) => row.setup))];
  return (
    <>
      {setups.map((setup) => (
        <Setup key={setup} setup={setup} rows={said.stations.filter((row) => row.setup === setup)} />
      ))}
    </>
  );
}

function Setup({ setup, rows }: { setup: number; rows: Row[] }) {
  if (rows.every((row) => row.scrapped === 0)) return null;
  return (
    <figure className="pockets" data-testid="pockets">
      <figcaption>
        <b>Scrapped by station, setup {setup}</b>{" "}
        <span className="quiet small">full cycles; the line is where the true share lies, 90 %</span>
      </figcaption>
      <Bars
        says={`Scrapped by station, setup ${String(setup)}`}
        each="Station"
        bars={rows.map((row) => ({
          name: String(row.station),
          value: row.share,
          low: row.low,
          high: row.high,
          stands: row.stands_out,
        }))}
        told={(k) => words(rows[k] as Row)}
        show={(share) => `${(100 * share).toFixed(0)} %`}
      />
    </figure>
  );
}

const words = (row: Row) =>
  `${String(row.scrapped)} of ${String(row.made)} scrapped${row.stands_out ? ", stands out" : ""}`;
