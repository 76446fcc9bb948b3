/** What a piece takes to make, what is wrong with it, and what it is. */
import type { Piece } from "../../api/types";
import { Brief, More } from "../../ui/More";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";
import { Angles } from "./Angles";
import { minutes } from "./PieceList";

type Row = [string, string];

export function About({ piece, currency }: { piece: Piece; currency: string }) {
  const { withUnit } = useUnits();
  const each = (piece.minutes ?? 0) / piece.alike;
  const size = [piece.width_mm, piece.depth_mm, piece.thickness_mm]
    .map((value) => withUnit(value, "mm", 1))
    .join(" x ");
  const holes = (piece.holes ?? []).reduce((sum, row) => sum + row.places.length, 0);
  const rows: Row[] = [
    ["Material", piece.material.name],
    ["Blank", size],
    ["Mass", withUnit(piece.mass_kg ?? 0, "kg", 2)],
    ["Holes", String(holes)],
    ["Zero", piece.datum_says],
  ];
  return (
    <>
      <div className="headline">
        <div>
          <div className="big mono" data-testid="make-minutes">
            {minutes(each)}
          </div>
          <div className="label">
            to make one
            {piece.money != null ? `, ${(piece.money / piece.alike).toFixed(0)} ${currency} without material` : ""}
          </div>
        </div>
      </div>
      {piece.touching && <Touches touching={piece.touching} />}
      {piece.touching && <Angles />}
      <Doubts piece={piece} />
      <Table rows={rows} />
      <h2 className="above-8">Where the time goes</h2>
      <table className="lines tight">
        <tbody>
          {(piece.steps ?? []).map((step) => (
            <tr key={step.what}>
              <td>{capital(step.what)}</td>
              <td className="num mono">{step.count.toFixed(0)}</td>
              <td className="num mono one-line">{step.minutes.toFixed(0)} min</td>
            </tr>
          ))}
        </tbody>
      </table>
      {(piece.notes ?? []).map((note) => (
        <Brief key={note} className="quiet smaller" text={note} />
      ))}
    </>
  );
}

/** What of the gripping wall is left on each jaw, and what the pocket is cut with. */
function Touches({ touching }: { touching: NonNullable<Piece["touching"]> }) {
  const { figure, withUnit } = useUnits();
  const rows: Row[] = [
    ["Fixed jaw grips", `${figure(touching.fixed_mm, "mm", 0)} of ${withUnit(touching.fixed_of_mm, "mm", 0)}`],
    ["Moving jaw grips", `${figure(touching.moving_mm, "mm", 0)} of ${withUnit(touching.moving_of_mm, "mm", 0)}`],
    ["Clearance all round", withUnit(touching.clearance_mm, "mm", 3)],
    ["Stock to leave, for the cam", withUnit(-touching.clearance_mm, "mm", 3)],
    ["Pocket", `${withUnit(touching.depth_mm, "mm", 1)} deep`],
    ["Left under it", withUnit(touching.floor_mm, "mm", 1)],
    ["Left behind it", touching.behind_mm.map((mm) => withUnit(mm, "mm", 1)).join(", ")],
    ["Bends there", touching.bends_mm.map((mm) => withUnit(mm, "mm", 4)).join(", ") || "force not known"],
    ["Gap when cut", withUnit(touching.gap_mm, "mm", 1)],
    ["Cutter for the pocket", withUnit(touching.cutter_mm, "mm", 0)],
    ["Corner reliefs", touching.reliefs ? String(touching.reliefs) : "none needed"],
  ];
  return (
    <>
      <h2 className="above-8">What touches</h2>
      <table className="lines tight" data-testid="rests">
        <thead>
          <tr>
            <th>Part</th>
            <th className="num">Fixed, moving</th>
            <th className="num">Lies within</th>
          </tr>
        </thead>
        <tbody>
          {(touching.rests ?? []).map((item) => (
            <tr key={item.size}>
              <td>
                {capital(item.size)}
                <div className="quiet smaller">
                  {places(item.places_fixed + item.places_moving)}, {withUnit(item.pressure_mpa, "MPa", 0)}
                </div>
              </td>
              <td className="num mono from-top">
                {figure(item.fixed_mm, "mm", 0)}, {figure(item.moving_mm, "mm", 0)}
              </td>
              <td className="num mono from-top">{withUnit(item.within_mm, "mm", 3)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <More first={<>Parts differ by ±{withUnit(touching.varies_mm ?? 0, "mm", 3)} across the jaws.</>}>
        <Said text={capital(touching.varies_says ?? "")} />. It lies within so much wherever in its play it is put down,
        friction counted; pushed into one corner, it always lies there.
      </More>
      <Table rows={rows} />
    </>
  );
}

function places(count: number): string {
  return count === 1 ? "one place" : `${String(count)} places`;
}

function Doubts({ piece }: { piece: Piece }) {
  const doubts = piece.doubts ?? [];
  if (doubts.length === 0)
    return <p data-testid="make-doubts">Every web, thread and screw was looked at: none is short.</p>;
  return (
    <div data-testid="make-doubts" className="flex down gap-8">
      {doubts.slice(0, 6).map((doubt) => (
        <Brief
          key={doubt.what + doubt.says}
          className={doubt.wrong ? "over-text" : "not-known"}
          text={`${capital(doubt.what)}: ${doubt.says}. ${capital(doubt.remedy)}.`}
        />
      ))}
      {doubts.length > 6 && <p className="quiet">And {doubts.length - 6} more, on the drawing.</p>}
    </div>
  );
}

function Table({ rows }: { rows: Row[] }) {
  return (
    <table className="lines tight">
      <tbody>
        {rows.map(([what, value]) => (
          <tr key={what}>
            <td>{what}</td>
            <td className="num">
              <Said text={value} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
