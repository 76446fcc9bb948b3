import type { Figure, Limit } from "../../api/types";
import { Ask } from "../../ui/Ask";
import { useUnits } from "../../ui/units";

const COLOURS = { within: "var(--within)", close: "var(--close)", over: "var(--over)" };

/** One list of limits: how much of each is used, what keeps one more part out on top. */
export function Ledger({ limits, find }: { limits: Limit[]; find: (id: string) => Figure | undefined }) {
  const { figure: shown, shownUnit, says } = useUnits();
  return (
    <div data-testid="ledger">
      {limits.map((limit) => {
        const used = shown(limit.used, limit.unit ?? "", limit.digits ?? 2);
        const allowed = shown(limit.allowed, limit.unit ?? "", limit.unit === "%" ? 0 : (limit.digits ?? 2))
          .replace(/(\.\d*?)0+$/, "$1")
          .replace(/\.$/, "");
        const text =
          limit.sense === "at least"
            ? `${used}, needs ${allowed}`
            : limit.unit === "%"
              ? `${used} %`
              : `${used} of ${allowed} ${shownUnit(limit.unit ?? "")}`;
        return (
          <Ask key={limit.id} figure={find(limit.figure)} className={`limit ${limit.state}`}>
            <span className="row" title={says(`Allowed: ${limit.source}`)} data-limit={limit.id}>
              <span>{limit.label}</span>
              <span className="mono">{text}</span>
            </span>
            <span className="track block">
              <i style={{ width: `${String(Math.min(100, limit.share * 100))}%`, background: COLOURS[limit.state] }} />
              <b />
            </span>
            {limit.binds && (
              <span className="quiet smaller">
                keeps the next part out{limit.id === "face_room" ? ": no further station was found to fit" : ""}
              </span>
            )}
          </Ask>
        );
      })}
    </div>
  );
}
