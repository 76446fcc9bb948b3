/** How a station holds its parts: who picks the clamps, what presses, its sizes, and the stops. */
import { Button, Checkbox, FormControlLabel, Switch } from "@mui/material";
import { useState } from "react";

import { useCatalogue } from "../../api/queries";
import { Choice, Field } from "../../ui/Field";
import { useEditor, useOwnStation, useStored } from "../../editing/editor";
import type { Held } from "../../editing/here";

const OWN = "own values";

const SHARING = [
  { value: "a clamp each", label: "A clamp for each part" },
  { value: "double wedge between two", label: "Two parts, a double wedge between them" },
  { value: "one clamp for two", label: "Two parts side by side, one rocking toe for both" },
  { value: "row between jaws", label: "A row of parts between two jaws" },
];

/** Clamps and stops of every op that is held here, one after the other where each has its own. */
export function StationFields() {
  const { here } = useEditor();
  const [picked, setPicked] = useState(0);
  const ops = here.shown.held;
  const op = ops[picked] ?? ops[0];
  if (!op) return null;
  return (
    <>
      <h2>Clamps</h2>
      <PlannerPicks />
      {ops.length > 1 && (
        <div className="wide">
          <OfWhich label="Clamps of" ops={ops} shown={op} pick={setPicked} />
        </div>
      )}
      {(op.own || op === ops[0]) && <OneStation op={op} />}
    </>
  );
}

/** Which op of several is meant, and whether it has a station of its own. */
export function OfWhich({
  label,
  ops,
  shown,
  pick,
  said,
}: {
  label: string;
  ops: Held[];
  shown: Held;
  pick: (index: number) => void;
  said?: string;
}) {
  const { mayEdit } = useEditor();
  const put = useOwnStation();
  const first = ops[0];
  if (!first) return null;
  const options = ops.map((op, index) => ({
    value: String(index),
    label: op.name,
  }));
  return (
    <>
      <Choice
        label={label}
        name="held-op"
        value={String(ops.indexOf(shown))}
        options={options}
        store={(value) => pick(Number(value))}
      />
      {shown !== first && (
        <>
          <p className="quiet small above-6">
            {shown.own ? "Held in its own way." : `Held as ${first.name} is.`} {said}
          </p>
          <Button
            size="small"
            disabled={!mayEdit}
            onClick={() => put(shown, shown.own ? null : { ...first.station, by_planner: false })}
          >
            {shown.own ? "Hold it as the first" : "Give it clamps of its own"}
          </Button>
        </>
      )}
    </>
  );
}

/** The switch to the planner, and what it may use; the same for every op. */
function PlannerPicks() {
  const { here, change, mayEdit } = useEditor();
  const first = here.shown.held[0];
  const every = useCatalogue().data?.offered ?? [];
  if (!first) return null;
  const { at, station } = first;
  const offered: string[] = station.offered ?? [];
  return (
    <div className="wide">
      <FormControlLabel
        control={
          <Switch
            checked={station.by_planner ?? false}
            disabled={!mayEdit}
            onChange={(_event, on) => change(`${at}.by_planner`, on)}
            name={`${at}.by_planner`}
          />
        }
        label="The planner picks kind, number and torque"
      />
      {station.by_planner && (
        <div
          className="grid above-4 two-columns"

          role="group"
          aria-label="The planner may use"
        >
          {every.map((item) => (
            <FormControlLabel
              key={item}
              label={item}
              control={
                <Checkbox
                  size="small"
                  checked={offered.includes(item)}
                  disabled={!mayEdit || (offered.length === 1 && offered[0] === item)}
                  onChange={(_event, on) =>
                    change(
                      `${at}.offered`,
                      every.filter((other) => (other === item ? on : offered.includes(other))),
                    )
                  }
                />
              }
            />
          ))}
        </div>
      )}
    </div>
  );
}

function OneStation({ op: { at, station } }: { op: Held }) {
  const { change, mayEdit } = useEditor();
  const stored = useStored();
  const picks = useCatalogue().data;
  const kind = station.element?.kind ?? "edge clamp";
  const how = station.sharing?.how ?? "a clamp each";
  const stops = picks?.stops ?? [];
  const edges = (picks?.edge_clamps ?? []).map((item) => ({ ...item, element: { kind: "edge clamp" } as const }));
  const clamps = [...edges, ...(picks?.elements ?? [])];
  // Picked from the shop, and still as the shop has it in the sizes that matter here.
  const clamp = clamps.find(
    (item) =>
      item.element.kind === kind &&
      item.clamp.screw === station.clamp.screw &&
      item.clamp.width_mm === station.clamp.width_mm &&
      item.clamp.height_mm === station.clamp.height_mm &&
      item.clamp.length_mm === station.clamp.length_mm,
  );
  const stop = stops.find(
    (item) =>
      item.stops.length_mm === station.stops?.length_mm &&
      item.stops.height_mm === station.stops?.height_mm &&
      item.stops.thickness_mm === station.stops?.thickness_mm,
  );
  const named = (items: { name: string }[]) => items.map((item) => ({ value: item.name, label: item.name }));
  const turns = [...(station.turns ?? [])].sort((a, b) => a - b).join(",");
  const known = picks?.element_kinds ?? [];
  const about = known.find((item) => item.kind === kind);
  const toe = about?.toe ?? false;
  const shared = how !== "a clamp each";
  return (
    <>
      <div className="wide">
        <Choice
          label="Clamp of the shop"
          name={`${at}.clamp`}
          value={clamp?.name ?? OWN}
          options={[...named(clamps), ...(clamp ? [] : [{ value: OWN, label: `${kind}, ${OWN}` }])]}
          disabled={!mayEdit}
          store={(value) => {
            const chosen = clamps.find((item) => item.name === value);
            if (!chosen) return;
            const of = known.find((item) => item.kind === chosen.element.kind);
            const sharing = { ...station.sharing, how: of?.toe ? how : "a clamp each" };
            change(at, {
              ...station,
              by_planner: false,
              clamp: chosen.clamp,
              element: chosen.element,
              clamps: of?.alone ? 1 : station.clamps,
              sharing,
            });
          }}
        />
      </div>
      {toe && (
        <div className="wide">
          <Choice
            label="Parts and clamps"
            name={`${at}.sharing.how`}
            value={how}
            options={SHARING}
            disabled={!mayEdit}
            store={(value) =>
              change(at, {
                ...station,
                clamps: value === "one clamp for two" || value === "row between jaws" ? 1 : (station.clamps ?? 1),
                sharing: { ...station.sharing, how: value },
              })
            }
          />
        </div>
      )}
      {how === "double wedge between two" && (
        <>
          <Field label="Wedge angle, °" {...stored(`${at}.sharing.wedge_angle_deg`)} />
          <Field label="Friction at its flanks" {...stored(`${at}.sharing.wedge_friction_high`)} />
        </>
      )}
      {how === "row between jaws" && (
        <>
          <FormControlLabel
            className="wide"
            label="Each stands against its neighbour instead of a stop: errors add up along the row"
            control={
              <Switch
                checked={station.sharing?.against_neighbour ?? false}
                disabled={!mayEdit}
                onChange={(_event, on) => change(`${at}.sharing.against_neighbour`, on)}
                name={`${at}.sharing.against_neighbour`}
              />
            }
          />
          <Choice
            label="Parts in the row"
            name={`${at}.sharing.row`}
            value={String(station.sharing?.row ?? 3)}
            options={["2", "3", "4", "5", "6", "8", "10", "12"].map((n) => ({ value: n, label: n }))}
            disabled={!mayEdit}
            store={(value) => change(`${at}.sharing.row`, Number(value))}
          />
          <Field label="Moving jaw, thickness" {...stored(`${at}.sharing.jaw_mm`, "mm")} />
        </>
      )}
      {about?.driven && (
        <>
          <Choice
            label="Clamp screw"
            name={`${at}.clamp.screw`}
            value={station.clamp.screw ?? "M8"}
            options={(picks?.screws ?? [{ size: "M8", rated_torque_nm: 0 }]).map((screw) => ({
              value: screw.size,
              label: screw.size,
            }))}
            disabled={!mayEdit}
            store={(value) => change(`${at}.clamp.screw`, value)}
          />
          <Field label="Screw torque" {...stored(`${at}.clamp.torque_nm`, "N·m")} />
        </>
      )}
      {(!shared || how === "double wedge between two") && about && !about.alone ? (
        <Choice
          label="Clamps per station"
          name={`${at}.clamps`}
          value={String(station.clamps ?? 1)}
          options={["1", "2", "3"].map((n) => ({ value: n, label: n }))}
          disabled={!mayEdit}
          store={(value) => change(`${at}.clamps`, Number(value))}
        />
      ) : null}
      <Field label="Clearance between stations" {...stored(`${at}.clearance_mm`, "mm")} />
      {(about?.fields ?? []).map(({ name, title, unit }) => (
        <Field key={name} label={title} {...stored(`${at}.element.${name}`, unit)} />
      ))}
      {about?.beside && (
        <>
          <Field label="Clamp width" {...stored(`${at}.clamp.width_mm`, "mm")} />
          <Field label="Clamp length" {...stored(`${at}.clamp.length_mm`, "mm")} />
          <Field label="Clamp height" {...stored(`${at}.clamp.height_mm`, "mm")} />
          <Field label="Force on the part per screw force" {...stored(`${at}.clamp.transmission`)} />
          <Field label="Draws back by" {...stored(`${at}.clamp.opens_mm`, "mm")} />
        </>
      )}
      {toe && (
        <>
          <Field label="Toe above the plate" {...stored(`${at}.clamp.toe_height_mm`, "mm")} />
          {!about?.bites && <Field label="Friction at the toe" {...stored(`${at}.clamp.toe_friction`)} />}
          <Field label="Toe's land, height" {...stored(`${at}.clamp.toe_land_mm`, "mm")} />
          <Field label="Toe hollowed to radius" {...stored(`${at}.clamp.toe_hollow_mm`, "mm")} />
        </>
      )}
      {about?.locates ? (
        <p className="quiet wide">The part is located by what clamps it, {about.locates}: no stops stand round it.</p>
      ) : (
        <>
          <h2>Stops</h2>
          <div className="wide">
            <Choice
              label="Stop of the shop"
              name={`${at}.stops`}
              value={stop?.name ?? OWN}
              options={[...named(stops), ...(stop ? [] : [{ value: OWN, label: OWN }])]}
              disabled={!mayEdit}
              store={(value) => change(`${at}.stops`, stops.find((item) => item.name === value)?.stops)}
            />
          </div>
          <Field label="Stop length" {...stored(`${at}.stops.length_mm`, "mm")} />
          <Field label="Stop height" {...stored(`${at}.stops.height_mm`, "mm")} />
          <Field label="Stop thickness" {...stored(`${at}.stops.thickness_mm`, "mm")} />
          <Field label="Friction at the stops" {...stored(`${at}.stops.friction`)} />
          <Field label="Stops hollowed to radius" {...stored(`${at}.stops.hollow_mm`, "mm")} />
        </>
      )}
      <div className="wide">
        <Choice
          label="Turns allowed"
          name={`${at}.turns`}
          value={turns}
          options={[
            { value: "0,90,180,270", label: "All quarter turns" },
            { value: "0,180", label: "As drawn and half turn" },
            { value: "0", label: "As drawn only" },
            { value: "90", label: "Quarter turn only" },
          ]}
          disabled={!mayEdit}
          store={(value) => change(`${at}.turns`, value.split(",").map(Number))}
        />
      </div>
    </>
  );
}
