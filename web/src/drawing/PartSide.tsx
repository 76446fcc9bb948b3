/** The station from the front, X across and height up: what stands, what presses at which height, and the worst cutting force. */
import { useEditor } from "../editing/editor";
import { useScale } from "./drawing";
import { useUnits } from "../ui/units";
import type { Hold } from "../api/hold";
import { pen } from "../ui/pen";

const SHADE: Record<string, string> = { part: "var(--wash)", stop: "var(--steel)", clamp: "var(--steel)" };

export function PartSide({ hold, kind }: { hold: Hold; kind: number }) {
  const { here } = useEditor();
  const { withUnit } = useUnits();
  const bodies = here.result?.designs[0]?.kinds[kind]?.drawing.bodies ?? [];
  const spans = bodies.map((body) => {
    const xs = body.outer.map((point) => point[0]);
    return {
      name: body.name,
      left: Math.min(...xs),
      right: Math.max(...xs),
      low: body.low_mm ?? 0,
      high: body.high_mm ?? 0,
    };
  });
  const left = Math.min(0, ...spans.map((span) => span.left));
  const right = Math.max(1, ...spans.map((span) => span.right), ...hold.contacts.map((contact) => contact.point_mm[0]));
  const high = Math.max(1, ...spans.map((span) => span.high), ...hold.contacts.map((contact) => contact.point_mm[2]));
  const { ref, px, viewBox } = useScale(right - left, high + 8, 22);
  if (spans.length === 0) return null;
  // Contacts that push in this view; those that only push along Y would be points.
  const seen = new Map<string, Hold["contacts"][number]>();
  for (const contact of hold.contacts) {
    if (Math.abs(contact.normal[1]) > 0.9) continue;
    seen.set(`${contact.kind} ${contact.point_mm[0].toFixed(1)} ${contact.point_mm[2].toFixed(1)}`, contact);
  }
  const [cutX, , cutZ] = hold.result.load.point_mm;
  const [fx, , fz] = hold.result.load.force_n;
  const size = Math.hypot(fx, fz) || 1;
  return (
    <div className="drawing least-120" ref={ref}>
      <svg viewBox={viewBox} role="img" aria-label={`Station from the front, ${withUnit(high, "mm", 1)} high`}>
        <g transform={pen`translate(${-left} ${high + 4}) scale(1 -1)`}>
          {spans.map((span, index) => (
            <rect
              key={index}
              x={span.left}
              y={span.low}
              width={span.right - span.left}
              height={span.high - span.low}
              fill={SHADE[span.name] ?? "var(--steel)"}
              stroke={span.name === "part" ? "var(--ink)" : "none"}
              strokeWidth={1.4 * px}
            />
          ))}
          <path d={pen`M${left - 40} 0H${right + 40}`} stroke="var(--ink)" strokeWidth={1.6 * px} />
          {[...seen.values()].map((contact) => (
            <Arrow
              key={contact.name}
              at={[contact.point_mm[0], contact.point_mm[2]]}
              along={[contact.normal[0], contact.normal[2]]}
              long={(contact.kind === "clamp" ? 30 : 15) * px}
              px={px}
              wide={contact.kind === "clamp" ? 2.6 : 1.6}
              ink="var(--mark)"
            />
          ))}
          <circle cx={cutX} cy={cutZ} r={3.5 * px} fill="var(--ink)" />
          <Arrow at={[cutX, cutZ]} along={[fx / size, fz / size]} long={34 * px} px={px} wide={2.4} ink="var(--ink)" />
        </g>
      </svg>
    </div>
  );
}

interface ArrowProps {
  at: [number, number];
  along: [number, number];
  long: number;
  px: number;
  wide: number;
  ink: string;
}

function Arrow({ at: [x, y], along: [ux, uy], long, px, wide, ink }: ArrowProps) {
  const [tx, ty] = [x + ux * long, y + uy * long];
  return (
    <g stroke={ink} fill={ink} strokeWidth={wide * px}>
      <line x1={x} y1={y} x2={tx} y2={ty} />
      <path
        d={pen`M${tx + ux * 7 * px} ${ty + uy * 7 * px}l${(-ux * 9 - uy * 4.5) * px} ${(-uy * 9 + ux * 4.5) * px}
           l${uy * 9 * px} ${-ux * 9 * px}Z`}
        stroke="none"
      />
    </g>
  );
}
