/** A plate as the setter looks at it: large numbers, the filled wedge at each part's datum corner. */
import type { SheetFace as Face } from "../api/types";
import { pen } from "../ui/pen";
import { counted } from "../ui/words";

type Points = readonly (readonly number[])[];

const closed = (ring: Points): string =>
  `${ring.map(([x, y], k) => (k === 0 ? pen`M${x ?? 0} ${y ?? 0}` : pen`L${x ?? 0} ${y ?? 0}`)).join("")}Z`;

export function SheetFace({ face, alone }: { face: Face; alone: boolean }) {
  const { width_mm: width, depth_mm: depth } = face;
  const big = Math.max(width, depth) / 22;
  const wedge = big * 0.6;
  return (
    <figure>
      {!alone && <figcaption>Face {face.name}</figcaption>}
      <svg
        viewBox={pen`-2 -2 ${width + 4} ${depth + 4}`}
        role="img"
        aria-label={`${face.name || "The plate"}: ${counted(face.stations.length, "station")}`}
      >
        <g transform={pen`translate(0 ${depth}) scale(1 -1)`} className="sheet-lines">
          <rect width={width} height={depth} className="plate" />
          {face.stations.map((station) => (
            <g key={station.number}>
              {station.stops.map((ring, k) => (
                <path key={k} d={closed(ring)} className="stop" />
              ))}
              {station.clamps.map((ring, k) => (
                <path key={k} d={closed(ring)} className="clamp" />
              ))}
              {station.parts.map((part, k) => (
                <path key={k} d={closed(part[0] ?? [])} className="part" />
              ))}
              {station.screws_mm.map(([x, y], k) => (
                <circle key={k} cx={x} cy={y} r={big / 5} className="screw" />
              ))}
              {station.corners_mm.map(([x, y], k) => (
                <path key={k} d={pen`M${x} ${y}h${wedge}L${x} ${y + wedge}Z`} className="screw" />
              ))}
            </g>
          ))}
        </g>
        {face.stations.map((station) => (
          <text
            key={station.number}
            x={station.at_mm[0]}
            y={depth - station.at_mm[1] + big * 0.36}
            fontSize={big}
            textAnchor="middle"
            className="number"
          >
            {station.number}
          </text>
        ))}
      </svg>
    </figure>
  );
}
