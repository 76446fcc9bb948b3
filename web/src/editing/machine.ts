/** A setup's machine beside the shop's: a name picked from the list says nothing of what was typed anew since. */
import { useCatalogue } from "../api/queries";
import type { Machine } from "../api/types";

export function useMachineSaid(machine: Machine): { asInShop: boolean; said: string } {
  const inShop = useCatalogue().data?.machines.find((item) => item.name === machine.name);
  const same = (key: keyof Machine) => JSON.stringify(inShop?.[key]) === JSON.stringify(machine[key]);
  const asInShop = inShop !== undefined && TYPED.every(same);
  return { asInShop, said: inShop && !asInShop ? `${machine.name}, changed here` : machine.name };
}

const TYPED = [
  "travel_x_mm",
  "travel_y_mm",
  "table_load_kg",
  "spindle_power_kw",
  "positioning_mm",
  "positioning_per_m_mm",
] as const;
