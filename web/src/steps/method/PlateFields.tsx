/** The plates that stations stand on: picked from the shop or typed, and what else stands on them. */
import { Button } from "@mui/material";

import { useCatalogue } from "../../api/queries";
import type { KeepOut, Plate } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { Choice, Field } from "../../ui/Field";

const OWN = "own values";

export function PlateFields({ plate }: { plate: Plate }) {
  const { here, change, mayEdit } = useEditor();
  const stored = useStored();
  const plates = useCatalogue().data?.plates ?? [];
  const known = plates.find((item) => item.name === plate.name);
  const at = here.of("form.plate");
  const own = known ? [] : [{ value: OWN, label: plate.name ?? "Plate" }];
  return (
    <>
      <h2>Plate</h2>
      <div className="wide">
        <Choice
          label="Plate"
          name={at}
          value={known?.name ?? OWN}
          options={[...plates.map((item) => ({ value: item.name ?? "", label: item.name ?? "" })), ...own]}
          disabled={!mayEdit}
          store={(value) => {
            const picked = plates.find((item) => item.name === value);
            if (picked) change(at, picked);
          }}
        />
      </div>
      <Field label="Width" {...stored(`${at}.width_mm`, "mm")} />
      <Field label="Depth" {...stored(`${at}.depth_mm`, "mm")} />
      <Field label="Thickness" {...stored(`${at}.thickness_mm`, "mm")} />
      <Field label="Margin" {...stored(`${at}.margin_mm`, "mm")} />
      <div className="wide">
        <KeepOuts
          at={`${at}.keepouts`}
          keepouts={plate.keepouts ?? []}
          mayEdit={mayEdit}
          change={(list) => change(`${at}.keepouts`, list)}
        />
      </div>
    </>
  );
}

function KeepOuts({
  at,
  keepouts,
  mayEdit,
  change,
}: {
  at: string;
  keepouts: KeepOut[];
  mayEdit: boolean;
  change: (list: KeepOut[]) => void;
}) {
  const stored = useStored();
  return (
    <div>
      <p className="under-8">Keep-outs: hold-down screws and whatever else stands on the plate</p>
      {keepouts.map((_, index) => (
        <div key={index} className="grid gap-6 under-8 three-and-button">
          <Field label="X" {...stored(`${at}.${String(index)}.x_mm`, "mm")} />
          <Field label="Y" {...stored(`${at}.${String(index)}.y_mm`, "mm")} />
          <Field label="Diameter" {...stored(`${at}.${String(index)}.width_mm`, "mm")} />
          <Button
            disabled={!mayEdit}
            onClick={() => change(keepouts.filter((_unused, other) => other !== index))}
            aria-label={`Remove keep-out ${String(index + 1)}`}
          >
            Remove
          </Button>
        </div>
      ))}
      <Button
        variant="outlined"
        disabled={!mayEdit}
        onClick={() =>
          change([...keepouts, { shape: "round", x_mm: 50, y_mm: 50, width_mm: 18, depth_mm: null, height_mm: 10 }])
        }
      >
        Add keep-out
      </Button>
    </div>
  );
}
