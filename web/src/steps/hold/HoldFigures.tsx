/** The figures of a hold: from which torque it holds and marks, what the screw gives, what presses down. */
import type { Figure, PlanResult } from "../../api/types";
import { Ask } from "../../ui/Ask";
import { capital, useUnits } from "../../ui/units";

export type Verdict = NonNullable<PlanResult["hold"]>;

interface Props {
  hold: Verdict;
  /** The torque that is set, and what the screw is rated for. */
  set: number;
  rated: number;
  /** What the torque is on. */
  drive: string;
  stale: string;
  find: (id: string) => Figure | undefined;
}

export function HoldFigures({ hold, set, rated, drive, stale, find }: Props) {
  const { withUnit } = useUnits();
  const never = (hold.curve ?? []).length > 0 ? `not with this ${drive}` : "not worked out yet";
  return (
    <table className={`lines below ${stale}`}>
      <tbody>
        {hold.torque && (
          <>
            <tr>
              <td>Holds from</td>
              <td className="num mono">
                {typeof hold.least_torque_nm === "number" ? (
                  <Ask figure={find("least_torque")}>{withUnit(hold.least_torque_nm, "N·m", 1)}</Ask>
                ) : (
                  never
                )}
              </td>
            </tr>
            <tr>
              <td>Marks the part from</td>
              <td className="num mono">
                {typeof hold.marks_from_nm === "number" ? (
                  <Ask figure={find("marks_from")}>{withUnit(hold.marks_from_nm, "N·m", 1)}</Ask>
                ) : (
                  never
                )}
              </td>
            </tr>
          </>
        )}
        {typeof hold.sinks_from_nm === "number" && (
          <tr>
            <td>Sinks in from</td>
            <td className={`num mono ${set >= hold.sinks_from_nm ? "stands-not" : ""}`}>
              <Ask figure={find("sinks_from")}>{withUnit(hold.sinks_from_nm, "N·m", 1)}</Ask>
            </td>
          </tr>
        )}
        {hold.torque && (
          <tr>
            <td>{capital(drive)} rated for</td>
            <td className="num mono">{withUnit(rated, "N·m", 1)}</td>
          </tr>
        )}
        <tr>
          <td>Preload, low end</td>
          <td className="num mono">
            <Ask figure={find("preload")}>{withUnit(hold.preload_low_n, "N", 0)}</Ask>
          </td>
        </tr>
        <tr>
          <td>Preload, high end</td>
          <td className="num mono">
            <Ask figure={find("preload_high")}>{withUnit(hold.preload_high_n, "N", 0)}</Ask>
          </td>
        </tr>
        {hold.indexing !== null && hold.indexing !== undefined && (
          <tr>
            <td>Held while the bar indexes</td>
            <td className={`num mono ${hold.indexing < hold.needed ? "stands-not" : ""}`}>
              <Ask figure={find("indexing")}>
                {hold.indexing >= 999 ? "over 999" : hold.indexing.toFixed(1)} x weight
              </Ask>
            </td>
          </tr>
        )}
        {hold.torque && find("short_form") && (
          <tr>
            <td>Screw force, short form</td>
            <td className="num mono">
              <Ask figure={find("short_form")}>{withUnit(find("short_form")?.value ?? 0, "N", 0)}</Ask>
            </td>
          </tr>
        )}
        <tr>
          <td>Pressing down, low end</td>
          <td className="num mono">
            <Ask figure={find("seating")}>{withUnit(hold.seating_n, "N", 0)}</Ask>
          </td>
        </tr>
      </tbody>
    </table>
  );
}
