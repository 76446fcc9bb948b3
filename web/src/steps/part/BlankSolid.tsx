/** A blank with a shape of its own, a casting or a weldment: read from a file like the part's. */
import { Button, LinearProgress } from "@mui/material";
import { useEffect, useRef } from "react";

import { useSolid, useSolidUpload } from "../../api/queries";
import type { Stock } from "../../api/types";
import { useEditor } from "../../editing/editor";
import { Notice, ProblemNotice } from "../../ui/Notice";

type SolidRef = NonNullable<Stock["solid"]>;

export function BlankSolid({ at, solid }: { at: string; solid: SolidRef | null }) {
  const { change, mayEdit } = useEditor();
  const upload = useSolidUpload();
  const input = useRef<HTMLInputElement>(null);
  return (
    <div className="wide flex down gap-6">
      <input
        ref={input}
        name="blank-solid"
        type="file"
        accept=".step,.stp,.stl,.3mf,.glb"
        hidden
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) upload.mutate({ file });
          event.target.value = "";
        }}
      />
      {solid ? (
        <div className="flex gap-8 middle small">
          <span>It has a shape of its own: allowances and variation below are not used.</span>
          <Button disabled={!mayEdit} onClick={() => change(at, null)}>
            Take it out
          </Button>
        </div>
      ) : (
        <div className="flex gap-8 middle small">
          <Button variant="outlined" disabled={!mayEdit || upload.isPending} onClick={() => input.current?.click()}>
            Load a casting or a weldment
          </Button>
          <span className="quiet">A solid in the same axes as the part&apos;s.</span>
        </div>
      )}
      {upload.error && <ProblemNotice error={upload.error} />}
      {upload.data && (
        <Reading
          key={upload.data.id}
          upload={upload.data.id}
          take={(mesh) => {
            change(at, mesh);
            upload.reset();
          }}
          close={() => upload.reset()}
        />
      )}
    </div>
  );
}

function Reading({ upload, take, close }: { upload: string; take: (mesh: SolidRef) => void; close: () => void }) {
  const { data, error } = useSolid(upload);
  const mesh = data?.result?.mesh ?? null;
  const done = useRef(false);
  useEffect(() => {
    if (mesh && !done.current) {
      done.current = true;
      take(mesh);
    }
  }, [mesh, take]);
  if (error) return <ProblemNotice error={error} />;
  if (data?.error)
    return (
      <Notice title="File not used" action={<Button onClick={close}>Close</Button>}>
        <p>{data.error}</p>
      </Notice>
    );
  return <LinearProgress aria-label="Reading the blank's solid" />;
}
