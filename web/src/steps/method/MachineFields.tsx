/** The machine of a setup: picked from the shop or typed. */
import { useCatalogue } from "../../api/queries";
import { useEditor, useStored } from "../../editing/editor";
import { useMachineSaid } from "../../editing/machine";
import { Choice, Field } from "../../ui/Field";

const OWN = "own values";

export function MachineFields() {
  const { here, change, mayEdit } = useEditor();
  const stored = useStored();
  const machines = useCatalogue().data?.machines ?? [];
  const machine = here.setup.machine;
  const { asInShop, said } = useMachineSaid(machine);
  const at = here.of("machine");
  const own = asInShop ? [] : [{ value: OWN, label: said }];
  return (
    <>
      <h2>Machine</h2>
      <div className="wide">
        <Choice
          label="Machine"
          name={at}
          value={asInShop ? machine.name : OWN}
          options={[...machines.map((item) => ({ value: item.name, label: item.name })), ...own]}
          disabled={!mayEdit}
          store={(value) => {
            const picked = machines.find((item) => item.name === value);
            if (picked) change(at, picked);
          }}
        />
      </div>
      <Field label="Travel X" {...stored(`${at}.travel_x_mm`, "mm")} />
      <Field label="Travel Y" {...stored(`${at}.travel_y_mm`, "mm")} />
      <Field label="Table or pallet load" {...stored(`${at}.table_load_kg`, "kg")} />
      <Field label="Spindle power" {...stored(`${at}.spindle_power_kw`, "kW")} />
      <Field label="Positioning, ±" {...stored(`${at}.positioning_mm`, "mm")} />
      <Field label="and per metre, ±" {...stored(`${at}.positioning_per_m_mm`, "mm")} />
    </>
  );
}
