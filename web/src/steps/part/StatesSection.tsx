/** A part from blank to finished: step through what every op leaves, and what to look at. */
import { lazy, Suspense, useState } from "react";

import { useHeld, useSession, useWorkpiece } from "../../api/queries";
import type { Part, Workpiece } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { StateSection } from "./StateSection";
import { Tabs } from "../../ui/Tabs";

const WorkpieceView = lazy(() => import("../../drawing/WorkpieceView"));

/** ``start``: which state is shown first; 0 is the blank. */
export function StatesSection({ index, part, start = 0 }: { index: number; part: Part; start?: number }) {
  const { job } = useEditor();
  const found = useWorkpiece(job.id, index, job.version);
  const [asked, setAsked] = useState(start);
  const dark = useSession().data?.person?.theme === "dark";
  if (found.error) return <ProblemNotice error={found.error} />;
  const piece = found.data;
  if (!piece) return <p className="quiet pad">Working out what every cut takes</p>;
  const last = piece.states.length + 1;
  const state = Math.min(asked, last);
  const address = `/api/jobs/${job.id}/parts/${String(index)}`;
  const held = job.setups.some((setup) => setup.held.some((item) => item.part === index && item.op === state));
  const version = `state=${String(state)}&version=${String(job.version)}`;
  return (
    <>
      <StateStrip piece={piece} state={state} choose={setAsked} />
      <div className="beside grid gap-20 grow may-shrink halves pad">
        <div className="drawing grow least-240">
          <Suspense fallback={<p className="quiet">Fetching the solid</p>}>
            <Solid
              address={`${address}/workpiece.glb?${version}`}
              dark={dark}
              held={held ? { index, op: state } : null}
            />
          </Suspense>
        </div>
        <div className="scroll flex down gap-10 may-shrink">
          <Doubts piece={piece} />
          <StateSection index={index} state={state} part={part} piece={piece} />
          <Cuts piece={piece} part={part} state={state} />
        </div>
      </div>
    </>
  );
}

/** The solid, with what the next op holds it at where a setup has that op. */
function Solid({
  address,
  dark,
  held,
}: {
  address: string;
  dark: boolean;
  held: { index: number; op: number } | null;
}) {
  const { job } = useEditor();
  const found = useHeld(job.id, held?.index ?? 0, held?.op ?? 0, job.version, held !== null);
  return <WorkpieceView address={address} dark={dark} touched={held ? (found.data?.touched ?? []) : []} />;
}

/** Blank, after each op, finished: pressed, or gone through with the arrow keys. */
function StateStrip({ piece, state, choose }: { piece: Workpiece; state: number; choose: (state: number) => void }) {
  const { withUnit } = useUnits();
  const steps = [
    { name: "Blank", kg: piece.blank.mass_kg },
    ...piece.states.map(({ op, up, after }) => ({ name: `After op ${String(op)}, ${up} up`, kg: after.mass_kg })),
    { name: "Finished", kg: piece.finished.mass_kg },
  ];
  return (
    <div className="setup-bar">
      <Tabs
        label="States of the part"
        chosen={state}
        choose={(number) => choose(Number(number))}
        tabs={steps.map(({ name, kg }, number) => ({
          id: number,
          says: (
            <>
              {name} <span className="mono quiet">{withUnit(kg, "kg", 3)}</span>
            </>
          ),
        }))}
      />
    </div>
  );
}

function Doubts({ piece }: { piece: Workpiece }) {
  const doubts = piece.doubts ?? [];
  const { says } = useUnits();
  if (doubts.length === 0)
    return (
      <p className="said stands" data-testid="doubts">
        Every cut takes what it should, and nothing is left that no cut takes.
      </p>
    );
  return (
    <div className="rows" data-testid="doubts">
      {doubts.map((doubt) => (
        <Notice
          key={`${doubt.field} ${doubt.says}`}
          kind={doubt.wrong ? "over" : "info"}
          title={says(`${doubt.says}.`)}
        />
      ))}
    </div>
  );
}

function Cuts({ piece, part, state }: { piece: Workpiece; part: Part; state: number }) {
  const { figure, shownUnit } = useUnits();
  const op = piece.states[state - 1];
  const typed = part.ops?.[state - 1]?.cuts ?? [];
  if (!op) return null;
  return (
    <table className="lines tight small">
      <thead>
        <tr>
          <th>Op {op.op} takes</th>
          <th className="num">{shownUnit("cm³")}</th>
          <th className="num">at least s</th>
          <th className="num">Set, s</th>
        </tr>
      </thead>
      <tbody>
        {op.cuts.map((cut, number) => (
          <tr key={number}>
            <td>{cut.name}</td>
            <td className="num mono">{figure(cut.volume_mm3 / 1000, "cm³", 2)}</td>
            <td className="num mono">{cut.least_seconds?.toFixed(1) ?? "–"}</td>
            <td className="num mono">{typed[number]?.seconds?.toFixed(1) ?? "–"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
