/** The part on its locators: move one and see the part go, many times enlarged; its six freedoms in figures. */
import { Button, Slider } from "@mui/material";
import { useState } from "react";

import type { Drawing, Verdicts } from "../../api/types";
import { useEditor, usePlanned } from "../../editing/editor";
import { bounds, path, useScale } from "../../drawing/drawing";
import { Choice } from "../../ui/Field";
import { useUnits } from "../../ui/units";
import { Said } from "../../ui/Said";
import { pen } from "../../ui/pen";

type Scheme = Verdicts["schemes"][number];
type Six = [number, number, number, number, number, number];

const FREEDOMS = ["Slide along X", "Slide along Y", "Lift along Z", "Turn about X", "Turn about Y", "Turn about Z"];
/** What a locator can be moved by, mm. */
const REACH = 0.05;

/** What the locators' errors make of the part: shift of its datum corner and turn, to first order. */
function motion(scheme: Scheme, off: number[]): Six {
  const q: Six = [0, 0, 0, 0, 0, 0];
  scheme.locators.forEach((locator, k) => {
    [...locator.shift, ...locator.turn].forEach((value, index) => {
      q[index as 0] += (off[k] ?? 0) * value;
    });
  });
  return q;
}

export function Freedoms({ found }: { found: Verdicts }) {
  const { here } = useEditor();
  const [kind, setKind] = useState(0);
  const kinds = here.result?.designs[0]?.kinds ?? [];
  const scheme = found.schemes[kind] ?? found.schemes[0];
  if (!scheme) return null;
  return (
    <div className="flex down gap-8 grow may-shrink">
      <div className="flex gap-14 middle pad-above-8">
        {found.schemes.length > 1 && (
          <div className="wide-260">
            <Choice
              label="Located"
              name="scheme"
              value={String(kind)}
              options={found.schemes.map((item, index) => ({
                value: String(index),
                label: kinds[item.kind]?.name ?? `Op ${String(index + 1)}`,
              }))}
              store={(value) => setKind(Number(value))}
            />
          </div>
        )}
        <div>
          <p data-testid="scheme">
            <b>{scheme.name.slice(0, 1).toUpperCase() + scheme.name.slice(1)}.</b> <Said text={scheme.sentence} />
          </p>
          {scheme.warnings.map((line) => (
            <p key={line} className="problem-list">
              <Said text={line} />
            </p>
          ))}
        </div>
      </div>
      <Play key={kind} scheme={scheme} drawing={kinds[kind]?.drawing ?? null} />
    </div>
  );
}

function Play({ scheme, drawing }: { scheme: Scheme; drawing: Drawing | null }) {
  const { figure, shownUnit } = useUnits();
  const { outline, height_mm: tall } = usePlanned().partDocument;
  const [off, setOff] = useState<number[]>(() =>
    scheme.locators.map((_, index) => (index === scheme.locators.length - 2 ? 0.02 : 0)),
  );
  const q = motion(scheme, off);
  const rings = drawing?.part ?? [outline.outer, ...(outline.holes ?? [])];
  const box = bounds(rings[0] ?? [[0, 0]]);
  const size = Math.max(box.right - box.left, box.high - box.low);
  const moved = Math.max(
    ...[0, 1].flatMap((k) => [Math.abs(q[k as 0])]),
    Math.abs(q[5]) * size,
    Math.abs(q[3]) * size,
    Math.abs(q[4]) * size,
    Math.abs(q[2]),
    1e-9,
  );
  const times = Math.min(2000, 10 ** Math.floor(Math.log10((0.16 * size) / moved)) * 2);
  return (
    <div className="beside grid gap-20 grow may-shrink halves">
      <div className="flex down may-shrink">
        <PlanView scheme={scheme} rings={rings} drawing={drawing} q={q} times={times} />
        <FrontView
          scheme={scheme}
          width={box.right - box.left}
          height={drawing?.height_mm ?? tall}
          q={q}
          times={times}
        />
        <p className="quiet smaller">
          From above and from the front; blue: where the part comes to,{" "}
          {times >= 1 ? `${String(Math.round(times))} times enlarged` : "as large as life"}. Triangles: locators.
        </p>
      </div>
      <div className="scroll" tabIndex={0}>
        <table className="lines tight" data-testid="freedoms">
          <tbody>
            {FREEDOMS.map((name, k) => {
              const free = scheme.free.includes(
                name.toLowerCase().replace(" x", " X").replace(" y", " Y").replace(" z", " Z"),
              );
              return (
                <tr key={name}>
                  <td>
                    {name}
                    {free && <span className="quiet"> · free</span>}
                  </td>
                  <td className="num mono">
                    {k < 3
                      ? `${figure(Math.abs(q[k as 0]) < 5e-5 ? 0 : q[k as 0], "mm", 4)} ${shownUnit("mm")}`
                      : `${plainDegrees(q[k as 0])}°`}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <h2 className="above-10">
          Move a locator
          <Button size="small" className="apart" onClick={() => setOff(off.map(() => 0))}>
            All to zero
          </Button>
        </h2>
        {scheme.locators.map((locator, k) => (
          <div key={locator.name} className="grid gap-12 middle small slider">
            <span>{locator.name}</span>
            <Slider
              size="small"
              aria-label={`${locator.name}, off`}
              value={off[k] ?? 0}
              min={-REACH}
              max={REACH}
              step={0.001}
              onChange={(_event, value) => setOff(off.map((old, index) => (index === k ? (value as number) : old)))}
            />
            <span className="mono text-right">{figure(off[k] ?? 0, "mm", 3)}</span>
          </div>
        ))}
        <h2 className="above-10">Datum faces</h2>
        {scheme.datums.map((line) => (
          <p key={line} className="small">
            <Said text={line.slice(0, 1).toUpperCase() + line.slice(1)} />.
          </p>
        ))}
      </div>
    </div>
  );
}

/** Four digits, and no minus before nothing. */
function plainDegrees(radians: number): string {
  const text = ((radians * 180) / Math.PI).toFixed(4);
  return Number(text) === 0 ? "0.0000" : text;
}

interface View {
  scheme: Scheme;
  q: Six;
  times: number;
}

/** Where a point comes to, enlarged. */
function gone(q: Six, times: number, [x, y, z]: [number, number, number]): [number, number, number] {
  return [
    x + times * (q[0] + q[4] * z - q[5] * y),
    y + times * (q[1] + q[5] * x - q[3] * z),
    z + times * (q[2] + q[3] * y - q[4] * x),
  ];
}

function PlanView({ scheme, rings, drawing, q, times }: View & { rings: number[][][]; drawing: Drawing | null }) {
  const box = bounds(rings[0] ?? [[0, 0]]);
  const width = box.right - box.left;
  const depth = box.high - box.low;
  const { ref, px, viewBox } = useScale(1.3 * width, 1.25 * depth, 14);
  const ghost = rings.map((ring) => ring.map(([x, y]) => gone(q, times, [x ?? 0, y ?? 0, 0]).slice(0, 2)));
  return (
    <div className="drawing grow-double" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="Part on its locators from above">
        <g transform={pen`translate(${0.15 * width} ${1.12 * depth}) scale(1 -1)`}>
          {drawing?.stops.map((ring, index) => (
            <path key={index} d={path([ring])} fill="var(--steel)" fillOpacity="0.55" />
          ))}
          <path d={path(rings)} fill="none" fillRule="evenodd" stroke="var(--ink)" strokeWidth={1.4 * px} />
          <path
            d={path(ghost)}
            fill="var(--wash)"
            fillOpacity="0.65"
            fillRule="evenodd"
            stroke="var(--mark)"
            strokeWidth={1.8 * px}
          />
          {scheme.locators.map((locator) => (
            <Touch
              key={locator.name}
              at={[locator.point_mm[0], locator.point_mm[1]]}
              along={[locator.normal[0], locator.normal[1]]}
              px={px}
            />
          ))}
        </g>
      </svg>
    </div>
  );
}

function FrontView({ scheme, width, height, q, times }: View & { width: number; height: number }) {
  const { ref, px, viewBox } = useScale(1.3 * width, 1.7 * height, 8);
  const corners: [number, number][] = [[0, 0], [width, 0], [width, height], [0, height]]; // prettier-ignore
  const ghost = corners.map(([x, z]) => {
    const [gx, , gz] = gone(q, times, [x, 0, z]);
    return [gx, gz];
  });
  return (
    <div className="drawing low least-90" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="Part on its locators from the front">
        <g transform={pen`translate(${0.15 * width} ${1.35 * height}) scale(1 -1)`}>
          <path d={path([corners])} fill="none" stroke="var(--ink)" strokeWidth={1.4 * px} />
          <path d={path([ghost])} fill="var(--wash)" fillOpacity="0.65" stroke="var(--mark)" strokeWidth={1.8 * px} />
          {scheme.locators
            .filter((locator) => Math.abs(locator.normal[1]) < 0.9)
            .map((locator) => (
              <Touch
                key={locator.name}
                at={[locator.point_mm[0], locator.point_mm[2]]}
                along={[locator.normal[0], locator.normal[2]]}
                px={px}
              />
            ))}
        </g>
      </svg>
    </div>
  );
}

/** A locator as a triangle that touches; one that pushes towards the eye as a dot. */
function Touch({ at: [x, y], along: [nx, ny], px }: { at: [number, number]; along: [number, number]; px: number }) {
  if (Math.hypot(nx, ny) < 0.5)
    return <circle cx={x} cy={y} r={5 * px} fill="none" stroke="var(--ink)" strokeWidth={2 * px} />;
  const a = 15 * px;
  const b = 7 * px;
  return (
    <path
      d={pen`M${x} ${y}L${x - nx * a - ny * b} ${y - ny * a + nx * b}L${x - nx * a + ny * b} ${y - ny * a - nx * b}Z`}
      fill="var(--ink)"
    />
  );
}
