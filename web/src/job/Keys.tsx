/** Every key of a job's views, by where it is heard. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";

const KEYS: [string, [string, string][]][] = [
  [
    "Anywhere in a job",
    [
      ["Ctrl+Enter", "plan"],
      ["Ctrl+Z, Ctrl+Y", "undo, redo (Ctrl+Shift+Z too), also what was done before the page was loaded"],
      ["Ctrl+P", "print this view"],
      ["Esc", "leave a field as it was, let go of a station"],
      ["?", "this list"],
    ],
  ],
  [
    "On the bench",
    [
      ["T, F", "turn by 90°, flip by 180°, about the part's middle"],
      ["L, Del", "lock, remove"],
      ["A, D", "add a station at the first place that is free, put one beside"],
      ["R, C", "as many as fit in a row to the right, in a column upwards"],
      ["N", "to the next face"],
      ["1, 2, 3, 4", "shade by tolerance, clamping, reach; show the cutter's sweep"],
      ["V, O", "3-D and back, compare designs and back"],
      ["E", "more: files, step of nudging, printing"],
      ["left, right", "from tool to tool, with a tool in focus"],
    ],
  ],
  [
    "With the plate in focus",
    [
      ["arrow keys", "from station to station"],
      ["Shift+arrow keys", "nudge the stations picked by the step; with Ctrl too by a tenth of it"],
      ["+, -, 0", "nearer, farther, the whole plate; the wheel does it too"],
      ["M", "measure"],
      ["Alt while dragging", "come to rest on nothing"],
    ],
  ],
  [
    "In 3-D, with the picture in focus",
    [
      ["arrow keys", "turn it"],
      ["+, -, 0", "nearer, farther, as it was"],
      ["X", "cut it open, and whole again"],
    ],
  ],
];

export function Keys({ open, close }: { open: boolean; close: () => void }) {
  return (
    <Dialog open={open} onClose={close}>
      <DialogTitle>Keys</DialogTitle>
      <DialogContent>
        {KEYS.map(([where, keys]) => (
          <table key={where} className="lines tight keys">
            <caption>{where}</caption>
            <tbody>
              {keys.map(([key, does]) => (
                <tr key={key}>
                  <th scope="row" className="mono">
                    {key}
                  </th>
                  <td>{does}</td>
                </tr>
              ))}
            </tbody>
          </table>
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
