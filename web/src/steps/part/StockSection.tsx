/** The blank: kind, allowance, how much it varies, which dimension is gripped, and how many come out of a bar. */
import type { Part, PartFacts } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { useScale } from "../../drawing/drawing";
import { Ask } from "../../ui/Ask";
import { Choice, Field } from "../../ui/Field";
import { Notice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { Dimension } from "../../drawing/PartDrawing";
import { BlankSolid } from "./BlankSolid";
import { Said } from "../../ui/Said";
import { pen } from "../../ui/pen";

const KINDS = ["saw-cut bar", "saw-cut plate", "round bar", "hexagon bar", "ground plate", "flame-cut plate", "forged"];
const AXES = [
  { axis: "x", label: "Width, X" },
  { axis: "y", label: "Depth, Y" },
  { axis: "z", label: "Height, Z" },
] as const;

export function StockSection({ index, part, facts }: { index: number; part: Part; facts: PartFacts }) {
  const { change, mayEdit } = useEditor();
  const stored = useStored();
  const { withUnit, figure, shownUnit } = useUnits();
  const at = `job.parts.${String(index)}.stock`;
  const stock = part.stock ?? {};
  const found = facts.stock;
  const bar = stock.bar_length_mm !== null;
  const axes = AXES.map(({ axis, label }) => ({ value: axis, label }));
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>Blank</h2>
          <div className="wide">
            <Choice
              label="Stock"
              name={`${at}.kind`}
              value={stock.kind ?? "saw-cut bar"}
              options={KINDS.map((kind) => ({ value: kind, label: kind }))}
              disabled={!mayEdit}
              store={(value) => change(`${at}.kind`, value)}
            />
          </div>
          <Choice
            label="Sawn length along"
            name={`${at}.along`}
            value={stock.along ?? "x"}
            options={axes}
            disabled={!mayEdit}
            store={(value) => change(`${at}.along`, value)}
          />
          <Choice
            label="Clamped over"
            name={`${at}.gripped`}
            value={stock.gripped ?? "x"}
            options={axes}
            disabled={!mayEdit}
            store={(value) => change(`${at}.gripped`, value)}
          />
          <BlankSolid at={`${at}.solid`} solid={stock.solid ?? null} />
          {AXES.map(({ axis, label }) => (
            <Vary key={axis} at={`${at}.${axis}`} axis={axis} label={label} part={part} />
          ))}
          <h2>Bars</h2>
          <div className="wide">
            <Choice
              label="Sawn from bar"
              name={`${at}.bar_length_mm`}
              value={bar ? "yes" : "no"}
              options={[
                { value: "yes", label: "Yes" },
                { value: "no", label: "No: blanks come singly" },
              ]}
              disabled={!mayEdit}
              store={(value) => change(`${at}.bar_length_mm`, value === "yes" ? 3000 : null)}
            />
          </div>
          {bar && (
            <>
              <Field label="Bar length" {...stored(`${at}.bar_length_mm`, "mm")} />
              <Field label="Kerf" {...stored(`${at}.kerf_mm`, "mm")} />
              <Field label="Trimmed off the end" {...stored(`${at}.trim_mm`, "mm")} />
              <Field label="Left in the saw" {...stored(`${at}.remnant_mm`, "mm")} />
              <Field label="Spares, %" {...stored(`${at}.spare_percent`)} />
            </>
          )}
        </div>
      </div>
      <div className="picture" tabIndex={0}>
        {found.warning && (
          <Notice title="The clamps grip what varies the most">
            <p>
              <Said text={found.warning} />
            </p>
            {found.remedies.map((text) => (
              <p key={text}>
                <Said text={text} />
              </p>
            ))}
          </Notice>
        )}
        {found.wrong && (
          <Notice title="No blank comes out of this bar" kind="over">
            <p>{found.wrong}</p>
          </Notice>
        )}
        {bar && !found.wrong && (
          <div className="headline under-4">
            {found.figures.map((item, number) => (
              <div key={item.id}>
                <div className={`${number === 1 ? "big" : "mid"} mono`} data-testid={item.id}>
                  <Ask figure={item}>{item.value}</Ask>
                </div>
                <div className="label">{item.label.toLowerCase()}</div>
              </div>
            ))}
          </div>
        )}
        <BlankDrawing part={part} facts={facts} />
        <table className="lines text-wide">
          <thead>
            <tr>
              <th>Dimension of the blank</th>
              <th className="num">Nominal</th>
              <th className="num">Standard deviation</th>
              <th className="num">Measured mean</th>
              <th>From</th>
            </tr>
          </thead>
          <tbody>
            {found.dimensions.map((item) => (
              <tr key={item.axis} className={item.axis === found.most_varying ? "strong" : undefined}>
                <td>
                  {item.name}
                  {item.axis === (stock.gripped ?? "x") && ", clamped over"}
                </td>
                <td className="num mono">{withUnit(item.nominal_mm, "mm", 2)}</td>
                <td className="num mono">{withUnit(item.spread_mm, "mm", 3)}</td>
                <td className="num mono">{item.mean_mm === null ? "" : figure(item.mean_mm, "mm", 3)}</td>
                <td className="quiet small">
                  <Said text={item.source} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="quiet small">
          Blank: <span className="mono">{withUnit(found.mass_kg, "kg", 3)}</span>. Lengths in {shownUnit("mm")}; a
          column of measured blanks can be pasted from a spreadsheet.
        </p>
      </div>
    </div>
  );
}

function Vary({ at, axis, label, part }: { at: string; axis: "x" | "y" | "z"; label: string; part: Part }) {
  const { change, mayEdit } = useEditor();
  const stored = useStored();
  const { plain } = useUnits();
  const variation = part.stock?.[axis]?.variation ?? {};
  const kind = variation.kind ?? "usual";
  const column = stored(`${at}.variation.measured_mm`, "mm");
  return (
    <>
      <Field label={`${label}: extra a side`} {...stored(`${at}.allowance_mm`, "mm")} />
      <Field label="low side, if other" {...stored(`${at}.low_mm`, "mm")} />
      <div className="wide">
        <Choice
          label="varies by"
          name={`${at}.variation.kind`}
          value={kind}
          options={[
            { value: "usual", label: "what is usual" },
            { value: "range", label: "plus or minus" },
            { value: "standard deviation", label: "standard deviation" },
            { value: "measured", label: "measured blanks" },
          ]}
          disabled={!mayEdit}
          store={(value) => change(`${at}.variation.kind`, value)}
        />
      </div>
      {(kind === "range" || kind === "standard deviation") && (
        <div className="wide">
          <Field
            label={kind === "range" ? `${label}: plus or minus` : `${label}: standard deviation`}
            {...stored(`${at}.variation.value_mm`, "mm")}
          />
        </div>
      )}
      {kind === "measured" && (
        <div className="wide">
          <Field
            label={`${label}: measured blanks, pasted or typed`}
            {...column}
            text
            value={(variation.measured_mm ?? []).map((value) => plain(value, "mm")).join("; ")}
            store={(value) =>
              column.store(
                typeof value === "string" && !/[a-zA-Z"]/.test(value) && value !== ""
                  ? `${value} ${plain(1, "mm") === "1" ? "mm" : "in"}`
                  : value,
              )
            }
          />
        </div>
      )}
    </>
  );
}

/** The finished part inside its blank, seen from the front: width across, height up. */
function BlankDrawing({ part, facts }: { part: Part; facts: PartFacts }) {
  const { withUnit } = useUnits();
  const [x, , z] = facts.stock.dimensions;
  const width = x?.nominal_mm ?? facts.width_mm;
  const height = z?.nominal_mm ?? part.height_mm;
  const { ref, px, viewBox } = useScale(width, height, 60);
  const gripped = part.stock?.gripped ?? "x";
  const across = part.stock?.x;
  const arrow = 26 * px;
  return (
    <div className="drawing most-300" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="The part in its blank, from the front">
        <defs>
          <pattern id="raw" width={7 * px} height={7 * px} patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
            <line x1="0" y1="0" x2="0" y2={7 * px} stroke="var(--steel)" strokeWidth={1.1 * px} />
          </pattern>
        </defs>
        <rect width={width} height={height} fill="url(#raw)" stroke="var(--steel)" strokeWidth={1.2 * px} />
        <rect
          x={Number(across?.low_mm ?? across?.allowance_mm ?? 0)}
          y={Number(part.stock?.z?.allowance_mm ?? 0)}
          width={facts.width_mm}
          height={part.height_mm}
          fill="var(--wash)"
          stroke="var(--ink)"
          strokeWidth={1.6 * px}
        />
        <Dimension
          from={[0, height + 30 * px]}
          to={[width, height + 30 * px]}
          px={px}
          label={withUnit(width, "mm", 2)}
          across
        />
        <Dimension
          from={[width + 30 * px, 0]}
          to={[width + 30 * px, height]}
          px={px}
          label={withUnit(height, "mm", 2)}
        />
        {gripped === "x" &&
          [0, 1].map((side) => (
            <path
              key={side}
              d={pen`M${side ? width + arrow : -arrow} ${height * 0.7}H${side ? width + 3 * px : -3 * px}
                 m${side ? 7 * px : -7 * px} ${-5 * px}l${side ? -7 * px : 7 * px} ${5 * px}l${side ? 7 * px : -7 * px} ${5 * px}`}
              fill="none"
              stroke="var(--mark)"
              strokeWidth={2.2 * px}
            />
          ))}
      </svg>
    </div>
  );
}
