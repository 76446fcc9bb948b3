import { useRef, useState } from "react";
import { Link } from "react-router";

import { useEditor, useFigures, useStored } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import type { Held } from "../../editing/here";
import { wayTo } from "../../editing/route";
import { Ask } from "../../ui/Ask";
import { Choice, Field } from "../../ui/Field";
import { Notice } from "../../ui/Notice";
import { capital, useUnits } from "../../ui/units";
import { useView, Views } from "../../ui/Views";
import { Forces } from "./Forces";
import { Gives } from "./Gives";
import { HoldFigures, type Verdict } from "./HoldFigures";
import { InVise } from "./InVise";
import { Remedies } from "./Remedies";
import { RowShares } from "../../charts/RowShares";
import { TorqueWindow, factorAt } from "../../charts/TorqueWindow";
import { Ways } from "./Ways";
import { Brief, More } from "../../ui/More";
import { Said } from "../../ui/Said";

const VIEWS = [
  { value: "forces", label: "Forces" },
  { value: "ways", label: "Ways of clamping" },
  { value: "give", label: "Give and release" },
  { value: "vise", label: "In a vise" },
] as const;

/** What stands in the way of a hold that could be checked, and the way there. */
function NotChecked() {
  const { job, here } = useEditor();
  const reason = here.result?.reasons[0];
  return (
    <Notice
      title="The hold was not checked"
      kind="info"
      action={reason && <Link to={wayTo(reason.field, job)}>Go to it</Link>}
    >
      {reason && (
        <p>
          What stands in the way: <Said text={reason.what} />. Nearest that works: <Said text={reason.nearest} />.
        </p>
      )}
    </Notice>
  );
}

export function HoldStep() {
  const { job, parts, here, mayEdit, change } = useEditor();
  const stored = useStored();
  const { withUnit } = useUnits();
  const [chosen, setChosen] = useState(0);
  const [view, show] = useView(VIEWS);
  const result = here.result;
  const other = result?.others?.[chosen - 1];
  const hold = (other ? other.hold : result?.hold) ?? null;
  const figures = useFigures();
  const find = (id: string) => (other ? other.figures.find((item) => item.id === id) : figures(id));
  const held = here.shown.held;
  const named = held.map((item, index) => ({
    value: String(index),
    label: `${parts[item.part]?.name ?? ""}, op ${String(parts[item.part]?.ops?.[item.op]?.number ?? "")}`,
  }));
  const { at, station, torque_at, rated_nm: rated, drive } = (held[chosen] ?? held[0]) as Held;
  const stale = job.latest?.run.current === false ? "stale" : "";
  const set = station.clamp.torque_nm;
  const pressing = station.element?.kind ?? "edge clamp";
  // While the slider is moved: what the curve gives there; nothing else changes until it is let go.
  const [moving, setMoving] = useState<number | null>(null);
  const [version, setVersion] = useState(job.version);
  if (version !== job.version) {
    setVersion(job.version);
    setMoving(null);
  }
  const later = useRef<number | undefined>(undefined);
  const shown = hold ? (moving === null ? hold.result.factor : factorAt(hold, moving)) : 0;
  const holds = hold !== null && shown >= hold.needed;
  // Nothing is nothing; 0 is from the first touch of the wrench on.
  const sinks = typeof hold?.sinks_from_nm === "number" && (moving ?? set) >= hold.sinks_from_nm;
  // Green is only what was judged as it stands: not what is read off a curve, nor what answers the job as it was.
  const ink = !holds || sinks ? "var(--over)" : moving !== null || stale ? undefined : "var(--within)";
  return (
    <div className="bench">
      <section className="work">
        <NotCurrent />
        {!hold && job.latest?.run.current && <NotChecked />}
        {hold && (
          <div className={`${view === "vise" ? "" : stale} flex down gap-8 grow may-shrink`}>
            <div className="headline at-top one-row">
              <div>
                <div className="big mono" style={{ color: ink }} data-testid="factor">
                  <Ask figure={find("hold_factor")}>{shown.toFixed(2)}</Ask>
                </div>
                <div className="label">
                  {moving === null ? `factor, needs ${String(hold.needed)}` : `at ${withUnit(moving, "N·m", 1)}, about`}
                </div>
                {sinks && <div className="label over">sinks into the part</div>}
              </div>
              <p className="size-xl">
                <Said text={hold.result.sentence} />.
              </p>
            </div>
            <Views label="What about the hold" views={VIEWS} shown={view} show={show} />
            {view === "forces" && <Forces hold={hold} kind={chosen} find={find} />}
            {view === "ways" && <Ways kind={chosen} />}
            {view === "give" && <Gives hold={hold} />}
            {view === "vise" && <InVise />}
          </div>
        )}
      </section>
      <aside className="side" tabIndex={0}>
        {named.length > 1 && (
          <div className="under-14">
            <Choice
              label="Held in"
              name="op"
              value={String(chosen)}
              options={named}
              disabled={false}
              store={(value) => setChosen(Number(value))}
            />
          </div>
        )}
        <h2>{hold && !hold.torque ? "Held by vacuum" : `${capital(drive)} torque`}</h2>
        {hold && (hold.curve ?? []).length > 0 && (
          <TorqueWindow
            hold={hold}
            rated={rated}
            torque={moving ?? set}
            disabled={!mayEdit}
            move={setMoving}
            settle={(torque) => {
              // Keys let go at every step: stored once they rest.
              window.clearTimeout(later.current);
              later.current = window.setTimeout(
                () => (torque === set ? setMoving(null) : change(torque_at, torque)),
                400,
              );
            }}
          />
        )}
        {hold && !hold.torque ? (
          <Field label="Vacuum before cutting" {...stored(`${at}.element.low_kpa`, "kPa")} />
        ) : (
          <Field
            label={`On the ${drive}: ${pressing}`}
            {...stored(torque_at, "N·m")}
            {...(mayEdit ? {} : { disabled: true })}
          />
        )}
        {hold && <HoldFigures hold={hold} set={set} rated={rated} drive={drive} stale={stale} find={find} />}
        {hold && <Remedies hold={hold} find={find} at={at} />}
        {hold?.row && <RowShares row={hold.row} figure={find("row_least")} />}
        <hr />
        <Checked hold={hold} />
      </aside>
    </div>
  );
}

/** What stands behind the factor, and what it does not stand for. */
function Checked({ hold }: { hold: Verdict | null }) {
  return (
    <>
      {hold && (
        <>
          <h2>What was checked</h2>
          <More first="The cut at eight places, two depths and sixteen directions, lifting and pressing.">
            The factor is the most this clamping could carry: forces balance with every contact inside its friction
            cone, at the low end of the preload. The table is how they share themselves out meanwhile, and how hard they
            press. A surface marks from its yield on, and sinks in at 2.8 times it.
          </More>
          <hr />
        </>
      )}
      <h2>Caution</h2>
      <p className="said">First article in single block, door shut. Maker, builder and local rules come first.</p>
      {(hold?.cautions ?? []).map((line) => (
        <Brief key={line} text={line} />
      ))}
    </>
  );
}
