/** What a chart or a table holds, taken along to a spreadsheet: tabs and lines, as those paste. */
import { useState } from "react";

export function Copy({ what, rows }: { what: string; rows: () => (string | number)[][] }) {
  const [said, setSaid] = useState("Copy");
  const copy = () => {
    const text = rows()
      .map((row) => row.join("\t"))
      .join("\n");
    navigator.clipboard.writeText(text).then(
      () => setSaid("Copied"),
      () => setSaid("Not copied: the browser does not allow it"),
    );
    window.setTimeout(() => setSaid("Copy"), 2500);
  };
  return (
    <button type="button" className="link no-print" onClick={copy} aria-label={`${said}: ${what}, for a spreadsheet`}>
      {said}
    </button>
  );
}
