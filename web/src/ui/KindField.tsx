/** One field of a kind of thing, as the service describes it: a kind that is added there has its fields here. */
import { Button } from "@mui/material";

import type { FieldInfo } from "../api/types";
import { Cell } from "./Cell";
import { Choice, Field } from "./Field";
import { useUnits } from "./units";

/** A material as the shop has it. */
type Stuff = Readonly<Record<string, unknown>>;

export function KindField({
  field,
  name,
  value,
  materials,
  mayEdit,
  error,
  store,
}: {
  field: FieldInfo;
  name: string;
  value: unknown;
  materials: readonly Stuff[];
  mayEdit: boolean;
  error: string | undefined;
  store: (value: unknown) => void;
}) {
  const common = { name, label: field.title, disabled: !mayEdit };
  if (field.type === "choice")
    return (
      <Choice
        {...common}
        value={String(value)}
        options={(field.choices ?? []).map((choice) => ({ value: choice, label: choice }))}
        store={store}
      />
    );
  if (field.type === "yes or no")
    return (
      <Choice
        {...common}
        value={value ? "yes" : "no"}
        options={[
          { value: "yes", label: "yes" },
          { value: "no", label: "no" },
        ]}
        store={(given) => store(given === "yes")}
      />
    );
  if (field.type === "material") {
    const now = value as { id?: string; name?: string } | null;
    const options = materials.map((entry) => ({ value: String(entry.id), label: String(entry.name) }));
    const known = options.some((option) => option.value === now?.id);
    return (
      <Choice
        {...common}
        value={now?.id ?? ""}
        options={known ? options : [{ value: now?.id ?? "", label: now?.name ?? "" }, ...options]}
        store={(id) => store(materials.find((entry) => entry.id === id))}
      />
    );
  }
  if (field.type === "list of texts")
    return (
      <Field
        {...common}
        error={error}
        text
        value={((value as string[] | null) ?? []).join("; ")}
        store={(given) =>
          store(
            String(given)
              .split(/[;,]/)
              .map((text) => text.trim())
              .filter(Boolean),
          )
        }
      />
    );
  if (field.type === "tools") return <ToolTable title={field.title} tools={(value as Tool[] | null) ?? []} />;
  if (field.type === "keep-outs" || field.type === "curve")
    return (
      <Rows
        field={field}
        name={name}
        rows={(value as Record<string, number>[] | null) ?? []}
        mayEdit={mayEdit}
        error={error}
        store={store}
      />
    );
  return (
    <Field
      {...common}
      error={error}
      text={field.type === "text"}
      unit={field.unit ?? ""}
      value={typeof value === "number" || typeof value === "string" ? value : ""}
      store={store}
    />
  );
}

interface Tool {
  number: number;
  cutter: { name?: string; kind?: string };
  holder: { name: string } | null;
}

/** What stands in a machine's magazine; it comes with a file of the shop. */
function ToolTable({ title, tools }: { title: string; tools: Tool[] }) {
  return (
    <div>
      <p className="label">{title}</p>
      {tools.length === 0 && <p className="quiet">None yet: it comes in with a file of the shop.</p>}
      {tools.map((tool) => (
        <p key={tool.number}>
          <span className="mono">T{tool.number}</span> {tool.cutter.name ?? tool.cutter.kind}
          <span className="quiet">
            {" "}
            {tool.holder ? `in ${tool.holder.name}` : "in no holder that anybody has said"}
          </span>
        </p>
      ))}
    </div>
  );
}

const ROWS: Record<string, { columns: [string, string, string][]; fresh: Record<string, unknown> }> = {
  "keep-outs": {
    columns: [
      ["x_mm", "X", "mm"],
      ["y_mm", "Y", "mm"],
      ["width_mm", "Diameter", "mm"],
      ["height_mm", "Height", "mm"],
    ],
    fresh: { shape: "round", x_mm: 20, y_mm: 20, width_mm: 18, depth_mm: null, height_mm: 10 },
  },
  curve: {
    columns: [
      ["rpm", "rpm", ""],
      ["torque_nm", "Torque", "N·m"],
    ],
    fresh: { rpm: 1000, torque_nm: 50 },
  },
};

function Rows({
  field,
  name,
  rows,
  mayEdit,
  error,
  store,
}: {
  field: FieldInfo;
  name: string;
  rows: Record<string, number>[];
  mayEdit: boolean;
  error: string | undefined;
  store: (rows: unknown[]) => void;
}) {
  const { shownUnit } = useUnits();
  const shape = ROWS[field.type];
  if (!shape) return null;
  const change = (index: number, key: string, value: unknown) =>
    store(rows.map((row, other) => (other === index ? { ...row, [key]: value } : row)));
  return (
    <div>
      <p className="under-4">{field.title}</p>
      <table className="sheet" aria-label={field.title}>
        <thead>
          <tr>
            {shape.columns.map(([key, title, unit]) => (
              <th key={key} className="num">
                {title} {shownUnit(unit)}
              </th>
            ))}
            <td />
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={index}>
              {shape.columns.map(([key, title, unit]) => (
                <td key={key}>
                  <Cell
                    label={`${title}, row ${String(index + 1)}`}
                    name={`${name}.${String(index)}.${key}`}
                    value={row[key] ?? null}
                    unit={unit}
                    width={76}
                    disabled={!mayEdit}
                    store={(value) => change(index, key, value)}
                  />
                </td>
              ))}
              <td>
                {mayEdit && (
                  <Button
                    size="small"
                    onClick={() => store(rows.filter((_unused, other) => other !== index))}
                    aria-label={`Remove row ${String(index + 1)}`}
                  >
                    ×
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {error && <p className="problem-list">{error}</p>}
      {mayEdit && (
        <Button size="small" variant="outlined" className="above-6" onClick={() => store([...rows, shape.fresh])}>
          Add a row
        </Button>
      )}
    </div>
  );
}
