/** What to measure on the first article, in which order and where, with the spread to expect. */
import { Button } from "@mui/material";

import type { Verdicts } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { useUnits } from "../../ui/units";

export function FirstArticle({ found }: { found: Verdicts }) {
  const { job, here } = useEditor();
  const { figure, shownUnit, system, says } = useUnits();
  const kinds = here.result?.designs[0]?.kinds ?? [];
  return (
    <div className="scroll" tabIndex={0}>
      <table className="lines" data-testid="first-article">
        <thead>
          <tr>
            <th className="num">No</th>
            <th>Feature</th>
            <th>Station</th>
            <th>Nominal, {shownUnit("mm")}</th>
            <th>Measured</th>
            <th className="num">Tolerance</th>
            <th className="num">Expect within</th>
            <th className="num">Act from</th>
            <th className="wide-100">Found, {shownUnit("mm")}</th>
          </tr>
        </thead>
        <tbody>
          {found.first_article.map((line) => (
            <tr key={line.order}>
              <td className="num mono">{line.order}</td>
              <td>
                {line.feature}
                {kinds.length > 1 && <div className="quiet smaller">{kinds[line.kind]?.name}</div>}
              </td>
              <td className="mono">{line.station + 1}</td>
              <td className="mono">
                {line.nominal.map((item) => (
                  <div key={item.axis} className="one-line">
                    {`${item.axis} ${figure(item.value_mm, "mm", 3)}`.trim()}
                  </div>
                ))}
              </td>
              <td className="small">{says(line.said)}</td>
              <td className="num mono">{figure(line.tolerance_mm, "mm", 3)}</td>
              <td className="num mono">{figure(line.expect_mm, "mm", 4)}</td>
              <td className="num mono">{figure(line.act_mm, "mm", 4)}</td>
              <td className="ruled-below" />
            </tr>
          ))}
          {found.first_article.length === 0 && (
            <tr>
              <td colSpan={9}>No feature of the planned ops can be judged yet.</td>
            </tr>
          )}
        </tbody>
      </table>
      <p className="quiet small text-wide above-8 under-8">
        Each where it uses most of its tolerance, so that it speaks for the others. Measure ten times better than that.
        First article in single block, reduced rapid, door shut.
      </p>
      <p className="print-only above-28">
        Measured with ______________________ by ______________________ on ______________________
      </p>
      <div className="tools no-print">
        <Button
          size="small"
          variant="outlined"
          component="a"
          href={`/api/jobs/${job.id}/locate/first-article?units=${system === "inch" ? "inch" : "mm"}`}
          download
        >
          As CSV
        </Button>
      </div>
    </div>
  );
}
