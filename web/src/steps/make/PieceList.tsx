/** What is made and what is bought, and all files in one press. */
import { Button } from "@mui/material";

import type { Pieces } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Said } from "../../ui/Said";
import { useUnits } from "../../ui/units";

export function PieceList({ made, picked, pick }: { made: Pieces; picked: number; pick: (place: number) => void }) {
  const { job, here } = useEditor();
  const { system } = useUnits();
  return (
    <>
      <h2>Pieces</h2>
      {made.pieces.map((piece, place) => (
        <button
          key={piece.name}
          type="button"
          className="piece"
          aria-pressed={place === picked}
          onClick={() => pick(place)}
        >
          <strong>{piece.name}</strong>
          <span className="quiet">
            {piece.alike > 1 ? `${String(piece.alike)} alike · ` : ""}
            <span className="mono">{minutes((piece.minutes ?? 0) / piece.alike)}</span>
            {piece.alike > 1 ? " each" : ""}
          </span>
          {(piece.doubts ?? []).some((doubt) => doubt.wrong) && <span className="over-text">cannot be made so</span>}
        </button>
      ))}
      {made.bought.length > 0 && (
        <>
          <h2 className="above-8">To buy</h2>
          <table className="lines tight" data-testid="bought">
            <tbody>
              {made.bought.map((item) => (
                <tr key={item.says + item.why}>
                  <td className="num mono from-top">{item.count}</td>
                  <td>
                    <Said text={item.says} />
                    <div className="quiet smaller">{item.why}</div>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
      {made.pieces.length > 0 && (
        <>
          <p className="above-8">
            <Button
              variant="contained"
              component="a"
              href={`/api/jobs/${job.id}/make/pack?setup=${String(here.number)}&units=${system === "inch" ? "inch" : "mm"}`}
              download
              data-testid="all-files"
            >
              All files
            </Button>
          </p>
          <p className="quiet smaller">Drawings, solids, hole tables, parts list.</p>
        </>
      )}
    </>
  );
}

/** A time as a shop says it: minutes, and hours from two on. */
export function minutes(value: number): string {
  return value < 120 ? `${value.toFixed(0)} min` : `${(value / 60).toFixed(1)} h`;
}
