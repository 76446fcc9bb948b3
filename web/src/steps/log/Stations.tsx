/** Share scrapped by station, one bar each with the interval of its true share: the one bad pocket shows. */
import type { LogSaid } from "../../api/log";

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
  const most = Math.max(0.02, ...rows.map((row) => row.high));
  const wide = 1000 / rows.length;
  const tall = (share: number) => (100 * share) / most;
  if (rows.every((row) => row.scrapped === 0)) return null;
  return (
    <figure className="pockets" data-testid="pockets">
      <figcaption>
        <b>Scrapped by station, setup {setup}</b>{" "}
        <span className="quiet small">
          full cycles; the line is where the true share lies, 90 %; up to {(100 * most).toFixed(0)} %
        </span>
      </figcaption>
      <svg viewBox="0 0 1000 130" role="img" aria-label={rows.map(words).join("; ")}>
        {rows.map((row, k) => (
          <g key={row.station} className={row.stands_out ? "bad" : ""}>
            <title>{words(row)}</title>
            <rect
              x={k * wide + wide * 0.2}
              y={104 - tall(row.share)}
              width={wide * 0.6}
              height={Math.max(0.8, tall(row.share))}
              className="bar"
            />
            <line
              x1={(k + 0.5) * wide}
              x2={(k + 0.5) * wide}
              y1={104 - tall(row.low)}
              y2={104 - tall(row.high)}
              className="whisker"
            />
            {(rows.length <= 40 || row.stands_out) && (
              <text x={(k + 0.5) * wide} y={124} textAnchor="middle">
                {row.station}
              </text>
            )}
          </g>
        ))}
        <line x1={0} x2={1000} y1={104} y2={104} className="whisker" />
      </svg>
    </figure>
  );
}

const words = (row: Row) =>
  `station ${String(row.station)}: ${String(row.scrapped)} of ${String(row.made)} scrapped${row.stands_out ? ", stands out" : ""}`;
