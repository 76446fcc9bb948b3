/** Which zeros to pick up: what each way costs and lets on, and what was left out with the one that is set. */
import { Button } from "@mui/material";

import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Choice } from "../../ui/Field";
import { clock, useUnits } from "../../ui/units";
import type { Chosen } from "./chosen";

const FROM = ["as it lies", "corner", "bore", "midway between faces", "axis"];
const CHOICES = ["one for all", "one per face", "one per station", "cheapest in tolerance"];

export function Datums({ found, why }: { found: Verdicts; why: (asked: Chosen) => void }) {
  const { rules, here, change, mayEdit } = useEditor();
  const { figure, shownUnit, says } = useUnits();
  const result = here.result;
  const design = result?.designs[0];
  const at = here.of("zeros.strategy");
  const set = here.setup.zeros?.strategy ?? rules.datum ?? "one for all";
  const tried = result?.strategies ?? [];
  const out = design?.left_out ?? [];
  const placed = design?.stations.length ?? 0;
  return (
    <div className="scroll grid gap-14 packed">
      <div className="text-narrow pad-above-8">
        <Choice
          label="Datum of this setup"
          name={at}
          value={set}
          options={CHOICES.map((value) => ({
            value,
            label: value === "cheapest in tolerance" ? "The planner picks the cheapest" : value,
          }))}
          disabled={!mayEdit}
          store={(value) => change(at, value)}
        />
        <div className="above-8">
          <Choice
            label="Picked up from"
            name={here.of("zeros.picked_up")}
            value={here.setup.zeros?.picked_up ?? "as it lies"}
            options={FROM.map((value) => ({
              value,
              label: value === "as it lies" ? "As it lies: corner, else a bore" : value,
            }))}
            disabled={!mayEdit}
            store={(value) => change(here.of("zeros.picked_up"), value)}
          />
        </div>
      </div>
      {tried.length > 0 ? (
        <table className="lines text-wide" data-testid="strategies">
          <thead>
            <tr>
              <th>Datum</th>
              <th className="num">{design?.counted ?? "parts"} a cycle</th>
              <th className="num">Offsets</th>
              <th className="num">To pick up</th>
              <td />
              <td />
            </tr>
          </thead>
          <tbody>
            {tried.map((item) => (
              <tr key={item.strategy}>
                <td className={`one-line ${item.strategy === design?.datum ? "strong" : "plain-weight"}`}>
                  {item.strategy}
                  {item.strategy === design?.datum ? ", as planned" : ""}
                </td>
                <td className="num mono">{item.refused ? "none" : item.count}</td>
                <td className="num mono">{item.offsets || ""}</td>
                <td className="num mono">{item.seconds ? clock(item.seconds) : ""}</td>
                <td className={item.refused ? "problem-list" : "quiet"}>
                  {says([item.refused, item.says].filter(Boolean).join(". ")) ||
                    (item.rank === 1 ? "most for the least" : "")}
                </td>
                <td className="num">
                  {!item.refused && item.strategy !== design?.datum && (
                    <Button
                      size="small"
                      disabled={!mayEdit}
                      onClick={() => change(at, item.strategy)}
                      aria-label={`Use ${item.strategy}`}
                    >
                      Use it
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      ) : (
        <p className="quiet">What other datums would buy is worked out when the job is planned.</p>
      )}
      {tried.length > 0 && (
        <p className="quiet pulled-up">
          A zero takes {clock(rules.pickup_seconds ?? 90)} to pick up, a house rule: from memory until you have timed
          your own.
        </p>
      )}
      {out.length > 0 ? (
        <div>
          <h2>Left out: there is room, but not within tolerance</h2>
          <table className="lines text-wide" data-testid="left-out">
            <thead>
              <tr>
                <th>Station</th>
                <th className="num">X, Y {shownUnit("mm")}</th>
                <th>Would miss</th>
                <th className="num">Uses</th>
                <th className="num">Of</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {out.map((item, index) => (
                <tr key={index}>
                  <td className="mono">
                    {placed + index + 1}
                    {(design?.faces.length ?? 0) > 1 ? `, ${design?.faces[item.face] ?? ""}` : ""}
                  </td>
                  <td className="num mono">
                    {figure(item.x_mm, "mm", 1)} {figure(item.y_mm, "mm", 1)}
                  </td>
                  <td>{item.feature}</td>
                  <td className="num mono stands-not">{figure(item.uses_mm, "mm", 4)}</td>
                  <td className="num mono">{figure(item.tolerance_mm, "mm", 4)}</td>
                  <td className="num">
                    <Button size="small" onClick={() => why({ station: placed + index + 1, feature: item.feature })}>
                      Why
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      ) : (
        <p className="quiet">
          {found.pretend ? "" : "No station was left out for its tolerance: every place that has room is in."}
        </p>
      )}
    </div>
  );
}
