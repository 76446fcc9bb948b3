/** What an outline in plan does not say: holes that end, pockets, steps and chamfers, from any side. */
import { Button } from "@mui/material";

import type { Part, PartFacts, Recess } from "../../api/types";
import { PartDrawing } from "../../drawing/PartDrawing";
import { useEditor } from "../../editing/editor";
import { Cell, Pick, usePlaces } from "../../ui/Cell";
import { Notice } from "../../ui/Notice";

type Side = NonNullable<Recess["side"]>;
const SIDES = (["+Z", "-Z", "+X", "-X", "+Y", "-Y"] as const).map((side) => ({ value: side, label: side }));
const KINDS = [
  { value: "hole", label: "Hole" },
  { value: "pocket", label: "Pocket or step" },
  { value: "chamfer", label: "Chamfer round the edge" },
];

/** As it starts: in the middle of the side, small. */
function fresh(kind: string, side: Side, width: number, depth: number): Recess {
  if (kind === "chamfer") return { kind: "chamfer", side, width_mm: 1 };
  const [x, y] = [width / 2, depth / 2];
  if (kind === "hole") return { kind: "hole", side, x_mm: x, y_mm: y, diameter_mm: 6, depth_mm: 10, point_deg: null };
  const at: [number, number][] = [
    [0.3 * width, 0.3 * depth],
    [0.7 * width, 0.7 * depth],
  ];
  return { kind: "pocket", side, at, depth_mm: 5, corner_radius_mm: 3 };
}

export function RecessesSection({ index, part, facts }: { index: number; part: Part; facts: PartFacts }) {
  const { change, mayEdit } = useEditor();
  const recesses = part.recesses ?? [];
  const at = `job.parts.${String(index)}.recesses`;
  const made = (kind: string, side: Side = "+Z") => fresh(kind, side, facts.width_mm, facts.depth_mm);
  if (part.solid)
    return (
      <div className="pad">
        <Notice
          kind="info"
          title={`The solid ${part.solid.name} has its own holes and pockets: see Blank to finished.`}
        />
      </div>
    );
  return (
    <div className="step">
      <div className="scroll pad half-high pad-under-8">
        {recesses.length > 0 && (
          <table className="sheet" aria-label="Holes that end, pockets, chamfers">
            <thead>
              <tr>
                <th>What</th>
                <th>From</th>
                <th className="num">X</th>
                <th className="num">Y</th>
                <th className="num">to X</th>
                <th className="num">to Y</th>
                <th className="num">Diameter, width</th>
                <th className="num">Depth</th>
                <th className="num">Corner radius</th>
                <th className="num">Point, °</th>
                <td />
              </tr>
            </thead>
            <tbody>
              {recesses.map((recess, number) => (
                <tr key={number}>
                  <td>
                    <Pick
                      label={`Recess ${String(number + 1)}, kind`}
                      name={`${at}.${String(number)}.kind`}
                      value={recess.kind ?? "hole"}
                      options={KINDS}
                      width={170}
                      disabled={!mayEdit}
                      store={(kind) => change(`${at}.${String(number)}`, made(kind, recess.side))}
                    />
                  </td>
                  <td>
                    <Pick
                      label={`Recess ${String(number + 1)}, side`}
                      name={`${at}.${String(number)}.side`}
                      value={recess.side ?? "+Z"}
                      options={SIDES}
                      width={64}
                      disabled={!mayEdit}
                      store={(side) => change(`${at}.${String(number)}.side`, side)}
                    />
                  </td>
                  <Sizes recess={recess} at={`${at}.${String(number)}`} number={number} />
                  <td>
                    {mayEdit && (
                      <Button
                        size="small"
                        aria-label={`Remove recess ${String(number + 1)}`}
                        onClick={() =>
                          change(
                            at,
                            recesses.filter((_unused, other) => other !== number),
                          )
                        }
                      >
                        Remove
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {recesses.length === 0 && (
          <p className="quiet">
            The part is its outline, through its whole height. A hole that ends, a pocket, a step or a chamfer goes
            here.
          </p>
        )}
        {mayEdit && (
          <div className="flex gap-8 above-8">
            {KINDS.map(({ value, label }) => (
              <Button key={value} variant="outlined" onClick={() => change(at, [...recesses, made(value)])}>
                Add {label.toLowerCase()}
              </Button>
            ))}
          </div>
        )}
        <p className="quiet small">
          Places are measured as the part is seen with that side up, from its datum corner there; depths from that side.
          A hole without a depth goes through; a pocket that runs out over the edge is a step.
        </p>
      </div>
      <div className="picture" tabIndex={0}>
        <PartDrawing part={part} facts={facts} />
      </div>
    </div>
  );
}

/** The sizes a recess has; those it has not stay empty. */
function Sizes({ recess, at, number }: { recess: Recess; at: string; number: number }) {
  const { change, errors, mayEdit } = useEditor();
  const places = usePlaces();
  const cell = (field: string, label: string, value: number | null | undefined, unit = "mm") => (
    <td>
      <Cell
        label={`Recess ${String(number + 1)}, ${label}`}
        name={`${at}.${field}`}
        value={value ?? null}
        unit={unit}
        disabled={!mayEdit}
        error={errors[`${at}.${field}`]}
        store={(next) => change(`${at}.${field}`, next)}
      />
    </td>
  );
  if (recess.kind === "pocket") {
    return (
      <>
        <td colSpan={4}>
          <Cell
            label={`Recess ${String(number + 1)}, corners`}
            name={`${at}.at`}
            value={places.shown(recess.at)}
            text
            width={250}
            disabled={!mayEdit}
            error={errors[`${at}.at`]}
            store={(next) => change(`${at}.at`, places.typed(String(next)))}
          />
        </td>
        <td />
        {cell("depth_mm", "depth", recess.depth_mm)}
        {cell("corner_radius_mm", "corner radius", recess.corner_radius_mm)}
        <td />
      </>
    );
  }
  if (recess.kind === "chamfer")
    return (
      <>
        <td colSpan={4} />
        {cell("width_mm", "width", recess.width_mm)}
        <td colSpan={3} />
      </>
    );
  return (
    <>
      {cell("x_mm", "X", recess.x_mm)}
      {cell("y_mm", "Y", recess.y_mm)}
      <td colSpan={2} />
      {cell("diameter_mm", "diameter", recess.diameter_mm)}
      {cell("depth_mm", "depth", recess.depth_mm)}
      <td />
      {cell("point_deg", "point angle", recess.point_deg, "")}
    </>
  );
}
