/** What a setup's parts are held in: a plate, a tombstone, a bar and so on, with the fields of that kind. */
import { useCatalogue, useRouteChange } from "../../api/queries";
import type { Vise } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Choice } from "../../ui/Field";
import { KindField } from "../../ui/KindField";
import { ProblemNotice } from "../../ui/Notice";

/** Whether a field has a meaning as the form stands: the service names the value of another that gives it one. */
const saysSomething = (form: Record<string, unknown>) => (field: { where?: string }) => {
  const [path, value] = (field.where ?? "").split("=");
  if (!path) return true;
  const stands = path.split(".").reduce<unknown>((node, key) => (node as Record<string, unknown>)[key], form);
  return String(stands) === value;
};

export function FormFields() {
  const { job, here, change, errors, mayEdit } = useEditor();
  const picks = useCatalogue().data;
  const route = useRouteChange(job.id);
  const form = here.setup.form as { kind: string } & Record<string, unknown>;
  const vise = form.vise as Vise | undefined;
  const vises = picks?.vises ?? [];
  const kinds = picks?.form_kinds ?? [];
  const kind = kinds.find((item) => item.kind === form.kind);
  return (
    <>
      <h2>Held in</h2>
      <div className="wide">
        <Choice
          label="Form"
          name={here.of("form.kind")}
          value={form.kind}
          options={kinds.map((item) => ({
            value: item.kind,
            label: item.plans ? item.kind : `${item.kind}, not planned yet`,
          }))}
          disabled={!mayEdit}
          store={(value) => route.mutate({ to: `setups/${String(here.number)}/form`, body: { kind: value } })}
        />
        <p className="quiet small">{kind?.reaches}</p>
        {route.error && <ProblemNotice error={route.error} />}
      </div>
      {vise && (
        <div className="wide">
          <Choice
            label="Vise"
            name={here.of("form.vise")}
            value={vise.name}
            options={[vise, ...vises.filter((item) => item.name !== vise.name)].map((item) => ({
              value: item.name,
              label: item.name,
            }))}
            disabled={!mayEdit}
            store={(name) =>
              change(
                here.of("form.vise"),
                vises.find((item) => item.name === name),
              )
            }
          />
        </div>
      )}
      {(kind?.fields ?? []).filter(saysSomething(form)).map((field) => (
        <KindField
          key={field.name}
          field={field}
          name={here.of(`form.${field.name}`)}
          value={form[field.name]}
          materials={(picks?.materials ?? []) as unknown as Record<string, unknown>[]}
          mayEdit={mayEdit}
          error={errors[here.of(`form.${field.name}`)]}
          store={(value) => change(here.of(`form.${field.name}`), value)}
        />
      ))}
    </>
  );
}
