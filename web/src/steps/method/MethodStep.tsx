import { Button } from "@mui/material";

import { useCatalogue } from "../../api/queries";
import type { KeepOut } from "../../api/types";
import { PlateDrawing } from "../../drawing/PlateDrawing";
import { Choice, Field } from "../../ui/Field";
import { useEditor, useStored } from "../../editing/editor";
import { StationFields } from "./StationFields";

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
  const named = (items: { name: string }[]) => items.map((item) => ({ value: item.name, label: item.name }));
  const ownMachine = machine ? [] : [{ value: OWN, label: request.machine.name }];
  const ownPlate = plate ? [] : [{ value: OWN, label: request.plate.name ?? "Plate" }];
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>Laid out on the plate</h2>
          <div className="wide">
            <Choice
              label="Part and op"
              name="planned"
              value={`${String(request.planned?.part ?? 0)} ${String(request.planned?.op ?? 0)}`}
              options={request.parts.flatMap((part, p) =>
                (part.ops ?? []).map((op, o) => ({
                  value: `${String(p)} ${String(o)}`,
                  label: `${part.name}, op ${String(op.number)}, ${op.up ?? "+Z"} up`,
                })),
              )}
              disabled={!mayEdit}
              store={(value) =>
                change("planned", { part: Number(value.split(" ")[0]), op: Number(value.split(" ")[1]) })
              }
            />
          </div>
          <div className="wide">
            <Also />
          </div>
          <div className="wide">
            <Choice
              label="Faces"
              name="block.faces"
              value={String(request.block?.faces ?? 1)}
              options={FACES}
              disabled={!mayEdit}
              store={(value) => change("block.faces", Number(value))}
            />
          </div>
          {(request.block?.faces ?? 1) > 1 && (
            <>
              <Choice
                label="It stands"
                name="block.axis"
                value={request.block?.axis ?? "upright"}
                options={AXES}
                disabled={!mayEdit}
                store={(value) => change("block.axis", value)}
              />
              <Field label="Block without plates" {...stored("block.body_kg", "kg")} />
              <Field label="Block, across" {...stored("block.across_mm", "mm")} help="for what it gives; 0 unknown" />
              <Field label="Its wall, 0 solid" {...stored("block.wall_mm", "mm")} />
              <Field label="Joint, N·m per mrad, 0 stiff" {...stored("block.joint_nm_per_mrad")} />
              {request.block?.axis === "lying" && (
                <Choice
                  label="Far end"
                  name="block.tail"
                  value={request.block.tail ? "tail" : "free"}
                  options={TAILS}
                  disabled={!mayEdit}
                  store={(value) => change("block.tail", value === "tail")}
                />
              )}
            </>
          )}
          <h2>Machine</h2>
          <div className="wide">
            <Choice
              label="Machine"
              name="machine"
              value={machine?.name ?? OWN}
              options={[...named(machines), ...ownMachine]}
              disabled={!mayEdit}
              store={(value) =>
                change(
                  "machine",
                  machines.find((item) => item.name === value),
                )
              }
            />
          </div>
          <Field label="Travel X" {...stored("machine.travel_x_mm", "mm")} />
          <Field label="Travel Y" {...stored("machine.travel_y_mm", "mm")} />
          <Field label="Table or pallet load" {...stored("machine.table_load_kg", "kg")} />
          <Field label="Spindle power, kW" {...stored("machine.spindle_power_kw")} />
          <Field label="Positioning, ±" {...stored("machine.positioning_mm", "mm")} />
          <Field label="and per metre, ±" {...stored("machine.positioning_per_m_mm", "mm")} />
          <h2>Plate</h2>
          <div className="wide">
            <Choice
              label="Plate"
              name="plate"
              value={plate?.name ?? OWN}
              options={[...named(plates), ...ownPlate]}
              disabled={!mayEdit}
              store={(value) =>
                change(
                  "plate",
                  plates.find((item) => item.name === value),
                )
              }
            />
          </div>
          <Field label="Width" {...stored("plate.width_mm", "mm")} />
          <Field label="Depth" {...stored("plate.depth_mm", "mm")} />
          <Field label="Thickness" {...stored("plate.thickness_mm", "mm")} />
          <Field label="Margin" {...stored("plate.margin_mm", "mm")} />
          <div className="wide">
            <KeepOuts keepouts={keepouts} mayEdit={mayEdit} change={(list) => change("plate.keepouts", list)} />
          </div>
          <StationFields />
          <h2>House rules</h2>
          <Field label="Clamping factor needed" {...stored("rules.safety_factor")} />
          <Field label="when interrupted" {...stored("rules.safety_factor_interrupted")} />
          <Field label="Least grip in a vise" {...stored("rules.least_grip_mm", "mm")} />
        </div>
      </div>
      <div className="picture">
        <PlateDrawing request={request} design={null} />
        <p className="quiet">
          Values of machines and clamps are the builder's: enter yours. Screws not above their rated torque.
        </p>
      </div>
    </div>
  );
}

const AXES = [
  { value: "upright", label: "Upright, a tombstone on a pallet" },
  { value: "lying", label: "Lying, a bar on a rotary" },
];

const TAILS = [
  { value: "free", label: "Free" },
  { value: "tail", label: "In a tail support" },
];

const FACES = [
  { value: "1", label: "One plate, lying on the table" },
  ...[2, 3, 4, 5, 6, 8].map((count) => ({ value: String(count), label: `${String(count)} plates round a block` })),
];

/** Further ops on the same faces: of the same part for complete parts at every door opening, of other parts for kits. */
function Also() {
  const { request, change, mayEdit } = useEditor();
  const also = request.also ?? [];
  const taken = new Set(
    [request.planned, ...also].map((item) => `${String(item?.part ?? 0)} ${String(item?.op ?? 0)}`),
  );
  const every = request.parts.flatMap((part, p) =>
    (part.ops ?? []).map((op, o) => ({
      value: `${String(p)} ${String(o)}`,
      label: `${part.name}, op ${String(op.number)}`,
    })),
  );
  const free = every.filter((item) => !taken.has(item.value));
  if (every.length < 2) return null;
  return (
    <div style={{ display: "flex", flexDirection: "column", gap: 6 }}>
      {also.map((item, index) => (
        <p key={index} style={{ display: "flex", alignItems: "center", gap: 8 }}>
          <span style={{ flex: 1 }}>
            with {every.find((other) => other.value === `${String(item.part ?? 0)} ${String(item.op ?? 0)}`)?.label}
          </span>
          <Button
            size="small"
            disabled={!mayEdit}
            onClick={() =>
              change(
                "also",
                also.filter((_unused, other) => other !== index),
              )
            }
          >
            Take out
          </Button>
        </p>
      ))}
      {free.length > 0 && (
        <Choice
          label="Plan together with"
          name="also"
          value=""
          options={[{ value: "", label: also.length > 0 ? "one more" : "nothing else" }, ...free]}
          disabled={!mayEdit}
          store={(value) =>
            value && change("also", [...also, { part: Number(value.split(" ")[0]), op: Number(value.split(" ")[1]) }])
          }
        />
      )}
      {also.length > 0 && (
        <p className="quiet" style={{ fontSize: 13 }}>
          Counted in{" "}
          {new Set([request.planned?.part ?? 0, ...also.map((item) => item.part ?? 0)]).size > 1
            ? "kits: every part in its number"
            : "complete parts: as many stations of each op, so finished parts come off at every door opening"}
          .
        </p>
      )}
    </div>
  );
}

function KeepOuts({
  keepouts,
  mayEdit,
  change,
}: {
  keepouts: KeepOut[];
  mayEdit: boolean;
  change: (list: KeepOut[]) => void;
}) {
  const stored = useStored();
  return (
    <div>
      <p style={{ marginBottom: 8 }}>Keep-outs: hold-down screws and whatever else stands on the plate</p>
      {keepouts.map((_, index) => (
        <div key={index} style={{ display: "grid", gridTemplateColumns: "1fr 1fr 1fr auto", gap: 6, marginBottom: 8 }}>
          <Field label="X" {...stored(`plate.keepouts.${String(index)}.x_mm`, "mm")} />
          <Field label="Y" {...stored(`plate.keepouts.${String(index)}.y_mm`, "mm")} />
          <Field label="Diameter" {...stored(`plate.keepouts.${String(index)}.width_mm`, "mm")} />
          <Button
            disabled={!mayEdit}
            onClick={() => change(keepouts.filter((_unused, other) => other !== index))}
            aria-label={`Remove keep-out ${String(index + 1)}`}
          >
            Remove
          </Button>
        </div>
      ))}
      <Button
        variant="outlined"
        disabled={!mayEdit}
        onClick={() =>
          change([...keepouts, { shape: "round", x_mm: 50, y_mm: 50, width_mm: 18, depth_mm: null, height_mm: 10 }])
        }
      >
        Add keep-out
      </Button>
    </div>
  );
}
