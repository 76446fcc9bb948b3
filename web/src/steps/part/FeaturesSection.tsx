/** The features that matter: what, where, how tight, measured from what, cut in which op, reachable from which sides. */
import { Button } from "@mui/material";

import { useCatalogue } from "../../api/queries";
import type { Feature, Part, PartFacts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Cell, Pick } from "../../ui/Cell";
import { Said } from "../../ui/Said";
import { useUnits } from "../../ui/units";
import { PartDrawing } from "../../drawing/PartDrawing";

const SIDES = ["+Z", "-Z", "+X", "-X", "+Y", "-Y"] as const;
type Side = (typeof SIDES)[number];

export function FeaturesSection({ index, part, facts }: { index: number; part: Part; facts: PartFacts }) {
  const { change, errors, mayEdit } = useEditor();
  const { figure } = useUnits();
  const picks = useCatalogue().data;
  const start = picks?.feature;
  const kinds = (picks?.tolerance_kinds ?? []).map(({ kind, label }) => ({ value: kind, label }));
  const features = part.features ?? [];
  const at = `job.parts.${String(index)}.features`;
  const ops = (part.ops ?? []).map((op) => ({
    value: String(op.number ?? 10),
    label: `op ${String(op.number ?? 10)}`,
  }));
  const fresh = (): Feature | null => {
    if (!start) return null;
    let number = features.length + 1;
    while (features.some((item) => item.name === `Feature ${String(number)}`)) number += 1;
    return { ...start, name: `Feature ${String(number)}`, op: part.ops?.[0]?.number ?? 10 };
  };
  return (
    <div className="step">
      <div className="scroll pad half-high pad-under-8">
        <table className="sheet" aria-label="Features and tolerances">
          <thead>
            <tr>
              <th>Feature</th>
              <th>Kind</th>
              <th className="num">Tolerance</th>
              <th className="num">X</th>
              <th className="num">Y</th>
              <th className="num">Z</th>
              <th>Measured from</th>
              <th>Op</th>
              <th>A tool can come from</th>
              <th>Faces it cuts</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {features.map((feature, number) => {
              const here = `${at}.${String(number)}`;
              const cell = (field: string, label: string, unit = "", width: number | string = 64) => (
                <Cell
                  label={`${feature.name}, ${label}`}
                  name={`${here}.${field}`}
                  value={feature[field as keyof Feature] as number | null}
                  unit={unit}
                  width={width}
                  disabled={!mayEdit}
                  error={errors[`${here}.${field}`]}
                  store={(value) => change(`${here}.${field}`, value)}
                />
              );
              return (
                <tr key={number}>
                  <td>
                    <Cell
                      label={`Name of feature ${String(number + 1)}`}
                      name={`${here}.name`}
                      value={feature.name}
                      text
                      width={170}
                      disabled={!mayEdit}
                      error={errors[`${here}.name`]}
                      store={(value) => change(`${here}.name`, value)}
                    />
                  </td>
                  <td>
                    <Pick
                      label={`${feature.name}, kind`}
                      name={`${here}.kind`}
                      value={feature.kind ?? "position"}
                      options={kinds}
                      width={104}
                      disabled={!mayEdit}
                      store={(value) => change(`${here}.kind`, value)}
                    />
                  </td>
                  <td>{cell("tolerance_mm", "tolerance", "mm", 70)}</td>
                  <td>{cell("x_mm", "X", "mm")}</td>
                  <td>{cell("y_mm", "Y", "mm")}</td>
                  <td>{cell("z_mm", "Z", "mm")}</td>
                  <td>
                    <From
                      feature={feature}
                      features={features}
                      name={`${here}.from`}
                      disabled={!mayEdit}
                      store={(next) => change(here, next)}
                    />
                  </td>
                  <td>
                    <Pick
                      label={`${feature.name}, op`}
                      name={`${here}.op`}
                      value={String(feature.op ?? 10)}
                      options={ops}
                      width={74}
                      disabled={!mayEdit}
                      store={(value) => change(`${here}.op`, Number(value))}
                    />
                  </td>
                  <td>
                    <Sides
                      label={`${feature.name}, sides a tool can come from`}
                      chosen={feature.directions ?? ["+Z"]}
                      disabled={!mayEdit}
                      least={1}
                      store={(sides) => change(`${here}.directions`, sides)}
                    />
                  </td>
                  <td>
                    <Sides
                      label={`${feature.name}, faces it cuts`}
                      chosen={feature.takes ?? []}
                      disabled={!mayEdit}
                      least={0}
                      store={(sides) => change(`${here}.takes`, sides)}
                    />
                  </td>
                  <td>
                    {mayEdit && (
                      <Button
                        size="small"
                        onClick={() =>
                          change(
                            at,
                            features.filter((_unused, other) => other !== number),
                          )
                        }
                        aria-label={`Remove ${feature.name}`}
                      >
                        Remove
                      </Button>
                    )}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        {features.length === 0 && (
          <p className="above-10 under-10">
            No feature yet. Enter what the drawing holds tight, and what every setup must reach.
          </p>
        )}
        <div className="flex gap-14 above-10 middle may-wrap">
          {mayEdit && (
            <Button
              variant="outlined"
              onClick={() => {
                const made = fresh();
                if (made) change(at, [...features, made]);
              }}
            >
              Add a feature
            </Button>
          )}
          {mayEdit &&
            facts.round_holes
              .filter(
                (hole) =>
                  !features.some(
                    (item) => Math.hypot((item.x_mm ?? 0) - hole.x_mm, (item.y_mm ?? 0) - hole.y_mm) < 0.05,
                  ),
              )
              .slice(0, 6)
              .map((hole) => (
                <Button
                  key={`${String(hole.x_mm)} ${String(hole.y_mm)}`}
                  variant="text"
                  onClick={() => {
                    const made = fresh();
                    if (made)
                      change(at, [
                        ...features,
                        {
                          ...made,
                          name: `Hole ${hole.diameter_mm.toFixed(1)} at ${hole.x_mm.toFixed(0)}, ${hole.y_mm.toFixed(0)}`,
                          x_mm: Number(hole.x_mm.toFixed(4)),
                          y_mm: Number(hole.y_mm.toFixed(4)),
                          directions: ["+Z", "-Z"],
                        },
                      ]);
                  }}
                >
                  Add hole <span className="mono">&nbsp;⌀{figure(hole.diameter_mm, "mm", 2)}</span>
                </Button>
              ))}
        </div>
        {[
          ...new Set([
            ...facts.problems,
            ...Object.entries(errors)
              .filter(([key]) => key.startsWith(at))
              .map(([, text]) => text),
          ]),
        ].map((text) => (
          <p key={text} className="problem-list above-6" role="alert">
            <Said text={text} />
          </p>
        ))}
      </div>
      <div className="picture grow flex least-240 pad-sides pad-under-8">
        <PartDrawing part={part} facts={facts} />
      </div>
    </div>
  );
}

function From({
  feature,
  features,
  name,
  disabled,
  store,
}: {
  feature: Feature;
  features: Feature[];
  name: string;
  disabled: boolean;
  store: (next: Feature) => void;
}) {
  const value =
    feature.measured_from === "feature"
      ? `feature ${feature.from_feature ?? ""}`
      : feature.measured_from === "face"
        ? `face ${feature.from_face ?? ""}`
        : "fixture datum";
  const options = [
    { value: "fixture datum", label: "fixture datum" },
    ...features
      .filter((item) => item.name !== feature.name)
      .map((item) => ({ value: `feature ${item.name}`, label: item.name })),
    ...SIDES.map((side) => ({ value: `face ${side}`, label: `face ${side}` })),
  ];
  return (
    <Pick
      label={`${feature.name}, measured from`}
      name={name}
      value={value}
      options={options}
      width={150}
      disabled={disabled}
      store={(text) => {
        if (text === "fixture datum")
          store({ ...feature, measured_from: "fixture datum", from_feature: null, from_face: null });
        else if (text.startsWith("face "))
          store({ ...feature, measured_from: "face", from_feature: null, from_face: text.slice(5) as Side });
        else store({ ...feature, measured_from: "feature", from_feature: text.slice(8), from_face: null });
      }}
    />
  );
}

function Sides({
  label,
  chosen,
  disabled,
  least,
  store,
}: {
  label: string;
  chosen: readonly Side[];
  disabled: boolean;
  least: number;
  store: (sides: Side[]) => void;
}) {
  return (
    <span role="group" aria-label={label} className="inline-flex gap-2 pad-beside">
      {SIDES.map((side) => {
        const on = chosen.includes(side);
        const next = on
          ? chosen.filter((item) => item !== side)
          : SIDES.filter((item) => item === side || chosen.includes(item));
        return (
          <button
            key={side}
            type="button"
            className="side"
            aria-pressed={on}
            aria-label={side}
            disabled={disabled || next.length < least}
            onClick={() => store([...next])}
          >
            {side}
          </button>
        );
      })}
    </span>
  );
}
