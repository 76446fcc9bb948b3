/** The faces with each station shaded by what one feature uses of its tolerance there, and where stations were left out. */
import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { PlateDrawing } from "../../drawing/PlateDrawing";
import { Judged } from "../../drawing/Station";
import { useJudged } from "../../drawing/useJudged";
import type { Chosen } from "./chosen";

export function FaceMap({
  found,
  chosen,
  pick,
}: {
  found: Verdicts;
  chosen: Chosen | null;
  pick: (chosen: Chosen) => void;
}) {
  const { here } = useEditor();
  const judged = useJudged(here.result);
  const design = here.result?.designs[0];
  if (!design || !here.on) return <div />;
  const share = (station: number) =>
    found.columns
      .filter((column) => column.feature === chosen?.feature)
      .flatMap((column) => column.verdicts)
      .find((verdict) => verdict.station === station - 1)?.share;
  const shaded = {
    ...design,
    stations: design.stations.map((station) => {
      const known = share(station.number);
      return { ...station, feature: known === undefined ? "" : "judged", tolerance_share: known ?? 0 };
    }),
  };
  const choose = (station: number | null) => {
    if (station === null) return;
    const mine = found.columns.filter((column) => column.verdicts.some((verdict) => verdict.station === station - 1));
    const feature = mine.find((column) => column.feature === chosen?.feature) ?? mine[0];
    if (feature) pick({ station, feature: feature.feature });
  };
  return (
    <div className="drawing flex">
      <Judged.Provider value={judged}>
        <PlateDrawing
          on={here.on}
          design={shaded}
          overlay="tolerance"
          selected={chosen?.station ?? null}
          select={choose}
        />
      </Judged.Provider>
    </div>
  );
}
