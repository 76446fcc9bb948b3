import { useCatalogue } from "../api/queries";
import type { Part, PartFacts } from "../api/types";
import { bounds, path, useScale } from "./drawing";
import { useUnits } from "../ui/units";
import { pen } from "../ui/pen";

/** The part from above, dimensioned as a machinist reads it: overall sizes, round holes with their places, the datum wedge. */
export function PartDrawing({ part, facts }: { part: Part; facts: PartFacts }) {
  const { outline } = part;
  const { left, low, right, high } = bounds(outline.outer);
  const width = right - left;
  const depth = high - low;
  const { ref, px, viewBox } = useScale(width, depth, 66);
  const { withUnit, plain, shownUnit } = useUnits();
  const line = { stroke: "var(--quiet)", strokeWidth: px };
  const text = { fontSize: 13.5 * px, fontFamily: "IBM Plex Mono", fill: "var(--ink)", textAnchor: "middle" as const };
  const gap = 30 * px;
  const w = 14 * px;
  const holes = facts.round_holes.slice(0, 14);
  const kinds = useCatalogue().data?.tolerance_kinds;
  const placed = (kind: string | undefined) => kinds?.find((item) => item.kind === kind)?.placed ?? false;
  const features = (part.features ?? []).filter((feature) => placed(feature.kind));
  return (
    <div className="drawing" ref={ref}>
      <svg
        viewBox={viewBox}
        role="img"
        aria-label={`Outline, ${withUnit(width, "mm", 2)} by ${withUnit(depth, "mm", 2)}`}
      >
        <g transform={pen`translate(${-left} ${high}) scale(1 -1)`}>
          <path
            d={path([outline.outer, ...(outline.holes ?? []), ...(outline.islands ?? [])])}
            fill="var(--wash)"
            fillRule="evenodd"
            stroke="var(--ink)"
            strokeWidth={1.6 * px}
            strokeLinejoin="round"
          />
          {part.solid && (part.solid.section ?? []).length > 0 && (
            <path
              d={path(part.solid.section ?? [])}
              transform={pen`translate(${left} ${low})`}
              fill="none"
              stroke="var(--mark)"
              strokeWidth={1.4 * px}
              strokeDasharray={`${String(6 * px)} ${String(4 * px)}`}
            >
              <title>Section at grip height</title>
            </path>
          )}
          <path d={pen`M${left - w} ${low}L${left - w} ${low - w}L${left} ${low - w}Z`} fill="var(--mark)" />
        </g>
        <g transform={pen`translate(0 ${depth}) scale(1 -1)`}>
          {holes.map((hole, index) => (
            <g
              key={index}
              {...line}
              strokeDasharray={`${String(7 * px)} ${String(2 * px)} ${String(2 * px)} ${String(2 * px)}`}
            >
              <line
                x1={hole.x_mm - hole.diameter_mm / 2 - 5 * px}
                x2={hole.x_mm + hole.diameter_mm / 2 + 5 * px}
                y1={hole.y_mm}
                y2={hole.y_mm}
              />
              <line
                y1={hole.y_mm - hole.diameter_mm / 2 - 5 * px}
                y2={hole.y_mm + hole.diameter_mm / 2 + 5 * px}
                x1={hole.x_mm}
                x2={hole.x_mm}
              />
            </g>
          ))}
          {features.map((feature) => (
            <path
              key={feature.name}
              d={pen`M${(feature.x_mm ?? 0) - 4 * px} ${feature.y_mm ?? 0}l${4 * px} ${4 * px}l${4 * px} ${-4 * px}l${-4 * px} ${-4 * px}Z`}
              fill="none"
              stroke="var(--mark)"
              strokeWidth={1.5 * px}
            >
              <title>{feature.name}</title>
            </path>
          ))}
        </g>
        {holes.map((hole, index) => (
          <text
            key={index}
            x={hole.x_mm + hole.diameter_mm / 2 + 7 * px}
            y={depth - hole.y_mm - hole.diameter_mm / 2 - 3 * px}
            {...text}
            fontSize={12.5 * px}
            textAnchor={hole.x_mm > 0.7 * width ? "end" : "start"}
            stroke="var(--paper)"
            strokeWidth={4 * px}
            paintOrder="stroke"
          >
            ⌀{plain(Number(hole.diameter_mm.toFixed(3)), "mm")} at {plain(Number(hole.x_mm.toFixed(3)), "mm")},{" "}
            {plain(Number(hole.y_mm.toFixed(3)), "mm")}
          </text>
        ))}
        <Dimension from={[0, depth + gap]} to={[width, depth + gap]} px={px} label={withUnit(width, "mm", 2)} across />
        <Dimension from={[width + gap, 0]} to={[width + gap, depth]} px={px} label={withUnit(depth, "mm", 2)} />
        {facts.round_holes.length > holes.length && (
          <text x={0} y={-10 * px} {...text} textAnchor="start">
            and {facts.round_holes.length - holes.length} round holes more ({shownUnit("mm")})
          </text>
        )}
      </svg>
    </div>
  );
}

export function Dimension({
  from,
  to,
  px,
  label,
  across = false,
}: {
  from: [number, number];
  to: [number, number];
  px: number;
  label: string;
  across?: boolean;
}) {
  const line = { stroke: "var(--quiet)", strokeWidth: px };
  const [x, y] = [(from[0] + to[0]) / 2, (from[1] + to[1]) / 2];
  const tick = ([tx, ty]: [number, number]) =>
    across ? (
      <line key={tx} x1={tx} x2={tx} y1={ty - 22 * px} y2={ty + 5 * px} {...line} />
    ) : (
      <line key={ty} x1={tx - 22 * px} x2={tx + 5 * px} y1={ty} y2={ty} {...line} />
    );
  return (
    <g>
      <line x1={from[0]} y1={from[1]} x2={to[0]} y2={to[1]} {...line} />
      {[from, to].map(tick)}
      <text
        transform={across ? pen`translate(${x} ${y + 17 * px})` : pen`translate(${x + 17 * px} ${y}) rotate(-90)`}
        fontSize={13.5 * px}
        fontFamily="IBM Plex Mono"
        fill="var(--ink)"
        textAnchor="middle"
      >
        {label}
      </text>
    </g>
  );
}
