/** What a layout needs on paper beside its drawing: where every station stands, how it is turned, what it uses. */
import type { Design } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { percent } from "../../charts/percent";
import { usePrinting } from "../../ui/room";
import { useUnits } from "../../ui/units";

export function Paper({ design }: { design: Design }) {
  return usePrinting() ? <OnPaper design={design} /> : null;
}

function OnPaper({ design }: { design: Design }) {
  const { here } = useEditor();
  const { figure, shownUnit, withUnit } = useUnits();
  const several = (design.faces ?? []).length > 1;
  return (
    <section className="print-only paper-table">
      {here.shown.held.map((held, kind) => (
        <p key={held.at}>
          <b>{held.name}</b>:{" "}
          {(kind === 0 ? here.result?.hold : here.result?.others[kind - 1]?.hold)?.torque && (
            <>
              {held.drive} at <span className="mono">{withUnit(held.station.clamp.torque_nm, "N·m", 1)}</span>,{" "}
            </>
          )}
          clearance <span className="mono">{withUnit(held.station.clearance_mm, "mm", 2)}</span>
        </p>
      ))}
      <table className="lines tight">
        <thead>
          <tr>
            <th className="num">Station</th>
            {several && <th>Face</th>}
            {design.kinds.length > 1 && <th>Op</th>}
            <th className="num">X ({shownUnit("mm")})</th>
            <th className="num">Y ({shownUnit("mm")})</th>
            <th className="num">Turned</th>
            <th className="num">Clamping factor</th>
            <th>Tightest feature</th>
            <th className="num">Uses ({shownUnit("mm")})</th>
            <th className="num">Of its tolerance</th>
          </tr>
        </thead>
        <tbody>
          {design.stations.map((station) => (
            <tr key={station.number}>
              <td className="num mono">{station.number}</td>
              {several && <td>{design.faces?.[station.face ?? 0]}</td>}
              {design.kinds.length > 1 && <td>{design.kinds[station.kind ?? 0]?.op_number}</td>}
              <td className="num mono">{figure(station.x_mm, "mm", 2)}</td>
              <td className="num mono">{figure(station.y_mm, "mm", 2)}</td>
              <td className="num mono">{station.turn}°</td>
              <td className="num mono">{station.hold_factor ? station.hold_factor.toFixed(2) : "–"}</td>
              <td>{station.feature || "–"}</td>
              <td className="num mono">{station.feature ? figure(station.probable_mm, "mm", 3) : "–"}</td>
              <td className="num mono">{station.feature ? `${percent(station.tolerance_share)} %` : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
