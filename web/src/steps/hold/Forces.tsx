/** What holds the part and what would move it: from above, from the front, by direction, and contact by contact. */
import type { Figure } from "../../api/types";
import { Polar } from "../../charts/lazy";
import { PartPlan } from "../../drawing/PartPlan";
import { PartSide } from "../../drawing/PartSide";
import { ContactTable } from "./ContactTable";
import type { Verdict } from "./HoldFigures";

interface Props {
  hold: Verdict;
  kind: number;
  find: (id: string) => Figure | undefined;
}

export function Forces({ hold, kind, find }: Props) {
  return (
    <>
      <div className="three-views">
        <div>
          <h2>From above</h2>
          <PartPlan hold={hold} kind={kind} />
        </div>
        <div>
          <h2>From the front</h2>
          <PartSide hold={hold} kind={kind} />
        </div>
        <div>
          <h2>Factor by direction of cut</h2>
          <Polar hold={hold} />
        </div>
      </div>
      <p className="quiet smaller">
        Blue: what holds the part, at the low end of the preload. Black: the cutting force that would move it first. Red
        ring: the factor needed.
      </p>
      <ContactTable hold={hold} find={find} />
    </>
  );
}
