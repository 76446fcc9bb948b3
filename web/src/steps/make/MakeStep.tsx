/** Step 7: the pieces of a setup, their drawings, and whether they can be made. */
import { useState } from "react";

import { usePieces } from "../../api/queries";
import { useEditor } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { capital } from "../../ui/units";
import { About } from "./About";
import { PieceList } from "./PieceList";
import { Sheets } from "./Sheets";

export function MakeStep() {
  const { job, here } = useEditor();
  const { data, error, isFetching } = usePieces(job, here.number);
  const [picked, pick] = useState(0);
  const piece = data?.pieces[picked] ?? data?.pieces[0];
  const place = piece ? (data?.pieces.indexOf(piece) ?? 0) : 0;
  return (
    <div className={`make ${job.latest?.run.current === false ? "stale" : ""}`}>
      <aside className="make-list" aria-label="Pieces">
        {data && <PieceList made={data} picked={place} pick={pick} />}
      </aside>
      <section className="work">
        <NotCurrent />
        {error && <ProblemNotice error={error} />}
        {!data && isFetching && <p className="quiet">Counting holes, looking for room between them</p>}
        {data?.reasons?.map((says) => (
          <Notice key={says} title="Nothing to make yet" kind="info">
            <p>
              <Said text={capital(says)} />
            </p>
          </Notice>
        ))}
        {data && data.pieces.length === 0 && !data.reasons?.length && (
          <Notice title="Nothing is made for this setup" kind="info">
            <p>It stands in what the shop has.</p>
          </Notice>
        )}
        {data && piece && <Sheets key={place} piece={piece} place={place} count={data.sheets[place] ?? 1} />}
      </section>
      <aside className="side" tabIndex={0}>
        {data && piece && <About piece={piece} currency={data.currency} />}
      </aside>
    </div>
  );
}
