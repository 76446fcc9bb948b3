/** What would make it hold: each was solved again with that one change. */
import { Button } from "@mui/material";

import type { Figure } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Ask } from "../../ui/Ask";
import type { Hold } from "../../api/hold";
import { Said } from "../../ui/Said";

export function Remedies({ hold, find, at }: { hold: Hold; at: string; find: (id: string) => Figure | undefined }) {
  const { change, mayEdit } = useEditor();
  const found = hold.remedies ?? [];
  if (found.length === 0) return null;
  return (
    <div data-testid="remedies" className="above-14">
      <h2>What would make it hold</h2>
      <table className="lines">
        <tbody>
          {found.map((item, index) => (
            <tr key={item.what}>
              <td>
                <Said text={item.what.slice(0, 1).toUpperCase() + item.what.slice(1)} />
              </td>
              <td className={`num mono ${item.holds ? "stands" : "stands-not"}`}>
                <Ask figure={find(`remedy_${String(index)}`)}>{item.factor.toFixed(2)}</Ask>
              </td>
              <td className="num">
                <Button
                  size="small"
                  disabled={!mayEdit}
                  onClick={() => change(item.field.replace(/^station/, at), item.value)}
                  aria-label={`Take ${item.what}`}
                >
                  Take
                </Button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
