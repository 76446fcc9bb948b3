/** The tables of the setter's sheet. */
import type { ReactNode } from "react";

import type { SetupSheet } from "../../api/types";
import { Said } from "../../ui/Said";
import { capital, useUnits } from "../../ui/units";

function Rows({ title, heads, rows }: { title: string; heads: ReactNode[]; rows: ReactNode[][] }) {
  if (rows.length === 0) return null;
  return (
    <>
      <h2>{title}</h2>
      <table className="lines" aria-label={title}>
        <thead>
          <tr>
            {heads.map((head, k) => (
              <th key={k}>{head}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, k) => (
            <tr key={k}>
              {row.map((cell, n) => (
                <td key={n}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

const Steps = ({ steps }: { steps: string[] }) => (
  <ol className="tight-steps">
    {steps.map((step) => (
      <li key={step}>
        <Said text={capital(step)} />
      </li>
    ))}
  </ol>
);

export function Tightened({ sheet }: { sheet: SetupSheet }) {
  const { withUnit } = useUnits();
  return (
    <Rows
      title="Tighten"
      heads={["Op", "Clamp", "With", "Torque", "In this order"]}
      rows={sheet.tightened.map((item) => [
        item.ops.join(", "),
        item.what,
        item.key,
        item.torque_nm == null ? "" : <strong className="mono one-line">{withUnit(item.torque_nm, "N·m", 0)}</strong>,
        <Steps key="steps" steps={item.steps} />,
      ])}
    />
  );
}

export function ZerosToSet({ sheet }: { sheet: SetupSheet }) {
  const { figure, shownUnit } = useUnits();
  return (
    <Rows
      title="Zeros"
      heads={["Offset", `X ${shownUnit("mm")}`, "Y", "Z", "How it is picked up"]}
      rows={sheet.zeros.map((zero) => [
        <strong key="name" className="mono">
          {zero.name}
        </strong>,
        ...zero.at_mm.map((value, k) => (
          <span key={k} className="mono">
            {figure(value, "mm", 3)}
          </span>
        )),
        <Steps key="steps" steps={zero.steps ?? []} />,
      ])}
    />
  );
}

export function ToolsToLoad({ sheet }: { sheet: SetupSheet }) {
  const { withUnit } = useUnits();
  return (
    <>
      <Rows
        title="Tools"
        heads={["Tool", "Cutter", "Holder", "Length", "In the magazine"]}
        rows={sheet.tools.map((tool) => [
          <strong key="number" className="mono">
            T{tool.number}
          </strong>,
          tool.cutter,
          tool.holder || <span className="not-known">nobody has said</span>,
          tool.length_mm == null ? (
            "measure"
          ) : (
            <span key="length" className="mono">
              {withUnit(tool.length_mm, "mm", 1)}
            </span>
          ),
          tool.there ? "in the table" : <strong key="add">add it</strong>,
        ])}
      />
      {sheet.remove.length > 0 && <p>The magazine is full: take out {sheet.remove.join(", ")}.</p>}
    </>
  );
}

export function Measures({ sheet }: { sheet: SetupSheet }) {
  const { withUnit } = useUnits();
  return (
    <Rows
      title="First article"
      heads={["Measure", "Tolerance", "Expected", "Worst at", "With"]}
      rows={sheet.first_article.map((item) => [
        `${item.feature}, op ${String(item.op)}`,
        item.tolerance_mm == null ? "" : <span className="mono">{withUnit(item.tolerance_mm, "mm", 3)}</span>,
        <span key="expected" className="mono">
          {withUnit(item.expected_mm, "mm", 3)}
        </span>,
        `station ${String(item.station)}`,
        item.with_what,
      ])}
    />
  );
}

export function Lifts({ sheet }: { sheet: SetupSheet }) {
  const { withUnit } = useUnits();
  return (
    <Rows
      title="Lifts"
      heads={["What", "Weighs", "Limit by hand", "How"]}
      rows={sheet.heavy.map((item) => [
        item.what,
        <span key="kg" className="mono">
          {withUnit(item.kg, "kg", 1)}
        </span>,
        <span
          key="limit"
          className="mono"
          title={Object.entries(item.multipliers)
            .map(([name, value]) => `${name} ${value.toFixed(2)}`)
            .join(", ")}
        >
          {withUnit(item.limit_kg, "kg", 1)}
        </span>,
        item.by_hand ? "by hand" : <strong className="over-text">with a hoist, or two people</strong>,
      ])}
    />
  );
}
