/** The station that is dragged, where it would stand: a picture of its own over the bench, so that what stands
 * still is not drawn again with every move. */
import type { Design, PlacedStation } from "../api/types";
import { useUnits } from "../ui/units";
import { drawingOf } from "./drawing";
import { StationShape } from "./Station";
import type { Snapped } from "./snapping";
import { Labels } from "./StationLayers";
import { pen } from "../ui/pen";

interface Props {
  ghost: PlacedStation;
  to: Snapped | null;
  stands: boolean;
  design: Design;
  viewBox: string;
  px: number;
  pitch: number;
  width: number;
  depth: number;
  selected: ReadonlySet<number>;
}

export function Ghost({ ghost, to, stands, design, viewBox, px, pitch, width, depth, selected }: Props) {
  return (
    <svg viewBox={viewBox} className="ghost-layer" aria-hidden>
      <g
        transform={pen`translate(${(ghost.face ?? 0) * pitch} ${depth}) scale(1 -1)`}
        opacity="0.9"
        className={stands ? "inked" : "stands-not"}
        data-testid="ghost"
        data-stands={stands ? "yes" : "no"}
      >
        <Guides to={to} width={width} depth={depth} px={px} />
        <StationShape
          station={{ ...ghost, faults: stands ? [] : ["here"] }}
          drawing={drawingOf(design, ghost)}
          px={px}
          overlay="none"
          chosen
        />
      </g>
      <Labels
        stations={[ghost]}
        pitch={pitch}
        design={design}
        px={px}
        depth={depth}
        selected={selected}
        without={null}
      />
    </svg>
  );
}

/** Lines to what the station came to rest in line with. */
function Guides({ to, width, depth, px }: { to: Snapped | null; width: number; depth: number; px: number }) {
  if (!to) return null;
  const dashed = {
    stroke: "currentColor",
    strokeWidth: 1.2 * px,
    strokeDasharray: `${String(7 * px)} ${String(4 * px)}`,
    fill: "none",
  };
  return (
    <>
      {to.row && <path d={pen`M0 ${to.row.y}H${width}`} {...dashed} />}
      {to.column && <path d={pen`M${to.column.x} 0V${depth}`} {...dashed} />}
    </>
  );
}

interface LineProps {
  ghost: PlacedStation;
  from: PlacedStation;
  to: Snapped | null;
  stands: boolean;
  known: boolean;
}

/** Where it would stand, in figures. ``known``: whether where it may stand is shown. */
export function GhostLine({ ghost, from, to, stands, known }: LineProps) {
  const { withUnit, figure } = useUnits();
  const along = to?.row ? `, in row, ${withUnit(Math.abs(to.row.x - ghost.x_mm), "mm", 2)} along` : "";
  const up = to?.column ? `, in column, ${withUnit(Math.abs(to.column.y - ghost.y_mm), "mm", 2)} up or down` : "";
  return (
    <div className="drag-line mono" role="status">
      X{figure(ghost.x_mm, "mm", 2)} Y{figure(ghost.y_mm, "mm", 2)}, moved {figure(ghost.x_mm - from.x_mm, "mm", 2)},{" "}
      {figure(ghost.y_mm - from.y_mm, "mm", 2)}
      {along}
      {up}
      {to?.touches ? ", touching" : ""}
      {stands ? "" : ": does not stand clear here"}
      {known && <span className="quiet"> shaded: where its datum corner may be</span>}
    </div>
  );
}
