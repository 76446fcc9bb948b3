/** Step 2: the ops of each part and their cuts, with the load each puts on the part. */
import { Button } from "@mui/material";
import { useState } from "react";
import { useSearchParams } from "react-router";

import { useCatalogue, useRemoval, useRouteChange } from "../../api/queries";
import type { Cut } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { Choice, Field } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { StatesSection } from "../part/StatesSection";
import { CutDetail } from "./CutDetail";
import { CutTable } from "./CutTable";
import { PasteCuts } from "./PasteCuts";
import { SetupsPanel } from "./SetupsPanel";
import { Tabs } from "../../ui/Tabs";

const UPS = ["+Z", "-Z", "+X", "-X", "+Y", "-Y"].map((side) => ({ value: side, label: `${side} up` }));

export function CutsStep() {
  const { parts, here, change, mayEdit, job } = useEditor();
  const route = useRouteChange(job.id);
  const removal = useRemoval(job.id);
  const stored = useStored();
  const { withUnit } = useUnits();
  const picks = useCatalogue().data;
  const [asked, setAsked] = useSearchParams();
  const [selected, setSelected] = useState(0);
  const [pasting, setPasting] = useState(false);
  const planned = { part: here.shown.held[0]?.part ?? 0, op: here.shown.held[0]?.op ?? 0 };
  const number = (key: string, most: number, start: number) =>
    Math.max(0, Math.min(Number(asked.get(key) ?? start) || 0, most));
  const partIndex = number("part", parts.length - 1, planned.part);
  const part = parts[partIndex];
  const ops = part?.ops ?? [];
  const opIndex = number("op", ops.length - 1, partIndex === planned.part ? planned.op : 0);
  const op = ops[opIndex];
  const facts = job.facts[partIndex]?.ops[opIndex];
  const show = asked.get("show");
  const setups = show === "setups";
  const states = show === "states";
  if (!part || !op || !facts) return null;
  const at = `job.parts.${String(partIndex)}.ops.${String(opIndex)}`;
  const go = (to: { part?: number; op?: number; show?: string }) => {
    setSelected(0);
    setAsked(
      {
        part: String(to.part ?? partIndex),
        op: String(to.op ?? (to.part === undefined ? opIndex : 0)),
        show: to.show ?? "",
      },
      { replace: true },
    );
  };
  const cuts = op.cuts ?? [];
  const addCut = () => {
    const last = cuts.at(-1);
    const fresh: Cut | undefined = last
      ? { ...last, name: `T${String(cuts.length + 1)}`, seconds: null, path_mm: null }
      : picks?.cut;
    if (fresh) change(`${at}.cuts`, [...cuts, fresh]);
    setSelected(cuts.length);
  };
  const holding = (p: number, o: number) =>
    job.setups.find((setup) => setup.held.some((held) => held.part === p && held.op === o));
  const holds = holding(partIndex, opIndex);
  const chosen = Math.min(selected, cuts.length - 1);
  return (
    <div className="step">
      {removal.error && <ProblemNotice error={removal.error} />}
      {route.error && <ProblemNotice error={route.error} />}
      <div className="tabs">
        {parts.length > 1 && (
          <span className="menu-text">
            <Choice
              label="Part"
              name="part"
              value={String(partIndex)}
              options={parts.map((item, index) => ({ value: String(index), label: item.name }))}
              store={(value) => go({ part: Number(value) })}
            />
          </span>
        )}
        <Tabs
          label="Ops"
          chosen={setups ? null : opIndex}
          choose={(index) => go({ op: Number(index) })}
          tabs={ops.map((item, index) => ({
            id: index,
            says: (
              <>
                Op <span className="mono">{item.number}</span> <span className="quiet-here">{item.up} up</span>{" "}
                <span className="mono smaller">{withUnit(job.facts[partIndex]?.ops[index]?.seconds ?? 0, "s", 0)}</span>
                {holding(partIndex, index)?.number === here.number && (
                  <span title={`Held in ${here.shown.name.toLowerCase()}`}> ◣</span>
                )}
              </>
            ),
          }))}
        />
        {mayEdit && picks && ops.length < 20 && (
          <button
            type="button"
            className="add"
            onClick={() => {
              change(`job.parts.${String(partIndex)}.ops`, [
                ...ops,
                { ...picks.op, number: (ops.at(-1)?.number ?? 0) + 10 },
              ]);
              go({ op: ops.length });
            }}
          >
            Add an op
          </button>
        )}
        <span className="to-end flex ruled-left">
          <Tabs
            label="Of the ops"
            look="section"
            chosen={asked.get("show")}
            choose={(name) => go({ show: asked.get("show") === name ? "" : String(name) })}
            tabs={[
              { id: "states", says: "Before and after" },
              { id: "setups", says: "Fewest setups" },
            ]}
          />
        </span>
      </div>
      {states ? (
        <StatesSection
          key={`${String(partIndex)} ${String(opIndex)}`}
          index={partIndex}
          part={part}
          start={opIndex + 1}
        />
      ) : setups ? (
        <SetupsPanel partIndex={partIndex} part={part} done={() => go({ op: 0, show: "" })} />
      ) : (
        <>
          <div className="pad flex gap-10 at-top pad-under-8">
            <div className="grow">
              <Field label={`What op ${String(op.number)} machines`} {...stored(`${at}.does`, "", true)} />
            </div>
            <div className="wide-100">
              <Choice
                label="Side that is up"
                name={`${at}.up`}
                value={op.up ?? "+Z"}
                options={UPS}
                disabled={!mayEdit}
                store={(value) => change(at, { ...op, up: value, reached: [value] })}
              />
            </div>
            <div className="wide-100">
              <Field label="Turned, °" {...stored(`${at}.turn_deg`)} />
            </div>
            <div className="wide-210">
              <Choice
                label="Held in"
                name="held-in"
                value={holds ? String(holds.number) : ""}
                options={[
                  ...job.setups.map((setup) => ({
                    value: String(setup.number),
                    label: `${setup.name}, ${setup.form}`,
                  })),
                  { value: String(job.setups.length + 1), label: "A setup of its own" },
                  { value: "", label: "Nowhere yet" },
                ]}
                disabled={!mayEdit}
                store={(value) =>
                  route.mutate({
                    to: "held",
                    body: { part: partIndex, op: opIndex, setup: value ? Number(value) : null },
                  })
                }
              />
            </div>
            {mayEdit && (
              <>
                <Button variant="outlined" className="tall" onClick={() => setPasting(true)}>
                  Paste cuts
                </Button>
                {ops.length > 1 && (
                  <Button
                    variant="outlined"
                    color="error"
                    className="tall"
                    onClick={() => {
                      removal.mutate({ part: partIndex, op: opIndex });
                      go({ op: 0 });
                    }}
                  >
                    Remove op
                  </Button>
                )}
              </>
            )}
          </div>
          <p className="quiet small pad-sides under-6">
            Reached: <span className="mono">{(op.reached ?? []).join(" ")}</span>
            {(op.clamp_on ?? []).length > 0 && `; clamped on ${(op.clamp_on ?? []).join(" and ")}`}
            {op.grip_stock && "; held by the stock left below"}
            {(op.locate_on ?? []).length > 0 && `; against ${(op.locate_on ?? []).join(", ")}`}. Features:{" "}
            {(part.features ?? [])
              .filter((feature) => feature.op === op.number)
              .map((feature) => feature.name)
              .join(", ") || "none yet"}
            . Places are measured from the datum corner as the part sits.
          </p>
          <div className="scroll pad-sides half-high">
            <CutTable
              kinds={picks?.cut_kinds ?? []}
              at={`${at}.cuts`}
              cuts={cuts}
              answers={facts.cuts}
              cutters={picks?.cutters ?? []}
              selected={chosen}
              select={setSelected}
              add={addCut}
              paste={{ part: partIndex, op: opIndex }}
            />
          </div>
          <CutDetail cut={cuts[chosen]} answer={facts.cuts[chosen]} at={`${at}.cuts.${String(chosen)}`} />
        </>
      )}
      {pasting && <PasteCuts part={partIndex} op={opIndex} close={() => setPasting(false)} />}
    </div>
  );
}
