/** The designs of a setup, to look at one after the other, side by side, or to take. */
import type { Design } from "../../api/types";
import { useUnits } from "../../ui/units";

interface Props {
  designs: Design[];
  shown: Design | null;
  pick: (index: number) => void;
  comparing: boolean;
  compare: () => void;
  /** Takes the one shown as what a person placed; nothing for the first, and for who may not. */
  take: (() => void) | null;
}

export function Designs({ designs, shown, pick, comparing, compare, take }: Props) {
  const { withUnit } = useUnits();
  return (
    <div className="tools alternatives" role="group" aria-label="Designs">
      {designs.map((item, index) => (
        <button
          key={item.name}
          type="button"
          className="tool"
          aria-pressed={item === shown}
          onClick={() => pick(index)}
        >
          <b className="mono">{item.count}</b> {item.name}
          {item.more_room_mm ? `, ${withUnit(item.more_room_mm, "mm", 1)} more between stations` : ""}
        </button>
      ))}
      <button type="button" className="tool" aria-pressed={comparing} onClick={compare}>
        Compare
      </button>
      {take && (
        <button type="button" className="tool" onClick={take}>
          Take this one
        </button>
      )}
    </div>
  );
}
