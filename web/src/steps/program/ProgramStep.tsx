/** Step 8: the zeros of a setup, one program out of those of its ops, and how it goes on the stand-in for a control. */
import { Button } from "@mui/material";
import { useMemo, useState } from "react";

import {
  type Order,
  programAt,
  type ProgramLoad,
  useOwnProgram,
  usePlayed,
  useProgram,
  useSession,
} from "../../api/queries";
import type { Design, Finding, Played } from "../../api/types";
import { BenchDrawing } from "../../drawing/BenchDrawing";
import { InSpace } from "../../drawing/InSpace";
import { type Placing, usePlacing } from "../../drawing/placing";
import type { Tip } from "../../drawing/tip";
import { useEditor } from "../../editing/editor";
import { NotCurrent } from "../../editing/NotCurrent";
import { Notice, ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";
import { capital } from "../../ui/units";
import { DryLine, Scrubber } from "./DryRun";
import { Load } from "./Load";
import { OpFiles, OwnProgram } from "./OpFiles";
import { type Playing, usePlaying, useTip, type Where } from "./playing";
import { ProgramText } from "./ProgramText";
import { Trial } from "./Trial";
import { ToolOrder, Zeros } from "./Zeros";

export function ProgramStep() {
  const { job, here } = useEditor();
  const [order, setOrder] = useState<Order | null>(null);
  const [line, show] = useState<number | null>(null);
  const [load, setLoad] = useState<ProgramLoad>({});
  const { data, error, isFetching } = useProgram(job, here.number, order, load);
  const own = useOwnProgram(job.id, here.number);
  const design = here.result?.designs[0] ?? null;
  const placing = usePlacing(design);
  const tried = own.data?.tried ?? data?.tried ?? null;
  const text = own.data?.text ?? data?.program?.text ?? null;
  // what cuts sweep is played without lines of its own
  const lines = own.data || (tried?.envelopes ?? []).length === 0 ? text?.split("\n") : undefined;
  const run = useRun(order, load, tried !== null, own.data?.played ?? null);
  const go = (finding: Finding) => {
    show(finding.line ?? null);
    const part = data?.table?.parts.find((item) => item.number === finding.part);
    placing.select(part?.station ?? null);
    if (finding.move != null) run.goTo({ move: finding.move });
    else if (finding.line) run.goTo({ line: finding.line });
  };
  return (
    <div className={`program ${job.latest?.run.current === false ? "stale" : ""}`}>
      <aside className="make-list" aria-label="Programs and zeros">
        {data && <OpFiles ops={data.ops} />}
        {data?.table && <OwnProgram own={own} />}
        {data?.table && <Load load={load} set={setLoad} />}
        {data?.program && data.program.tools.length > 0 && (
          <ToolOrder
            program={data.program}
            setOrder={setOrder}
            instead={(tool, sister) => setLoad(withSister(load, tool, sister))}
          />
        )}
        {data?.table && <Zeros table={data.table} select={placing.select} />}
      </aside>
      <section className="work">
        <NotCurrent />
        {error && <ProblemNotice error={error} />}
        {!data && isFetching && <p className="quiet">Working out zeros, trying the program</p>}
        {data && (!data.table || !data.tried) && <Nothing reasons={data.reasons ?? []} />}
        {design && <Drawn design={design} placing={placing} run={run} there={tried !== null} />}
        {run.error && <ProblemNotice error={run.error} />}
        {run.playing && <DryLine playing={run.playing} text={lines?.[run.playing.line - 1] ?? null} />}
        {tried && <Trial tried={tried} planned={data?.planned_s ?? null} go={go} />}
      </section>
      <aside className="side" tabIndex={0}>
        {text !== null ? (
          <ProgramText
            text={text}
            name={own.data?.name ?? null}
            file={programAt(job.id, "/text", here.number, order, load)}
            line={(lines && run.playing?.line) ?? line}
            restarts={own.data ? [] : (data?.program?.restarts ?? [])}
            show={(wanted) => {
              show(wanted);
              if (run.wanted) run.goTo({ line: wanted });
            }}
          />
        ) : (
          data && <NoProgram there={Boolean(data.table)} />
        )}
      </aside>
    </div>
  );
}

/** One sister for a tool; back where that is the tool itself. */
function withSister(load: ProgramLoad, tool: number, sister: number): ProgramLoad {
  const pairs = (load.instead ?? "").split(",").filter((pair) => pair && pair.split(":")[1] !== String(tool));
  const own = (load.instead ?? "").split(",").find((pair) => pair.split(":")[1] === String(tool));
  const first = own ? (own.split(":")[0] ?? "") : String(tool);
  const all = first === String(sister) ? pairs : [...pairs, `${first}:${String(sister)}`];
  return { ...load, instead: all.join(",") };
}

function NoProgram({ there }: { there: boolean }) {
  return (
    <>
      <h2>Program</h2>
      <p className="quiet">
        {there
          ? "With a program for each op, one for the whole setup stands here. Until then what the cuts sweep is looked at."
          : "It follows from a layout."}
      </p>
    </>
  );
}

interface Going {
  playing: Playing | null;
  tip: Tip | null;
  wanted: boolean;
  fetching: boolean;
  error: Error | null;
  begin: () => void;
  goTo: (there: Where) => void;
}

/** The dry run: fetched when it is first asked for, or when a finding is to be looked at; an own program's is there. */
function useRun(order: Order | null, load: ProgramLoad, there: boolean, own: Played | null): Going {
  const { job, here } = useEditor();
  const [wanted, setWanted] = useState(false);
  const found = usePlayed(job, here.number, order, load, wanted && there && !own);
  const [playing, goTo] = usePlaying(wanted ? (own ?? found.data ?? null) : null);
  return {
    playing,
    tip: useTip(playing),
    wanted,
    fetching: found.isFetching,
    error: found.error,
    begin: () => setWanted(true),
    goTo: (there) => {
      setWanted(true);
      goTo(there);
    },
  };
}

function Nothing({ reasons }: { reasons: string[] }) {
  return (
    <Notice title="Nothing to program yet" kind="info">
      {reasons.map((says) => (
        <p key={says}>
          <Said text={capital(says)} />
        </p>
      ))}
    </Notice>
  );
}

/** The plates, or the layout in 3-D, with the tool where the dry run is. */
function Drawn({ design, placing, run, there }: { design: Design; placing: Placing; run: Going; there: boolean }) {
  const { job, here } = useEditor();
  const dark = useSession().data?.person?.theme === "dark";
  const [deep, setDeep] = useState(false);
  const held = useMemo(() => here.shown.held, [here.shown.held]);
  if (!here.on) return null;
  const both = { jobId: job.id, version: job.version, on: here.on, design, placing, tip: run.tip };
  return (
    <>
      <div className="tools middle dry-run">
        {there && !run.wanted && (
          <Button variant="contained" onClick={run.begin} data-testid="dry-run">
            Dry run
          </Button>
        )}
        {run.wanted && run.fetching && <span className="quiet">Running it</span>}
        {run.playing && <Scrubber playing={run.playing} />}
        <Button onClick={() => setDeep(!deep)}>{deep ? "Plates" : "3-D"}</Button>
      </div>
      <div className="drawing filled">
        {deep ? (
          <InSpace {...both} held={held} dark={dark} />
        ) : (
          <BenchDrawing {...both} setup={here.number} overlay="none" mayEdit={false} />
        )}
      </div>
    </>
  );
}
