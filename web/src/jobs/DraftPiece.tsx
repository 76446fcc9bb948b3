/** A part of a new job: its file, what it is made of, and, in a kit, how many of it. */
import { Button } from "@mui/material";

import { useCatalogue } from "../api/queries";
import { Choice, Plain } from "../ui/Field";
import { PartFile, type Held } from "./PartFile";

export interface Piece {
  held: Held | null;
  material: string;
  thickness: string;
  each: string;
}

export const NO_PIECE: Piece = { held: null, material: "", thickness: "", each: "1" };

const number = (typed: string) => (Number.isFinite(Number(typed)) ? Number(typed) : typed);

/** What the service is asked about a part. */
export function useAsked() {
  const materials = useCatalogue().data?.materials ?? [];
  return ({ held, material, thickness, each }: Piece): Record<string, unknown> => ({
    name: held?.name,
    upload: held?.upload,
    outline: held?.outline,
    material: materials.find((item) => item.id === material) ?? materials[0],
    per_kit: number(each),
    ...(held?.outline ? { thickness_mm: thickness } : {}),
  });
}

export function DraftPiece({
  piece,
  index,
  kit,
  error,
  change,
  remove,
}: {
  piece: Piece;
  index: number;
  kit: boolean;
  error: Error | null;
  change: (next: (before: Piece) => Piece) => void;
  remove: () => void;
}) {
  const materials = useCatalogue().data?.materials ?? [];
  const at = index === 0 ? "" : `more.${String(index - 1)}.`;
  const set = (name: keyof Piece) => (value: string) => change((before) => ({ ...before, [name]: value }));
  return (
    <>
      <PartFile
        name={index === 0 ? "part" : `part-${String(index + 1)}`}
        held={piece.held}
        hold={(held) => change((before) => ({ ...before, held }))}
      />
      {piece.held?.outline && (
        <Plain
          label="Thickness of the part"
          name={`${at}thickness_mm`}
          value={piece.thickness}
          set={set("thickness")}
          error={error}
        />
      )}
      <Choice
        label="Material"
        name={`${at}material`}
        value={piece.material || (materials[0]?.id ?? "")}
        options={materials.map((item) => ({ value: item.id, label: item.name }))}
        store={set("material")}
      />
      {kit && <Plain label="Of it in a kit" name={`${at}per_kit`} value={piece.each} set={set("each")} error={error} />}
      {index > 0 && (
        <Button size="small" color="error" onClick={remove}>
          Take part {index + 1} out
        </Button>
      )}
    </>
  );
}
