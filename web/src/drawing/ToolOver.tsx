/** A tool seen from the spindle, with its holder, and the way it came: at feed drawn out, at rapid in dashes. */
import { pen } from "../ui/pen";
import type { Tip } from "./tip";

export function ToolOver({ tip, px }: { tip: Tip; px: number }) {
  const [edge, ...others] = tip.rings;
  const widest = Math.max(0, ...others.map(([radius]) => radius));
  const at = tip.trail;
  return (
    <g data-testid="tool" className="tool-over">
      {at.slice(1).map((place, k) => {
        const from = at[k] as (typeof at)[number];
        return (
          <path
            key={k}
            d={pen`M${from.x} ${from.y}L${place.x} ${place.y}`}
            className={place.rapid ? "rapid" : "feed"}
            strokeWidth={(place.rapid ? 1 : 1.8) * px}
            strokeDasharray={place.rapid ? pen`${4 * px} ${3 * px}` : undefined}
          />
        );
      })}
      {widest > 0 && <circle cx={tip.x} cy={tip.y} r={widest} className="holder" strokeWidth={px} />}
      {edge && <circle cx={tip.x} cy={tip.y} r={Math.max(edge[0], 2 * px)} className="edge" strokeWidth={1.6 * px} />}
      <path
        d={pen`M${tip.x - 5 * px} ${tip.y}h${10 * px}M${tip.x} ${tip.y - 5 * px}v${10 * px}`}
        className="edge"
        strokeWidth={1.2 * px}
      />
    </g>
  );
}
