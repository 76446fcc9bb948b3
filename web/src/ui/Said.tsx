/** A sentence of the engine in the reader's units. */
import { useUnits } from "./units";

export function Said({ text }: { text: string | null | undefined }) {
  return <>{useUnits().says(text ?? "")}</>;
}
