/** A distance measured on the bench, with its two shares. */
import { useUnits } from "../ui/units";
import { pen } from "../ui/pen";

export interface Line {
  from: [number, number];
  to: [number, number];
  done: boolean;
}

export function MeasuredLine({ line, depth, px }: { line: Line; depth: number; px: number }) {
  const { withUnit, figure } = useUnits();
  const [ax, ay] = line.from;
  const [bx, by] = line.to;
  const [along, across] = [figure(Math.abs(bx - ax), "mm", 2), figure(Math.abs(by - ay), "mm", 2)];
  const said = `${withUnit(Math.hypot(bx - ax, by - ay), "mm", 2)}  (${along}, ${across})`;
  return (
    <g data-testid="measured" pointerEvents="none">
      <path d={pen`M${ax} ${depth - ay}L${bx} ${depth - by}`} stroke="var(--mark)" strokeWidth={1.8 * px} />
      {[line.from, line.to].map(([x, y], index) => (
        <path
          key={index}
          d={pen`M${x - 5 * px} ${depth - y}h${10 * px}M${x} ${depth - y - 5 * px}v${10 * px}`}
          stroke="var(--mark)"
          strokeWidth={1.4 * px}
        />
      ))}
      <text
        x={(ax + bx) / 2}
        y={depth - (ay + by) / 2 - 8 * px}
        fontSize={14 * px}
        fontFamily="IBM Plex Mono"
        fontWeight="600"
        textAnchor="middle"
        fill="var(--mark)"
        stroke="var(--sheet)"
        strokeWidth={4 * px}
        paintOrder="stroke"
      >
        {said}
      </text>
    </g>
  );
}
