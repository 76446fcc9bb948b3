import { useScale } from "../drawing/drawing";
import type { Hold } from "../api/hold";

/** The lowest factor for each direction the cut can push in, with the ring that is needed. */
export function Polar({ hold }: { hold: Hold }) {
  const { ref, px, viewBox } = useScale(220, 220, 22);
  const most = Math.max(hold.needed * 1.4, ...hold.by_direction.map((item) => Math.min(item.factor, hold.needed * 4)));
  const radius = (factor: number) => (100 * Math.min(factor, most)) / most;
  const point = (angle: number, factor: number): [number, number] => {
    const a = (angle * Math.PI) / 180;
    return [110 + radius(factor) * Math.cos(a), 110 - radius(factor) * Math.sin(a)];
  };
  const worst = hold.by_direction.reduce(
    (low, item) => (item.factor < low.factor ? item : low),
    hold.by_direction[0] ?? { angle_deg: 0, factor: 0 },
  );
  const [wx, wy] = point(worst.angle_deg, worst.factor);
  const rings = Array.from({ length: Math.floor(most) }, (_, index) => index + 1).filter(
    (n) => most < 9 || n % 2 === 0,
  );
  return (
    <div className="drawing" ref={ref}>
      <svg
        viewBox={viewBox}
        role="img"
        aria-label={`Factor by direction; lowest ${worst.factor.toFixed(2)} at ${worst.angle_deg.toFixed(0)} degrees`}
      >
        {rings.map((ring) => (
          <g key={ring}>
            <circle cx="110" cy="110" r={radius(ring)} fill="none" stroke="var(--rule)" strokeWidth={px} />
            <text
              x="112"
              y={110 - radius(ring) - 2 * px}
              fontSize={12 * px}
              fontFamily="IBM Plex Mono"
              fill="var(--quiet)"
            >
              {ring}
            </text>
          </g>
        ))}
        <path
          d={`M${hold.by_direction
            .map((item) =>
              point(item.angle_deg, item.factor)
                .map((v) => v.toFixed(2))
                .join(" "),
            )
            .join("L")}Z`}
          fill="var(--mark)"
          fillOpacity="0.16"
          stroke="var(--mark)"
          strokeWidth={2 * px}
        />
        <circle cx="110" cy="110" r={radius(hold.needed)} fill="none" stroke="var(--over)" strokeWidth={1.6 * px} />
        <circle cx={wx} cy={wy} r={5 * px} fill="var(--over)" />
        <text x="212" y={110 - 4 * px} fontSize={12 * px} fill="var(--quiet)" textAnchor="end">
          X+
        </text>
        <text x={110 - 8 * px} y={8} fontSize={12 * px} fill="var(--quiet)" textAnchor="end">
          Y+
        </text>
      </svg>
    </div>
  );
}
