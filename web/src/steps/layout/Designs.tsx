/** The designs of a setup, to look at one after the other, side by side, or to take. */
import type { Design } from "../../api/types";
import { Tool, Toolbar } from "../../ui/Toolbar";
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
    <Toolbar label="Designs" className="joined designs">
      {designs.map((item, index) => (
        <Tool
          key={item.name}
          label={item.name}
          pressed={item === shown && !comparing}
          does={() => pick(index)}
          title={item.more_room_mm ? `${withUnit(item.more_room_mm, "mm", 1)} more between stations` : undefined}
        >
          <b className="mono">{item.count}</b> {item.name}
        </Tool>
      ))}
      <Tool label="Compare" title="Key O" pressed={comparing} does={compare} />
      {take && <Tool label="Take this one" does={take} />}
    </Toolbar>
  );
}
