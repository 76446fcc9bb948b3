/** A number that can be asked where it comes from: formula, inputs, source. */
import { Popover } from "@mui/material";
import { useState, type ReactNode } from "react";

import type { Figure } from "../api/types";
import { useUnits } from "./units";

export function Ask({
  figure,
  children,
  className = "",
}: {
  figure: Figure | undefined;
  children: ReactNode;
  className?: string;
}) {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  const { withUnit, plain, shownUnit, says } = useUnits();
  if (!figure) return <span className={className}>{children}</span>;
  return (
    <>
      <button
        type="button"
        className={`plain ask ${className}`}
        title="Where does this come from?"
        aria-label={`${figure.label}: where does it come from?`}
        data-figure={figure.id}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {children}
      </button>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
      >
        <div style={{ padding: 16, width: 430 }} data-testid="where-from">
          <h2 style={{ fontSize: 15.5 }}>
            {figure.label}: <span className="mono">{withUnit(figure.value, figure.unit, figure.digits)}</span>
          </h2>
          <p style={{ margin: "6px 0 10px" }}>{says(figure.formula)}</p>
          <table className="lines">
            <tbody>
              {figure.inputs.map((item) => (
                <tr key={item.name}>
                  <td>{item.name}</td>
                  <td className="num mono" style={{ whiteSpace: "nowrap" }}>
                    {plain(item.value, item.unit ?? "")} {shownUnit(item.unit ?? "")}
                  </td>
                  <td className="quiet" style={{ fontSize: 12.5 }}>
                    {says(item.source)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
          <p className="quiet" style={{ marginTop: 10, fontSize: 13 }}>
            Source: {says(figure.source)}
          </p>
        </div>
      </Popover>
    </>
  );
}
