/** What a draft took for granted, the most doubtful first; each is one press from its field. */
import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router";

import { Said } from "../ui/Said";
import { wayTo } from "../editing/route";
import type { JobState } from "../api/types";

export function Assumed({ job }: { job: JobState }) {
  const [open, setOpen] = useState(false);
  const navigate = useNavigate();
  const found = job.assumed ?? [];
  if (found.length === 0) return null;
  return (
    <>
      <Button variant="outlined" onClick={() => setOpen(true)}>
        {found.length} assumed
      </Button>
      <Dialog open={open} onClose={() => setOpen(false)} maxWidth="sm" fullWidth>
        <DialogTitle>What was assumed</DialogTitle>
        <DialogContent>
          <p className="quiet">
            Proposed from the file alone, the most doubtful first. What you change stays as you set it.
          </p>
          <table className="lines">
            <tbody>
              {found.map((item) => (
                <tr key={item.field}>
                  <td>
                    <Said text={item.why} />
                  </td>
                  <td className="num">
                    <Button
                      size="small"
                      variant="outlined"
                      onClick={() => {
                        setOpen(false);
                        void navigate(wayTo(item.field, job, item.step));
                      }}
                    >
                      See
                    </Button>
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Close</Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
