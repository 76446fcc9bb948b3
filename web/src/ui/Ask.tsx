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
        aria-label={nameOf(children, figure)}
        data-figure={figure.id}
        onClick={(event) => setAnchor(event.currentTarget)}
      >
        {children}
      </button>
      {anchor && (
        <Popover
          open
          anchorEl={anchor}
          onClose={() => setAnchor(null)}
          anchorOrigin={{ vertical: "bottom", horizontal: "left" }}
        >
          <div className="ask-box" data-testid="where-from">
            <h2 className="size-l">
              {figure.label}: <span className="mono">{withUnit(figure.value, figure.unit, figure.digits)}</span>
            </h2>
            <p className="above-6 under-10">{says(figure.formula)}</p>
            <table className="lines">
              <tbody>
                {figure.inputs.map((item) => (
                  <tr key={item.name}>
                    <td>{item.name}</td>
                    <td className="num mono one-line">
                      {plain(item.value, item.unit ?? "")} {shownUnit(item.unit ?? "")}
                    </td>
                    <td className="quiet smaller">{says(item.source)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="quiet above-10 small">Source: {says(figure.source)}</p>
          </div>
        </Popover>
      )}
    </>
  );
}

/** What is read on screen first, then what it is; what is more than a word or a number is read as it stands. */
function nameOf(children: ReactNode, figure: Figure): string | undefined {
  const plain = typeof children === "string" || typeof children === "number";
  return plain ? `${String(children)}, ${figure.label}: where does it come from?` : undefined;
}
