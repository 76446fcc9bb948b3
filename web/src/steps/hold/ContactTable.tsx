/** What every contact gets: clamped, and at most under the cuts; its pressure against yield; how much of its friction is used. */
import type { Figure } from "../../api/types";
import { Ask } from "../../ui/Ask";
import { Copy } from "../../ui/Copy";
import { useUnits } from "../../ui/units";
import type { Hold } from "../../api/hold";

const PRESSED = { fine: undefined, marks: "var(--close-text)", "sinks in": "var(--over)" };

export function ContactTable({ hold, find }: { hold: Hold; find: (id: string) => Figure | undefined }) {
  const { figure, shownUnit, withUnit } = useUnits();
  const share = hold.share;
  if (!share) return null;
  return (
    <div className="scrolls most-260" data-testid="contacts">
      <table className="lines tight">
        <thead>
          <tr>
            <th>
              Contact{" "}
              <Copy
                what="the contacts"
                rows={() => [
                  [
                    "Contact",
                    `Clamped (${shownUnit("N")})`,
                    `Most (${shownUnit("N")})`,
                    `Pressure (${shownUnit("MPa")})`,
                  ],
                  ...share.contacts.map((item) => [
                    item.name,
                    figure(item.clamped_n, "N", 0),
                    figure(item.most_n, "N", 0),
                    figure(item.pressure_mpa, "MPa", 1),
                  ]),
                ]}
              />
            </th>
            <th className="num">Clamped, {shownUnit("N")}</th>
            <th className="num">Most, {shownUnit("N")}</th>
            <th className="num">Pressure, {shownUnit("MPa")}</th>
            <th className="num">of yield</th>
            <th className="num">Friction used</th>
          </tr>
        </thead>
        <tbody>
          {share.contacts
            .map((item, index) => ({ ...item, index }))
            .sort((a, b) => b.pressure_share - a.pressure_share || b.most_n - a.most_n)
            .map((item) => (
              <tr key={item.name}>
                <td>
                  {item.name}
                  {item.opens && <span className="quiet"> lifts off under a cut</span>}
                </td>
                <td className="num mono">{figure(item.clamped_n, "N", 0)}</td>
                <td className="num mono">{figure(item.most_n, "N", 0)}</td>
                <td className="num mono">
                  <Ask figure={find(`contact_${String(item.index)}`)}>
                    {figure(item.pressure_mpa, "MPa", item.pressure_mpa < 10 ? 1 : 0)}
                  </Ask>
                </td>
                <td
                  className="num mono"
                  style={{ color: PRESSED[item.pressed], fontWeight: item.pressed === "fine" ? 400 : 600 }}
                >
                  {Math.round(100 * item.pressure_share)} %{item.pressed === "fine" ? "" : ` ${item.pressed}`}
                </td>
                <td className="num mono">
                  {item.slip_share >= 0.999 ? "slides" : `${String(Math.round(100 * item.slip_share))} %`}
                </td>
              </tr>
            ))}
        </tbody>
      </table>
      <p className="quiet smaller above-6">
        The part moves{" "}
        <Ask className="mono" figure={find("moves")}>
          {withUnit(share.moves_mm, "mm", 4)}
        </Ask>{" "}
        at the cutter, at most. Contacts as springs, part and fixture stiff beside them; forces at the low end of the
        torque, pressure at its high end.
        {share.settled ? "" : " Under some cut friction is used up everywhere: it slides."}
      </p>
    </div>
  );
}
