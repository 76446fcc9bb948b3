/** The workpiece as it is put in, cut where its clamps press: what touches it, raw or cut before. */
import type { HeldSection } from "../../api/types";
import { bounds, path, useScale } from "../../drawing/drawing";
import { pen } from "../../ui/pen";
import { useUnits } from "../../ui/units";

type Touched = HeldSection["touched"][number];

export const surface = ({ made_in }: Touched): string => (made_in === null ? "raw" : `cut in op ${String(made_in)}`);

export function HeldView({ held, name }: { held: HeldSection; name: string }) {
  const { withUnit } = useUnits();
  const outers = held.before.flatMap((rings) => rings[0] ?? []);
  const box = bounds(outers);
  const { ref, px, viewBox } = useScale(box.right - box.left, box.high - box.low, 26);
  return (
    <div>
      <div className="drawing least-240" ref={ref}>
        <svg
          viewBox={viewBox}
          role="img"
          aria-label={`${name} in op ${String(held.op)}, cut where it is clamped, ${withUnit(held.height_mm, "mm", 1)} up`}
        >
          <g transform={pen`translate(${-box.left} ${box.high}) scale(1 -1)`}>
            {held.before.map((rings, k) => (
              <path key={k} d={path(rings)} fillRule="evenodd" className="slice-now" strokeWidth={1.2 * px} />
            ))}
            {held.finished.map((rings, k) => (
              <path key={k} d={path(rings)} fillRule="evenodd" className="slice-done" strokeWidth={1.2 * px} />
            ))}
            {held.touched.map((item) => (
              <Touch key={item.name} item={item} px={px} />
            ))}
          </g>
        </svg>
      </div>
      <HeldTable held={held} />
    </div>
  );
}

/** A thick line where a side is touched, with an arrow the way it is pushed; rings where it is pressed down on. */
function Touch({ item, px }: { item: Touched; px: number }) {
  const kind = item.made_in === null ? "touch-raw" : "touch-cut";
  const [nx, ny, nz] = item.normal;
  const xs = item.at_mm.map(([x]) => x);
  const ys = item.at_mm.map(([, y]) => y);
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)];
  if (Math.abs(nz) > 0.9 && item.kind === "locator") return null; // the floor: all that is drawn
  if (Math.abs(nz) > 0.9)
    return <circle cx={(left + right) / 2} cy={(low + high) / 2} r={6 * px} className={kind} strokeWidth={3 * px} />;
  const [x, y] = [(left + right) / 2, (low + high) / 2];
  const back = 20 * px;
  return (
    <g className={kind}>
      <path d={pen`M${left} ${low}L${right} ${high}`} strokeWidth={5 * px} />
      <path
        d={pen`M${x - nx * back} ${y - ny * back}L${x - nx * 4 * px} ${y - ny * 4 * px}
          m${-6 * px * nx - 4 * px * ny} ${-6 * px * ny + 4 * px * nx}
          l${6 * px * nx + 4 * px * ny} ${6 * px * ny - 4 * px * nx}
          l${-6 * px * nx + 4 * px * ny} ${-6 * px * ny - 4 * px * nx}`}
        strokeWidth={1.8 * px}
      />
    </g>
  );
}

function HeldTable({ held }: { held: HeldSection }) {
  const { figure, shownUnit } = useUnits();
  return (
    <table className="lines tight small" data-testid="touched">
      <thead>
        <tr>
          <th>Op {held.op} is held at</th>
          <th>Surface</th>
          <th className="num">{shownUnit("mm²")}</th>
        </tr>
      </thead>
      <tbody>
        {held.touched.map((item) => (
          <tr key={item.name}>
            <td>{item.name}</td>
            <td>
              <span className={item.made_in === null ? "dot-raw" : "dot-cut"} /> {surface(item)}
            </td>
            <td className="num mono">{figure(item.area_mm2, "mm²", 0)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
