/** The part from above with its contacts, and the cutting force that would move it first. */
import type { Contact } from "../api/types";
import { useEditor, usePlanned } from "../editing/editor";
import { bounds, path, useScale } from "./drawing";
import { useUnits } from "../ui/units";
import type { Hold } from "../api/hold";
import { pen } from "../ui/pen";

/** More clamping forces than these stand in one another’s way. */
const MOST_LABELS = 2;

export function PartPlan({ hold, kind }: { hold: Hold; kind: number }) {
  const { here } = useEditor();
  const { withUnit } = useUnits();
  const drawing = here.result?.designs[0]?.kinds[kind]?.drawing;
  const { outline } = usePlanned().partDocument;
  const rings = drawing?.part ?? [outline.outer, ...(outline.holes ?? [])];
  const box = bounds(rings[0] ?? [[0, 0]]);
  const width = box.right - box.left;
  const depth = box.high - box.low;
  const { ref, px, viewBox } = useScale(width + 44, depth + 24, 26);
  const sides = hold.contacts.filter((contact) => contact.normal[2] === 0);
  const seen = new Map<string, Contact>();
  for (const contact of sides) seen.set(`${contact.point_mm[0].toFixed(2)} ${contact.point_mm[1].toFixed(2)}`, contact);
  const clamps = [...seen.values()].filter((contact) => contact.kind === "clamp");
  // many that press together say so once
  const labelled = clamps.length > MOST_LABELS ? [] : clamps;
  const arrow = (clamps.length > MOST_LABELS ? 12 : 26) * px;
  // the workpiece may overhang the corner it stands in
  const [left, low] = drawing ? [box.left, box.low] : [0, 0];
  return (
    <div className="drawing" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label="Part with its contacts">
        <g transform={pen`translate(${14 - left} ${depth + 6 + low}) scale(1 -1)`}>
          <g transform={drawing ? undefined : pen`translate(${-box.left} ${-box.low})`}>
            <path d={path(rings)} fill="var(--wash)" fillRule="evenodd" stroke="var(--ink)" strokeWidth={1.5 * px} />
            <path
              d={path((drawing?.finished ?? []).flat())}
              fill="none"
              stroke="var(--mark)"
              strokeWidth={px}
              strokeDasharray={`${String(4 * px)} ${String(3 * px)}`}
            />
          </g>
          {drawing &&
            [...drawing.stops, ...drawing.clamps].map((ring, index) => (
              <path key={index} d={path([ring])} fill="var(--steel)" />
            ))}
          {[...seen.values()].map((contact) => {
            const [x, y] = contact.point_mm;
            const [nx, ny] = contact.normal;
            const long = contact.kind === "clamp" ? arrow * 1.7 : arrow;
            return (
              <g
                key={contact.name}
                stroke="var(--mark)"
                fill="var(--mark)"
                strokeWidth={(contact.kind === "clamp" ? 3 : 1.8) * px}
              >
                <line x1={x} y1={y} x2={x + nx * long} y2={y + ny * long} />
                <path
                  d={pen`M${x + nx * long * 1.25} ${y + ny * long * 1.25}l${(-nx * 9 - ny * 5) * px} ${(-ny * 9 + nx * 5) * px}
                     l${ny * 10 * px} ${-nx * 10 * px}Z`}
                  stroke="none"
                />
              </g>
            );
          })}
          <path d={pen`M${-9 * px} 0V${-9 * px}H0Z`} fill="var(--mark)" />
          <Cutting load={hold.result.load} px={px} />
        </g>
        {labelled.map((contact) => (
          <text
            key={contact.name}
            x={14 + contact.point_mm[0] + 8 * px}
            y={depth + 6 - contact.point_mm[1] + 5 * px}
            fontSize={13.5 * px}
            fontFamily="IBM Plex Mono"
            fontWeight="500"
            fill="#14191D"
          >
            {withUnit(contact.preload_n ?? 0, "N", 0)}
          </text>
        ))}
      </svg>
    </div>
  );
}

/** The cutting force of the worst case, where and how it pushes in the plane. */
function Cutting({ load, px }: { load: Hold["result"]["load"]; px: number }) {
  const [x, y] = load.point_mm;
  const [fx, fy] = load.force_n;
  const size = Math.hypot(fx, fy) || 1;
  const [ux, uy] = [fx / size, fy / size];
  const long = 44 * px;
  return (
    <g stroke="var(--ink)" fill="var(--ink)" strokeWidth={2.4 * px}>
      <circle cx={x} cy={y} r={3.5 * px} />
      <line x1={x} y1={y} x2={x + ux * long} y2={y + uy * long} />
      <path
        d={pen`M${x + ux * long * 1.2} ${y + uy * long * 1.2}l${(-ux * 10 - uy * 5) * px} ${(-uy * 10 + ux * 5) * px}
           l${uy * 10 * px} ${-ux * 10 * px}Z`}
        stroke="none"
      />
    </g>
  );
}
