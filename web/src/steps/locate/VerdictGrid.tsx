/** Feature by station: the share of its tolerance that each uses, and what is left out. On paper so many stations a line as it holds. */
import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import type { Chosen } from "./chosen";
import { usePrinting } from "../../ui/room";
import { useUnits } from "../../ui/units";
import { percent } from "../../charts/percent";

const INK = { within: "var(--within)", close: "var(--close)", over: "var(--over)" } as const;
/** Stations that a line of a portrait sheet holds. */
const A_LINE = 17;
const SIGN = { within: "", close: "▲", over: "◆" } as const;

export function VerdictGrid({
  found,
  chosen,
  pick,
  placed,
}: {
  found: Verdicts;
  chosen: Chosen | null;
  pick: (chosen: Chosen) => void;
  placed: number;
}) {
  const { here } = useEditor();
  const { says } = useUnits();
  const printing = usePrinting();
  const kinds = here.result?.designs[0]?.kinds ?? [];
  const step = (event: React.KeyboardEvent, feature: string, station: number) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const column = found.columns.find(
      (item) => item.feature === feature && item.verdicts.some((verdict) => verdict.station === station),
    );
    if (by === undefined || !column) return;
    const at = column.verdicts.findIndex((verdict) => verdict.station === station);
    const next = column.verdicts[at + by];
    if (!next) return;
    event.preventDefault();
    pick({ station: next.station + 1, feature });
    (
      event.currentTarget
        .closest("tr")
        ?.querySelector(`[data-station="${String(next.station + 1)}"]`) as HTMLElement | null
    )?.focus();
  };
  const table = (scheme: Verdicts["schemes"][number], stations: number[], key: string) => (
    <table className="verdicts" key={key}>
      <thead>
        <tr>
          <th scope="col">
            {found.schemes.length > 1
              ? (kinds[scheme.kind]?.name ?? `Op ${String(scheme.kind + 1)}`)
              : "Feature, % of its tolerance"}
          </th>
          {stations.map((station) => {
            const out = station >= placed && !found.pretend;
            return (
              <th
                key={station}
                scope="col"
                className={`mono ${out ? "stands-not" : ""}`}

                title={out ? "Left out: there is room, but not within its tolerance" : undefined}
              >
                {station + 1}
              </th>
            );
          })}
        </tr>
      </thead>
      <tbody>
        {found.columns
          .filter((column) => column.kind === scheme.kind)
          .map((column) => (
            <tr key={column.feature}>
              <th scope="row" title={says(column.said)}>
                {column.feature}
              </th>
              {column.problem ? (
                <td colSpan={Math.max(1, stations.length)} className="problem-list text-left tight">
                  Not judged: {says(column.problem)}
                </td>
              ) : (
                column.verdicts
                  .filter((verdict) => stations.includes(verdict.station))
                  .map((verdict) => {
                    const station = verdict.station;
                    const on = chosen?.station === station + 1 && chosen.feature === column.feature;
                    const ink = found.pretend && verdict.state === "within" ? "var(--steel)" : INK[verdict.state];
                    const much = String(Math.round(10 + 40 * Math.min(1, verdict.share) ** 2));
                    return (
                      <td key={station} style={{ background: `color-mix(in srgb, ${ink} ${much}%, transparent)` }}>
                        <button
                          type="button"
                          className="plain mono"
                          data-station={station + 1}
                          aria-pressed={on}
                          tabIndex={on ? 0 : -1}
                          aria-label={`${column.feature}, station ${String(station + 1)}: ${percent(verdict.share)} % of its tolerance`}
                          onClick={() => pick({ station: station + 1, feature: column.feature })}
                          onKeyDown={(event) => step(event, column.feature, station)}
                        >
                          {SIGN[verdict.state]}
                          {percent(verdict.share)}
                        </button>
                      </td>
                    );
                  })
              )}
            </tr>
          ))}
      </tbody>
    </table>
  );
  const shown = found.schemes
    .map((scheme) => ({ scheme, columns: found.columns.filter((column) => column.kind === scheme.kind) }))
    .filter((item) => item.columns.length > 0)
    .map(({ scheme, columns }) => ({
      scheme,
      stations: [...new Set(columns.flatMap((column) => column.verdicts.map((verdict) => verdict.station)))].sort(
        (a, b) => a - b,
      ),
    }));
  return (
    <>
      <div className="scroll no-print keep most-210" data-testid="verdict-grid">
        {shown.map(({ scheme, stations }) => table(scheme, stations, String(scheme.kind)))}
      </div>
      <div className="print-only" aria-hidden="true">
        {(printing ? shown : []).flatMap(({ scheme, stations }) =>
          Array.from({ length: Math.max(1, Math.ceil(stations.length / A_LINE)) }, (_unused, line) =>
            table(scheme, stations.slice(line * A_LINE, (line + 1) * A_LINE), `${String(scheme.kind)}-${String(line)}`),
          ),
        )}
      </div>
    </>
  );
}
