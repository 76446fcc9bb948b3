import { Button } from "@mui/material";
import { useRef, useState } from "react";

import { Problem } from "../api/client";
import { useCatalogue, useOutlineUpload } from "../api/queries";
import { OutlineDrawing } from "../layout/OutlineDrawing";
import { Choice, Field } from "../ui/Field";
import { Notice, ProblemNotice } from "../ui/Notice";
import { useEditor, useStored } from "./editor";

export function PartStep() {
  const { request, change, mayEdit, job } = useEditor();
  const stored = useStored();
  const materials = useCatalogue().data?.materials ?? [];
  const holes = request.part.outline.holes?.length ?? 0;
  const material = materials.find((item) => item.id === request.part.material);
  return (
    <div className="split">
      <div className="form-side">
        <div className="form">
          <h2>Part</h2>
          <div className="wide">
            <Field label="Name" {...stored("name", "", true)} />
          </div>
          <Field label="Quantity" {...stored("quantity")} />
          <Field label="Height on the plate" {...stored("part.height_mm", "mm")} />
          <div className="wide">
            <Choice
              label="Material"
              name="part.material"
              value={material ? request.part.material : ""}
              options={materials.map((item) => ({ value: item.id, label: item.name }))}
              disabled={!mayEdit}
              store={(value) => change("part.material", value)}
            />
          </div>
          {material && (
            <p className="wide quiet" style={{ fontSize: 13 }}>
              kc1.1 <span className="mono">{material.kc11_mpa}</span> MPa, mc <span className="mono">{material.mc}</span>,{" "}
              <span className="mono">{material.density_kg_m3}</span> kg/m³ ({material.source})
            </p>
          )}
          <h2>Outline</h2>
          <div className="wide">
            <Upload jobId={job.id} disabled={!mayEdit} />
          </div>
        </div>
      </div>
      <div className="picture">
        <OutlineDrawing outline={request.part.outline} />
        <p className="quiet">
          From: {request.part.outline.origin}. {request.part.outline.outer.length} points, {holes === 1 ? "1 hole" : `${String(holes)} holes`}. The part sits against the stops with this side
          left and front; the wedge marks the datum corner.
        </p>
      </div>
    </div>
  );
}

function Upload({ jobId, disabled }: { jobId: string; disabled: boolean }) {
  const upload = useOutlineUpload(jobId);
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const send = (chosen: File | undefined, units: string | null) => {
    if (!chosen || disabled) return;
    setFile(chosen);
    upload.mutate({ file: chosen, units });
  };
  const unitsMissing = upload.error instanceof Problem && upload.error.type === "units-missing";
  return (
    <div style={{ display: "flex", flexDirection: "column", gap: 10 }}>
      <div
        className={`drop ${over ? "over" : ""}`}
        onDragOver={(event) => {
          event.preventDefault();
          setOver(true);
        }}
        onDragLeave={() => setOver(false)}
        onDrop={(event) => {
          event.preventDefault();
          setOver(false);
          send(event.dataTransfer.files[0], null);
        }}
      >
        <input
          ref={input}
          name="outline"
          type="file"
          accept=".dxf"
          hidden
          onChange={(event) => {
            send(event.target.files?.[0], null);
            event.target.value = "";
          }}
        />
        <Button variant="contained" disabled={disabled || upload.isPending} onClick={() => input.current?.click()}>
          {upload.isPending ? "Reading the drawing" : "Load outline (DXF)"}
        </Button>
        <p className="quiet" style={{ marginTop: 6, fontSize: 13 }}>
          or drop it here. Closed polylines, or chains of lines, arcs and circles; holes included; up to 25 MB.
        </p>
      </div>
      {unitsMissing && file && (
        <Notice title="Which units?" kind="info">
          <p>{upload.error?.message}</p>
          <div style={{ display: "flex", gap: 8, marginTop: 8 }}>
            <Button variant="contained" onClick={() => send(file, "mm")}>
              It is mm
            </Button>
            <Button variant="contained" onClick={() => send(file, "inch")}>
              It is inch
            </Button>
          </div>
        </Notice>
      )}
      {upload.error && !unitsMissing && <ProblemNotice error={upload.error} />}
      {upload.data && (upload.data.notes ?? []).length > 0 && (
        <Notice title="The outline was read" kind="info">
          {upload.data.notes?.map((note) => <p key={note}>{note}</p>)}
        </Notice>
      )}
    </div>
  );
}
