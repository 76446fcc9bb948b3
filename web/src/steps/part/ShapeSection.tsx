import { Button } from "@mui/material";

import { useCatalogue, useRemoval } from "../../api/queries";
import type { Part, PartFacts } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { Choice, Field } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { BringIn } from "./BringIn";
import { PartDrawing } from "../../drawing/PartDrawing";
import { DraftAgain } from "./DraftAgain";
import { SHAPES, TypedShape } from "./TypedShape";

export function ShapeSection({ index, part, facts }: { index: number; part: Part; facts: PartFacts }) {
  const { job, parts, change, mayEdit } = useEditor();
  const removal = useRemoval(job.id);
  const stored = useStored();
  const { withUnit } = useUnits();
  const materials = useCatalogue().data?.materials ?? [];
  const at = `job.parts.${String(index)}`;
  const alone = parts.length === 1;
  const known = materials.some((item) => item.id === part.material.id);
  const remove = () => removal.mutate({ part: index });
  return (
    <div className="split">
      <div className="form-side">
        {removal.error && <ProblemNotice error={removal.error} />}
        <div className="form">
          {alone ? (
            <>
              <div className="wide">
                <Field label="Job" {...stored("job.name", "", true)} />
              </div>
              <Field label="Quantity" {...stored("job.quantity")} />
            </>
          ) : (
            <>
              <div className="wide">
                <Field label="Name" {...stored(`${at}.name`, "", true)} />
              </div>
              <Field
                label="In one kit"
                {...stored(`${at}.per_kit`)}
                help={`${String(job.quantity * (part.per_kit ?? 1))} in all`}
              />
              <Field label="Kits" {...stored("job.quantity")} />
            </>
          )}
          <Field label="Height" {...stored(`${at}.height_mm`, "mm")} />
          <div className="wide">
            <Choice
              label="Material"
              name={`${at}.material`}
              value={part.material.id}
              options={[
                ...(known ? [] : [{ value: part.material.id, label: part.material.name }]),
                ...materials.map((item) => ({ value: item.id, label: item.name })),
              ]}
              disabled={!mayEdit}
              store={(value) =>
                change(
                  `${at}.material`,
                  materials.find((item) => item.id === value),
                )
              }
            />
          </div>
          <h2>Bring the part in</h2>
          <div className="wide">
            <BringIn index={index} part={part} />
          </div>
          {mayEdit && (
            <>
              <h2>Have the rest proposed</h2>
              <div className="wide">
                <DraftAgain id={job.id} />
              </div>
            </>
          )}
          <h2>Or type a shape</h2>
          <div className="wide flex may-wrap gap-6">
            {Object.entries(SHAPES).map(([kind, shape]) => (
              <Button
                key={kind}
                variant={part.outline.shape?.kind === kind ? "contained" : "outlined"}
                disabled={!mayEdit}
                onClick={() => change(`${at}`, { ...part, outline: { shape: shape.start }, solid: null, recesses: [] })}
              >
                {shape.label}
              </Button>
            ))}
          </div>
          <TypedShape index={index} part={part} />
          {!alone && mayEdit && (
            <div className="wide above-10">
              <Button color="error" variant="outlined" onClick={remove}>
                Take this part out of the kit
              </Button>
            </div>
          )}
        </div>
      </div>
      <div className="picture" tabIndex={0}>
        <PartDrawing part={part} facts={facts} />
        <div className="facts ruled-above pad-above-8">
          <Fact label="Width" value={withUnit(facts.width_mm, "mm", 2)} />
          <Fact label="Depth" value={withUnit(facts.depth_mm, "mm", 2)} />
          <Fact label="Height" value={withUnit(part.height_mm, "mm", 2)} />
          <Fact label="Area" value={withUnit(facts.area_mm2, "mm²", 0)} />
          <Fact label="Mass" value={withUnit(facts.mass_kg, "kg", 3)} />
          <Fact label="Perimeter" value={withUnit(facts.perimeter_mm, "mm", 1)} />
        </div>
        {part.solid && (
          <p className="small">
            Solid <b>{part.solid.name}</b>: volume{" "}
            <span className="mono">{Math.round(part.solid.volume_mm3).toLocaleString("en-GB")} mm³</span>,{" "}
            {(part.solid.faces ?? []).length} planar faces, {(part.solid.holes ?? []).length} round holes; section at{" "}
            <span className="mono">{withUnit(part.solid.section_mm ?? 0, "mm", 2)}</span> drawn in dashes.
          </p>
        )}
        <p className="quiet small">
          From: {part.outline.origin}. {part.outline.outer.length} points,{" "}
          {(part.outline.holes ?? []).length === 1 ? "1 hole" : `${String((part.outline.holes ?? []).length)} holes`}
          {(part.outline.islands ?? []).length > 0 && `, ${String((part.outline.islands ?? []).length)} islands`}. Seen
          with +Z up; the wedge marks the datum corner, from which places are measured.
        </p>
      </div>
    </div>
  );
}

function Fact({ label, value }: { label: string; value: string }) {
  return (
    <div>
      <div className="label">{label}</div>
      <div className="mono">{value}</div>
    </div>
  );
}
