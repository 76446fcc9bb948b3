/** One station as it stands: its shape, its number, and by what it is shaded. */
import { createContext, memo, useContext } from "react";

import type { Drawing, PlacedStation } from "../api/types";
import { pen } from "../ui/pen";
import { bounds, partsOf, pensOf, turned } from "./drawing";

export type Overlay = "none" | "tolerance" | "clamping" | "reach" | "sweep";

/** How much of a limit a station uses, for the overlays that shade stations by it; nothing for the others. */
export function shareOf(overlay: Overlay, station: PlacedStation, needed: number): number | null {
  if (overlay === "tolerance") return station.feature ? station.tolerance_share : null; // nothing was judged there
  if (overlay === "reach") return station.reach_share ?? 0;
  if (overlay === "clamping") return station.hold_factor ? needed / station.hold_factor : null;
  return null;
}

/** What stations are shaded by: the clamping factor that each op needs, and the share of a limit from which it is close. */
export interface Limits {
  needed: number[];
  /** Nothing until it is known: then no station has a colour. */
  close: number | null;
}

export const Judged = createContext<Limits>({ needed: [], close: null });

export const Hatches = createContext<(kind: number) => string>(() => "none");

interface NumberProps {
  number: number;
  corner: Corner;
  /** Of the face: the screen's Y goes down. */
  depth: number;
  px: number;
  wrong: boolean;
}

/** A station's number in the upper left corner of its part; left out where the part on screen is smaller than it. */
export function StationNumber({ number, corner, depth, px, wrong }: NumberProps) {
  const { x, y, width, height } = corner;
  const text = String(number);
  if (!wrong && (width < (text.length * 7.4 + 5) * px || height < 15 * px)) return null;
  return (
    <text
      className={wrong ? "number wrong" : "number"}
      x={x + 3.5 * px}
      y={depth - y + 13 * px}
      fontSize={12.5 * px}
      strokeWidth={3 * px}
    >
      {text}
    </text>
  );
}

/** The upper left corner of a part as it stands, and how big it is there. */
interface Corner {
  x: number;
  y: number;
  width: number;
  height: number;
}

export function cornerOf(drawing: Drawing, station: Pick<PlacedStation, "x_mm" | "y_mm" | "turn">): Corner {
  const ring = (partsOf(drawing)[0]?.[0] ?? []).map(([x, y]) => turned(x ?? 0, y ?? 0, station.turn));
  const box = bounds(ring);
  return {
    x: station.x_mm + box.left,
    y: station.y_mm + box.high,
    width: box.right - box.left,
    height: box.high - box.low,
  };
}

function shareColour(share: number, close: number): string {
  return share > 1 ? "var(--over)" : share >= close ? "var(--close)" : "var(--within)";
}

/** One station where it stands; red where it stands wrong. Drawn again only when something of it changed. */
export const StationShape = memo(function StationShape({
  station,
  drawing,
  px,
  overlay,
  chosen,
  faint = false,
}: {
  station: PlacedStation;
  drawing: Drawing;
  px: number;
  overlay: Overlay;
  chosen: boolean;
  faint?: boolean;
}) {
  const hatch = useContext(Hatches)(station.kind ?? 0);
  const judged = useContext(Judged);
  const { close, needed } = judged;
  const share = close === null ? null : shareOf(overlay, station, needed[station.kind ?? 0] ?? 2);
  const wrong = (station.faults ?? []).length > 0;
  const w = 8 * px;
  const thin = { stroke: "var(--ink)", strokeWidth: px };
  const pens = pensOf(drawing);
  return (
    <g
      transform={pen`translate(${station.x_mm} ${station.y_mm}) rotate(${station.turn})`}
      opacity={faint ? 0.25 : undefined}
    >
      {pens.under && <path d={pens.under} fill="var(--sheet)" stroke="var(--steel)" strokeWidth={px} />}
      {overlay === "sweep" && <path d={pens.sweep} fill="var(--mark)" fillOpacity="0.07" />}
      {pens.sweeps && (
        <path
          d={pens.sweeps}
          fill="none"
          stroke="var(--steel)"
          strokeWidth={0.9 * px}
          strokeDasharray={`${String(3 * px)} ${String(3 * px)}`}
        />
      )}
      {pens.stops && <path d={pens.stops} fill="var(--steel)" />}
      <path
        d={pens.parts}
        fillRule="evenodd"
        fill={share === null || close === null ? hatch : shareColour(share, close)}
        fillOpacity={share === null ? 1 : 0.2 + 0.55 * Math.min(1, share)}
        stroke={wrong ? "var(--over)" : chosen ? "var(--mark)" : "var(--ink)"}
        strokeWidth={(chosen ? 3.4 : 1.4) * px}
      />
      {pens.finished && <path d={pens.finished} fill="none" stroke="var(--ink)" strokeWidth={0.6 * px} />}
      {pens.clamps && <path d={pens.clamps} fill="var(--steel)" fillOpacity="0.75" {...thin} strokeOpacity="0.5" />}
      {pens.screws && <path d={pens.screws} fill="var(--sheet)" {...thin} />}
      <path d={pen`M${-w} 0V${-w}H0Z`} fill="var(--mark)" />
    </g>
  );
});
