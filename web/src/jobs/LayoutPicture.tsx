/** A layout as small as a list shows it: the faces, and the parts on them in the hue of their op. */
import type { JobList } from "../api/types";
import { pen } from "../ui/pen";

type Picture = NonNullable<JobList["jobs"][number]["picture"]>;

export function LayoutPicture({ picture, stale }: { picture: Picture | null; stale: boolean }) {
  if (!picture) return <span className="no-picture" aria-hidden />;
  const { width_mm: wide, height_mm: high } = picture;
  const line = Math.max(wide, high) / 90;
  return (
    <svg
      viewBox={pen`${-line} ${-line} ${wide + 2 * line} ${high + 2 * line}`}
      className={stale ? "stale" : ""}
      aria-hidden
    >
      <g transform={pen`translate(0 ${high}) scale(1 -1)`} strokeWidth={line}>
        {picture.faces.map(([x, y, w, h], face) => (
          <rect key={face} x={x} y={y} width={w} height={h} className="tiny-face" />
        ))}
        {picture.parts.map((ring, index) => (
          <polygon
            key={index}
            points={ring.map(([x, y]) => `${String(x)},${String(y)}`).join(" ")}
            className={`tiny-part op-${String((picture.kinds[index] ?? 0) % 3)}`}
          />
        ))}
      </g>
    </svg>
  );
}
