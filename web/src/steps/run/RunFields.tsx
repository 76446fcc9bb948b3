/** Who is there, what wears, what stops: what a run is reckoned with. The service says which fields there are. */
import { useCatalogue } from "../../api/queries";
import { useEditor, valueAt } from "../../editing/editor";
import { KindField } from "../../ui/KindField";

export function RunFields() {
  const { job, change, errors, mayEdit } = useEditor();
  const fields = useCatalogue().data?.running ?? [];
  return (
    <>
      <h2>Run with</h2>
      <p className="quiet small">From memory until you have timed your own.</p>
      <div className="run-fields">
        {fields.map((field) => {
          const at = `running.${field.name}`;
          return (
            <div key={at} title={field.reason}>
              <KindField
                field={field}
                name={at}
                value={valueAt(job.document, at)}
                materials={[]}
                mayEdit={mayEdit}
                error={errors[at]}
                store={(value) => change(at, value)}
              />
            </div>
          );
        })}
      </div>
    </>
  );
}
