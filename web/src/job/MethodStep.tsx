import { Button } from "@mui/material";

import { useCatalogue } from "../api/queries";
import type { KeepOut } from "../api/types";
import { PlateDrawing } from "../layout/PlateDrawing";
import { Choice, Field } from "../ui/Field";
import { useEditor, useStored } from "./editor";

const OWN = "own values";

export function MethodStep() {
  const { request, change, mayEdit } = useEditor();
  const stored = useStored();
  const picks = useCatalogue().data;
  const machines = picks?.machines ?? [];
  const plates = picks?.plates ?? [];
  const keepouts = request.plate.keepouts ?? [];
  const machine = machines.find((item) => item.name === request.machine.name);
  const plate = plates.find((item) => item.name === request.plate.name);
  const clamps = picks?.edge_clamps ?? [];
  const stops = picks?.stops ?? [];
  // Picked from the shop, and still as the shop has it in the sizes that matter here.
  const clamp = clamps.find((item) => item.clamp.screw === request.station.clamp.screw && item.clamp.width_mm === request.station.clamp.width_mm && item.clamp.height_mm === request.station.clamp.height_mm && item.clamp.length_mm === request.station.clamp.length_mm);
  const stop = stops.find((item) => item.stops.length_mm === request.station.stops?.length_mm && item.stops.height_mm === request.station.stops?.height_mm && item.stops.thickness_mm === request.station.stops?.thickness_mm);
  const named = (items: { name: string }[]) => items.map((item) => ({ value: item.name, label: item.name }));
  const ownMachine = machine ? [] : [{ value: OWN, label: request.machine.name }];
  const ownPlate = plate ? [] : [{ value: OWN, label: request.plate.name ?? "Plate" }];
  const how = request.station.sharing?.how ?? "a clamp each";
  const turns = [...(request.station.turns ?? [])].sort((a, b) => a - b).join(",");
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>Laid out on the plate</h2>
          <div className="wide">
            <Choice label="Part and op" name="planned" value={`${String(request.planned?.part ?? 0)} ${String(request.planned?.op ?? 0)}`}
              options={request.parts.flatMap((part, p) => (part.ops ?? []).map((op, o) => ({ value: `${String(p)} ${String(o)}`, label: `${part.name}, op ${String(op.number)}, ${op.up ?? "+Z"} up` })))}
              disabled={!mayEdit} store={(value) => change("planned", { part: Number(value.split(" ")[0]), op: Number(value.split(" ")[1]) })} />
          </div>
          <div className="wide">
            <Also />
          </div>
          <div className="wide"><Choice label="Faces" name="block.faces" value={String(request.block?.faces ?? 1)} options={FACES} disabled={!mayEdit} store={(value) => change("block.faces", Number(value))} /></div>
          {(request.block?.faces ?? 1) > 1 && <Field label="Block without plates" {...stored("block.body_kg", "kg")} />}
          <h2>Machine</h2>
          <div className="wide">
            <Choice label="Machine" name="machine" value={machine?.name ?? OWN} options={[...named(machines), ...ownMachine]} disabled={!mayEdit}
              store={(value) => change("machine", machines.find((item) => item.name === value))} />
          </div>
          <Field label="Travel X" {...stored("machine.travel_x_mm", "mm")} />
          <Field label="Travel Y" {...stored("machine.travel_y_mm", "mm")} />
          <Field label="Table or pallet load" {...stored("machine.table_load_kg", "kg")} />
          <Field label="Spindle power, kW" {...stored("machine.spindle_power_kw")} />
          <Field label="Positioning, ±" {...stored("machine.positioning_mm", "mm")} />
          <Field label="and per metre, ±" {...stored("machine.positioning_per_m_mm", "mm")} />
          <h2>Plate</h2>
          <div className="wide">
            <Choice label="Plate" name="plate" value={plate?.name ?? OWN} options={[...named(plates), ...ownPlate]} disabled={!mayEdit}
              store={(value) => change("plate", plates.find((item) => item.name === value))} />
          </div>
          <Field label="Width" {...stored("plate.width_mm", "mm")} />
          <Field label="Depth" {...stored("plate.depth_mm", "mm")} />
          <Field label="Thickness" {...stored("plate.thickness_mm", "mm")} />
          <Field label="Margin" {...stored("plate.margin_mm", "mm")} />
          <div className="wide">
            <KeepOuts keepouts={keepouts} mayEdit={mayEdit} change={(list) => change("plate.keepouts", list)} />
          </div>
          <h2>Station: stops and edge clamps</h2>
          <div className="wide">
            <Choice label="Parts and clamps" name="station.sharing.how" value={how} options={SHARING} disabled={!mayEdit}
              store={(value) => change("station", { ...request.station, clamps: value === "one clamp for two" || value === "row between jaws" ? 1 : (request.station.clamps ?? 1), sharing: { ...request.station.sharing, how: value } })} />
          </div>
          {how === "double wedge between two" && (
            <>
              <Field label="Wedge angle, °" {...stored("station.sharing.wedge_angle_deg")} />
              <Field label="Friction at its flanks" {...stored("station.sharing.wedge_friction_high")} />
            </>
          )}
          {how === "row between jaws" && (
            <>
              <Choice label="Parts in the row" name="station.sharing.row" value={String(request.station.sharing?.row ?? 3)} options={["2", "3", "4", "5", "6", "8", "10", "12"].map((n) => ({ value: n, label: n }))}
                disabled={!mayEdit} store={(value) => change("station.sharing.row", Number(value))} />
              <Field label="Moving jaw, thickness" {...stored("station.sharing.jaw_mm", "mm")} />
            </>
          )}
          <Choice label="Clamp of the shop" name="station.clamp" value={clamp?.name ?? OWN} options={[...named(clamps), ...(clamp ? [] : [{ value: OWN, label: OWN }])]} disabled={!mayEdit}
            store={(value) => change("station.clamp", clamps.find((item) => item.name === value)?.clamp)} />
          <Choice label="Stop of the shop" name="station.stops" value={stop?.name ?? OWN} options={[...named(stops), ...(stop ? [] : [{ value: OWN, label: OWN }])]} disabled={!mayEdit}
            store={(value) => change("station.stops", stops.find((item) => item.name === value)?.stops)} />
          <Choice label="Clamp screw" name="station.clamp.screw" value={request.station.clamp.screw ?? "M8"}
            options={(picks?.screws ?? [{ size: "M8", rated_torque_nm: 0 }]).map((screw) => ({ value: screw.size, label: screw.size }))}
            disabled={!mayEdit} store={(value) => change("station.clamp.screw", value)} />
          <Field label="Screw torque" {...stored("station.clamp.torque_nm", "N·m")} />
          {how === "a clamp each" || how === "double wedge between two" ? (
            <Choice label="Clamps per station" name="station.clamps" value={String(request.station.clamps ?? 1)} options={["1", "2", "3"].map((n) => ({ value: n, label: n }))}
              disabled={!mayEdit} store={(value) => change("station.clamps", Number(value))} />
          ) : null}
          <Field label="Clearance between stations" {...stored("station.clearance_mm", "mm")} />
          <Field label="Clamp width" {...stored("station.clamp.width_mm", "mm")} />
          <Field label="Clamp length" {...stored("station.clamp.length_mm", "mm")} />
          <Field label="Clamp height" {...stored("station.clamp.height_mm", "mm")} />
          <Field label="Toe above the plate" {...stored("station.clamp.toe_height_mm", "mm")} />
          <Field label="Toe force per screw force" {...stored("station.clamp.transmission")} />
          <Field label="Friction at the toe" {...stored("station.clamp.toe_friction")} />
          <Field label="Toe's land, height" {...stored("station.clamp.toe_land_mm", "mm")} />
          <Field label="Toe hollowed to radius" {...stored("station.clamp.toe_hollow_mm", "mm")} />
          <Field label="Stop length" {...stored("station.stops.length_mm", "mm")} />
          <Field label="Stop height" {...stored("station.stops.height_mm", "mm")} />
          <Field label="Stop thickness" {...stored("station.stops.thickness_mm", "mm")} />
          <Field label="Friction at the stops" {...stored("station.stops.friction")} />
          <Field label="Stops hollowed to radius" {...stored("station.stops.hollow_mm", "mm")} />
          <div className="wide">
            <Choice label="Turns allowed" name="station.turns" value={turns}
              options={[
                { value: "0,90,180,270", label: "All quarter turns" },
                { value: "0,180", label: "As drawn and half turn" },
                { value: "0", label: "As drawn only" },
                { value: "90", label: "Quarter turn only" },
              ]}
              disabled={!mayEdit} store={(value) => change("station.turns", value.split(",").map(Number))} />
          </div>
          <h2>House rules</h2>
          <Field label="Clamping factor needed" {...stored("rules.safety_factor")} />
          <Field label="when interrupted" {...stored("rules.safety_factor_interrupted")} />
        </div>
      </div>
      <div className="picture">
        <PlateDrawing request={request} design={null} />
        <p className="quiet">Values of machines and clamps are the builder's: enter yours. Screws not above their rated torque.</p>
      </div>
    </div>
  );
}

const SHARING = [
  { value: "a clamp each", label: "A clamp for each part" },
  { value: "double wedge between two", label: "Two parts, a double wedge between them" },
  { value: "one clamp for two", label: "Two parts side by side, one rocking toe for both" },
  { value: "row between jaws", label: "A row of parts between two jaws" },
];

const FACES = [
  { value: "1", label: "One plate, lying on the table" },
  ...[2, 3, 4, 5, 6, 8].map((count) => ({ value: String(count), label: `${String(count)} plates round an upright block` })),
];

/** Further ops on the same faces: of the same part for complete parts at every door opening, of other parts for kits. */
function Also() {
  const { request, change, mayEdit } = useEditor();
  const also = request.also ?? [];
  const taken = new Set([request.planned, ...also].map((item) => `${String(item?.part ?? 0)} ${String(item?.op ?? 0)}`));
  const every = request.parts.flatMap((part, p) => (part.ops ?? []).map((op, o) => ({ value: `${String(p)} ${String(o)}`, label: `${part.name}, op ${String(op.number)}` })));
  const free = every.filter((item) => !taken.has(item.value));
  if (every.length < 2) return null;
  return (
    <div style={{ display: "flex", flexDirection: "column", gap: 6 }}>
      {also.map((item, index) => (
        <p key={index} style={{ display: "flex", alignItems: "center", gap: 8 }}>
          <span style={{ flex: 1 }}>with {every.find((other) => other.value === `${String(item.part ?? 0)} ${String(item.op ?? 0)}`)?.label}</span>
          <Button size="small" disabled={!mayEdit} onClick={() => change("also", also.filter((_unused, other) => other !== index))}>
            Take out
          </Button>
        </p>
      ))}
      {free.length > 0 && (
        <Choice label="Plan together with" name="also" value="" options={[{ value: "", label: also.length > 0 ? "one more" : "nothing else" }, ...free]} disabled={!mayEdit}
          store={(value) => value && change("also", [...also, { part: Number(value.split(" ")[0]), op: Number(value.split(" ")[1]) }])} />
      )}
      {also.length > 0 && <p className="quiet" style={{ fontSize: 13 }}>Counted in {new Set([request.planned?.part ?? 0, ...also.map((item) => item.part ?? 0)]).size > 1 ? "kits: every part in its number" : "complete parts: as many stations of each op, so finished parts come off at every door opening"}.</p>}
    </div>
  );
}

function KeepOuts({ keepouts, mayEdit, change }: { keepouts: KeepOut[]; mayEdit: boolean; change: (list: KeepOut[]) => void }) {
  const stored = useStored();
  return (
    <div>
      <p style={{ marginBottom: 8 }}>Keep-outs: hold-down screws and whatever else stands on the plate</p>
      {keepouts.map((_, index) => (
        <div key={index} style={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr auto", gap: 6, marginBottom: 8 }}>
          <Field label="X" {...stored(`plate.keepouts.${String(index)}.x_mm`, "mm")} />
          <Field label="Y" {...stored(`plate.keepouts.${String(index)}.y_mm`, "mm")} />
          <Field label="Diameter" {...stored(`plate.keepouts.${String(index)}.width_mm`, "mm")} />
          <Button disabled={!mayEdit} onClick={() => change(keepouts.filter((_unused, other) => other !== index))} aria-label={`Remove keep-out ${String(index + 1)}`}>
            Remove
          </Button>
        </div>
      ))}
      <Button variant="outlined" disabled={!mayEdit} onClick={() => change([...keepouts, { shape: "round", x_mm: 50, y_mm: 50, width_mm: 18, depth_mm: null, height_mm: 10 }])}>
        Add keep-out
      </Button>
    </div>
  );
}
