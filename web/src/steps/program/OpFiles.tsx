/** Each op that a setup holds, and the program that was loaded for it. */
import { Button, TextField } from "@mui/material";

import { useOpProgram, type useOwnProgram } from "../../api/queries";
import type { OpLoaded } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { DropFile } from "../../ui/DropFile";
import { ProblemNotice } from "../../ui/Notice";
import { counted } from "../../ui/words";

const NC = ".nc,.tap,.cnc,.ngc,.txt,.mpf,.min,.eia";
const HINT =
  "NC in word address, for one part at its own zero: the corner where it is located, Z0 on its finished top.";

export function OpFiles({ ops }: { ops: OpLoaded[] }) {
  return (
    <div className="op-files">
      {ops.map((op) => (
        <OpFile key={`${op.part} ${String(op.op)}`} op={op} />
      ))}
    </div>
  );
}

function OpFile({ op }: { op: OpLoaded }) {
  const { job, mayEdit } = useEditor();
  const { load, forget } = useOpProgram(job.id);
  const said = `${op.part}, op ${String(op.op)}`;
  return (
    <section aria-label={`Program of ${said}`} className="op-file">
      <p className="strong">{said}</p>
      <p>
        <span className="quiet">
          {op.name ? (
            <>
              <span className="mono">{op.name}</span>
              {op.lines ? `, ${counted(op.lines, "line")}, ` : ", in the control alone"}
              <span className="mono">{(op.tools ?? []).map((tool) => `T${String(tool)}`).join(" ")}</span>
            </>
          ) : (
            "no program yet"
          )}
        </span>
      </p>
      {op.wrong && <p className="over-text">{op.wrong}</p>}
      {mayEdit && (
        <div className="tools middle">
          <DropFile
            name={`nc ${said}`}
            label={op.name ? "Another file" : "Load its program"}
            hint={op.name ? "" : HINT}
            accept={NC}
            busy={load.isPending}
            quiet={Boolean(op.name)}
            choose={(file) => file && load.mutate({ part: op.part, op: op.op, file })}
          />
          {!op.name && (
            <TextField
              size="small"
              label="or its O number"
              className="narrow"
              onKeyDown={(event) => {
                const number = /\d+/.exec((event.target as HTMLInputElement).value)?.[0];
                if (event.key !== "Enter" || !number) return;
                load.mutate({ part: op.part, op: op.op, file: new File([`O${number}`], `O${number}.nc`) });
              }}
            />
          )}
          {op.name && <Button onClick={() => forget.mutate({ part: op.part, op: op.op })}>Take it off</Button>}
        </div>
      )}
      {(load.error ?? forget.error) && <ProblemNotice error={(load.error ?? forget.error) as Error} />}
    </section>
  );
}

/** A program for the whole setup that somebody wrote: tried, and not kept. */
export function OwnProgram({ own }: { own: ReturnType<typeof useOwnProgram> }) {
  return (
    <section aria-label="Your own for the whole setup" className="op-file">
      {own.data && (
        <p>
          <strong>{own.data.name}</strong>
          <br />
          <span className="quiet">your own for the whole setup; it is not kept</span>
        </p>
      )}
      <div className="tools middle">
        <DropFile
          name="own program"
          label={own.data ? "Try another" : "Try your own for the whole setup"}
          hint=""
          accept={NC}
          busy={own.isPending}
          quiet
          choose={(file) => file && own.mutate(file)}
        />
        {own.data && <Button onClick={() => own.reset()}>Back to ours</Button>}
      </div>
      {own.error && <ProblemNotice error={own.error} />}
    </section>
  );
}
