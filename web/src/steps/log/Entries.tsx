/** What happened, the latest first. */
import { Button } from "@mui/material";
import { useState } from "react";

import { useLogPage, type LogEntry } from "../../api/log";
import { forget, useOutbox } from "../../api/outbox";
import { Notice } from "../../ui/Notice";
import { clock, useUnits } from "../../ui/units";

const MORE = 200;

export function Entries({ id }: { id: string }) {
  const [most, setMost] = useState(12);
  const { data } = useLogPage(id, most);
  const { waiting, refused } = useOutbox(id);
  return (
    <section aria-label="Entries">
      {waiting > 0 && (
        <p role="status">
          <strong>{waiting} wait for the network and are kept here.</strong>
        </p>
      )}
      {refused.map((item) => (
        <Notice
          key={item.entry.id}
          title={`Not taken: ${item.entry.kind}`}
          action={<Button onClick={() => forget(item.entry.id)}>Forget it</Button>}
        >
          <p>{item.refused}</p>
        </Notice>
      ))}
      {(data?.total ?? 0) > 0 && (
        <>
          <h2>Entries</h2>
          <table className="lines tight" data-testid="entries">
            <tbody>
              {(data?.entries ?? []).map((entry) => (
                <tr key={entry.id}>
                  <td className="mono one-line">
                    {new Date(entry.at).toLocaleString("en-GB", { dateStyle: "short", timeStyle: "short" })}
                  </td>
                  <td className="mono">{entry.setup}</td>
                  <td>
                    <Words entry={entry} />
                  </td>
                  <td className="quiet">{entry.by}</td>
                </tr>
              ))}
            </tbody>
          </table>
          {(data?.total ?? 0) > most && (
            <Button onClick={() => setMost(Math.min(10_000, most + MORE))}>
              Older ones, {(data?.total ?? 0) - most} more
            </Button>
          )}
        </>
      )}
    </section>
  );
}

function Words({ entry }: { entry: LogEntry }) {
  const { withUnit } = useUnits();
  const note = entry.note ? `; ${entry.note}` : "";
  switch (entry.kind) {
    case "cycle":
      return (
        <>
          Cycle {clock(entry.seconds)}, {entry.good} good
          {(entry.scrapped ?? []).length > 0 ? `, scrapped at ${(entry.scrapped ?? []).join(", ")}` : ""}
          {note}
        </>
      );
    case "load":
      return (
        <>
          Loaded {entry.parts} in {clock(entry.seconds)}
          {note}
        </>
      );
    case "torque":
      return (
        <>
          Station {entry.station} tightened to {withUnit(Number(entry.torque_nm), "N·m", 1)}
          {note}
        </>
      );
    case "measure":
      return (
        <>
          {entry.feature} {entry.axis} at station {entry.station}: {withUnit(Number(entry.off_mm), "mm", 3)} off{note}
        </>
      );
    case "edge":
      return (
        <>
          {entry.tool}: new edge after {entry.minutes.toFixed(1)} min of cut{entry.worn ? "" : ", not worn"}
          {note}
        </>
      );
    case "stop":
      return (
        <>
          Stood {clock(entry.seconds)}: {entry.reason}
          {note}
        </>
      );
    case "note":
      return <>{entry.note}</>;
    default:
      return (
        <>
          {entry.kind === "crash" ? "Something was hit" : "A part slipped"}
          {entry.station != null ? `, station ${String(entry.station)}` : ""}
          {note}
        </>
      );
  }
}
