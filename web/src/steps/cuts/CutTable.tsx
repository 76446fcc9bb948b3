/** The cuts of an op as a sheet: arrow keys and Enter go from row to row, cells pasted from a spreadsheet become cuts. */
import { Button } from "@mui/material";

import { usePasteCuts } from "../../api/queries";
import type { Catalogue, Cut, CutAnswer } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import { Cell, Pick, usePlaces } from "../../ui/Cell";
import { ProblemNotice } from "../../ui/Notice";
import { useUnits } from "../../ui/units";
import { Said } from "../../ui/Said";

type CutterDocument = Catalogue["cutters"][number];
type CutKinds = Catalogue["cut_kinds"];

interface Props {
  at: string;
  cuts: Cut[];
  answers: CutAnswer[];
  cutters: CutterDocument[];
  kinds: CutKinds;
  selected: number;
  select: (index: number) => void;
  add: () => void;
  paste: { part: number; op: number };
}

export function CutTable({ at, cuts, answers, cutters, kinds, selected, select, add, paste }: Props) {
  const { change, errors, mayEdit, job } = useEditor();
  const { figure, shownUnit, system } = useUnits();
  const places = usePlaces();
  const pasteCuts = usePasteCuts(job.id);
  const wrong = answers.filter((answer) => answer.wrong);
  return (
    <div
      onPaste={(event) => {
        const text = event.clipboardData.getData("text");
        if (!mayEdit || !/\t|\n.*\S/.test(text)) return;
        event.preventDefault();
        pasteCuts.mutate({ ...paste, text, inch: system === "inch" });
      }}
    >
      <table className="sheet" aria-label="Cuts of this op">
        <thead>
          <tr>
            <th>Cut</th>
            <th>Kind</th>
            <th>Cutter</th>
            <th className="num">⌀ {shownUnit("mm")}</th>
            <th className="num">Teeth</th>
            <th className="num">Depth</th>
            <th className="num">Passes</th>
            <th className="num">Width</th>
            <th className="num">Feed/tooth</th>
            <th className="num">rpm</th>
            <th className="num">{shownUnit("m/min")}</th>
            <th>Where</th>
            <th className="num">Set, s</th>
            <th className="num">Time, s</th>
            <th className="num">Force {shownUnit("N")}</th>
            <th className="num">{shownUnit("N·m")}</th>
            <th className="num">{shownUnit("kW")}</th>
            <td />
          </tr>
        </thead>
        <tbody>
          {cuts.map((cut, index) => {
            const here = `${at}.${String(index)}`;
            const answer = answers[index];
            const find = (id: string) => answer?.figures?.find((item) => item.id === id);
            const out = (id: string, digits: number) => {
              const item = find(id);
              return item ? <Ask figure={item}>{figure(item.value, item.unit ?? "", digits)}</Ask> : "–";
            };
            const hole = kinds.some((item) => item.kind === cut.kind && item.hole);
            const number = (
              field: string,
              label: string,
              unit = "",
              width = 58,
              value: number | null = cut[field as keyof Cut] as number | null,
            ) => (
              <Cell
                label={`${cut.name ?? ""}, ${label}`}
                name={`${here}.${field}`}
                value={value}
                unit={unit}
                width={width}
                disabled={!mayEdit}
                error={
                  errors[`${here}.${field}`] ??
                  (answer?.wrong_field === `cut.${field}` ? (answer.wrong ?? undefined) : undefined)
                }
                store={(given) => change(`${here}.${field}`, given)}
              />
            );
            return (
              <tr
                key={index}
                className={index === selected ? "chosen" : ""}
                onFocus={() => select(index)}
                onClick={() => select(index)}
              >
                <td>
                  <Cell
                    label={`Name of cut ${String(index + 1)}`}
                    name={`${here}.name`}
                    value={cut.name ?? ""}
                    text
                    width={136}
                    disabled={!mayEdit}
                    error={errors[`${here}.name`]}
                    store={(value) => change(`${here}.name`, value)}
                  />
                </td>
                <td>
                  <Pick
                    label={`${cut.name ?? ""}, kind`}
                    name={`${here}.kind`}
                    value={cut.kind ?? "contour"}
                    options={kinds.map((item) => ({ value: item.kind, label: item.kind }))}
                    width={74}
                    disabled={!mayEdit}
                    store={(kind) => change(here, suited(cut, kind, cutters, kinds))}
                  />
                </td>
                <td>
                  <CutterPick
                    kinds={kinds}
                    cut={cut}
                    cutters={cutters}
                    name={`${here}.tool`}
                    disabled={!mayEdit}
                    store={(tool) => change(`${here}.tool`, tool)}
                  />
                </td>
                <td>{number("tool.diameter_mm", "cutter diameter", "mm", 52, cut.tool.diameter_mm)}</td>
                <td>{number("tool.teeth", "teeth", "", 42, cut.tool.teeth)}</td>
                <td>{number("axial_depth_mm", "depth", "mm")}</td>
                <td>{number("passes", "passes", "", 34)}</td>
                <td>
                  {cut.kind === "drill" || cut.kind === "tap" || cut.kind === "slot" ? (
                    <span className="quiet pad-beside">–</span>
                  ) : (
                    number("radial_width_mm", "width", "mm")
                  )}
                </td>
                <td>
                  {cut.kind === "tap"
                    ? number("tool.pitch_mm", "thread pitch", "mm", 64, cut.tool.pitch_mm ?? 0)
                    : number("feed_per_tooth_mm", "feed per tooth", "mm", 64)}
                </td>
                <td>{number("spindle_rpm", "spindle speed", "", 58)}</td>
                <td className="out mono">{out("speed", 0)}</td>
                <td>
                  <Cell
                    label={`${cut.name ?? ""}, places`}
                    name={`${here}.at`}
                    value={places.shown(cut.at ?? [])}
                    short={(cut.at ?? []).length > 2 ? `${String(cut.at?.length)} places` : undefined}
                    text
                    width={hole ? 110 : 84}
                    disabled={!mayEdit}
                    error={
                      errors[`${here}.at`] ??
                      (answer?.wrong_field === "cut.at" ? (answer.wrong ?? undefined) : undefined)
                    }
                    store={(value) => change(`${here}.at`, places.typed(String(value)))}
                  />
                </td>
                <td>{number("seconds", "time set by hand, seconds", "", 46, cut.seconds ?? null)}</td>
                <td className="out mono">{out("seconds", 1)}</td>
                <td className="out mono">{hole && cut.kind !== "bore" ? out("push", 0) : out("force", 0)}</td>
                <td
                  className={`out mono ${answer?.over ? "stands-not" : ""}`}

                  title={answer?.over ?? undefined}
                >
                  {out("spindle_torque", 2)}
                </td>
                <td className={`out mono ${answer?.over ? "stands-not" : ""}`}>{out("power", 2)}</td>
                <td>
                  {mayEdit && (
                    <Button
                      size="small"
                      className="tight"
                      aria-label={`Remove ${cut.name ?? ""}`}
                      onClick={() =>
                        change(
                          at,
                          cuts.filter((_unused, other) => other !== index),
                        )
                      }
                    >
                      ×
                    </Button>
                  )}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      {mayEdit && (
        <Button variant="outlined" className="above-10 under-10" onClick={add}>
          Add a cut
        </Button>
      )}
      {cuts.length === 0 && <p>No cut yet. Add the heaviest one first, or paste a tool list from a spreadsheet.</p>}
      {wrong.map((answer) => (
        <p key={answer.name} className="problem-list" role="alert">
          {answer.name}: <Said text={answer.wrong} />
        </p>
      ))}
      {Object.entries(errors)
        .filter(([key]) => key.startsWith(`${at}.`))
        .map(([key, text]) => (
          <p key={key} className="problem-list" role="alert">
            {cuts[Number(key.slice(at.length + 1).split(".")[0])]?.name}: <Said text={text} />
          </p>
        ))}
      {pasteCuts.error && <ProblemNotice error={pasteCuts.error} />}
    </div>
  );
}

/** The kinds of cutter that suit a kind of cut. */
const fitting = (kind: string | undefined, kinds: CutKinds): string[] =>
  kinds.find((item) => item.kind === (kind ?? "contour"))?.cutters ?? [];

/** The cut as another kind, with the first cutter of the shop that suits it. */
function suited(cut: Cut, kind: string, cutters: CutterDocument[], kinds: CutKinds): Cut {
  const fits = fitting(kind, kinds);
  const typed = kind as NonNullable<Cut["kind"]>;
  if (fits.includes(cut.tool.kind ?? "")) return { ...cut, kind: typed };
  const near = cutters.filter((item) => fits.includes(item.kind ?? ""));
  const tool = near.sort(
    (a, b) => Math.abs(a.diameter_mm - cut.tool.diameter_mm) - Math.abs(b.diameter_mm - cut.tool.diameter_mm),
  )[0];
  return tool
    ? {
        ...cut,
        kind: typed,
        tool,
        at: [],
        axial_depth_mm: Math.min(
          cut.axial_depth_mm,
          kind === "saw" ? (tool.width_mm ?? 1) : (tool.flute_length_mm ?? 30),
        ),
      }
    : { ...cut, kind: typed };
}

function CutterPick({
  cut,
  cutters,
  kinds,
  name,
  disabled,
  store,
}: {
  cut: Cut;
  cutters: CutterDocument[];
  kinds: CutKinds;
  name: string;
  disabled: boolean;
  store: (tool: CutterDocument) => void;
}) {
  const suiting = fitting(cut.kind, kinds);
  const fits = cutters.filter((item) => suiting.includes(item.kind ?? ""));
  const known = fits.find((item) => item.name === cut.tool.name && item.diameter_mm === cut.tool.diameter_mm);
  const own = cut.tool.name ?? "own values";
  return (
    <Pick
      label={`${cut.name ?? ""}, cutter`}
      name={name}
      value={known?.name ?? own}
      options={fits.map((item) => ({ value: item.name ?? "", label: item.name ?? "" }))}
      width={168}
      disabled={disabled}
      store={(value) => {
        const tool = fits.find((item) => item.name === value);
        if (tool) store(tool);
      }}
    />
  );
}
