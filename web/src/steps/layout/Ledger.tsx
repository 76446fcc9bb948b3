/** One list of limits: how much of each is used, what keeps one more part out on top; what moves a limit is set on its row. */
import type { Figure, Limit } from "../../api/types";
import { useStored } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Cell, Pick } from "../../ui/Cell";
import { useUnits } from "../../ui/units";

export function Ledger({ limits, find }: { limits: Limit[]; find: (id: string) => Figure | undefined }) {
  return (
    <ul className="ledger" data-testid="ledger">
      {limits.map((limit) => (
        <Row key={limit.id} limit={limit} figure={find(limit.figure)} />
      ))}
    </ul>
  );
}

function Row({ limit, figure }: { limit: Limit; figure: Figure | undefined }) {
  const { says } = useUnits();
  const { used, allowed, unit } = useAmounts(limit);
  const own = limit.set_by;
  const set = own && <Set of={limit} />;
  const asks = own?.shows !== "used"; // where the amount is a field, the words beside it are asked
  return (
    <li className={`limit ${limit.state}`} title={says(`Allowed: ${limit.source}`)} data-limit={limit.id}>
      <div className="row">
        <span className="grow">{asks ? limit.label : <Ask figure={figure}>{limit.label}</Ask>}</span>
        <span className="mono amount">
          {asks ? <Ask figure={figure}>{used}</Ask> : set}
          {limit.unit !== "%" && (
            <>
              {limit.sense === "at least" ? ", needs " : " of "}
              {own?.shows === "allowed" ? set : allowed}
            </>
          )}{" "}
          {unit}
        </span>
      </div>
      {own?.shows === "beside" && (
        <div className="row beside-limit">
          <span className="grow quiet">{own.label}</span>
          {set}
        </div>
      )}
      <span className="track block">
        <i className={limit.state} style={{ width: `${String(Math.min(100, limit.share * 100))}%` }} />
        <b />
      </span>
      {limit.binds && <span className="quiet smaller">keeps the next part out</span>}
    </li>
  );
}

function useAmounts(limit: Limit) {
  const { figure: shown, shownUnit } = useUnits();
  const digits = limit.digits ?? 2;
  const allowed = shown(limit.allowed, limit.unit ?? "", digits)
    .replace(/(\.\d*?)0+$/, "$1")
    .replace(/\.$/, "");
  return { used: shown(limit.used, limit.unit ?? "", digits), allowed, unit: shownUnit(limit.unit ?? "") };
}

/** The value that moves a limit, to be typed where the limit is read. */
function Set({ of: { label, set_by: own } }: { of: Limit }) {
  const stored = useStored();
  const { shownUnit } = useUnits();
  if (!own) return null;
  const field = stored(own.field, own.unit);
  const said = `${own.label} for ${label}`;
  if ((own.options ?? []).length > 0)
    return (
      <Pick
        label={said}
        {...field}
        value={String(field.value)}
        width="auto"
        options={(own.options ?? []).map((value) => ({ value, label: value }))}
      />
    );
  return (
    <>
      <Cell label={said} {...field} width={60} store={(value) => value !== null && field.store(value)} />
      {own.shows === "beside" && <span className="mono">{shownUnit(own.unit ?? "")}</span>}
    </>
  );
}
