/** Parts of a whole along one line: pointed at, or walked along with the arrow keys, each says itself. */
import { Tooltip } from "@mui/material";
import { type CSSProperties, type KeyboardEvent, type ReactNode, useRef, useState } from "react";

export interface Piece {
  key: string;
  share: number;
  /** What it is and how much, in words. */
  says: string;
  drawn: ReactNode;
  /** Stays visible, however small. */
  least?: boolean;
}

const STEP: Record<string, number> = { ArrowRight: 1, ArrowLeft: -1, Home: -Infinity, End: Infinity };

export function Strip({ says, pieces, look }: { says: string; pieces: Piece[]; look: string }) {
  const [at, setAt] = useState(0);
  const list = useRef<HTMLUListElement>(null);
  const go = (event: KeyboardEvent) => {
    const step = STEP[event.key];
    if (step === undefined) return;
    event.preventDefault();
    const next = Math.max(0, Math.min(pieces.length - 1, at + step));
    setAt(next);
    (list.current?.children[next] as HTMLElement | undefined)?.focus();
  };
  return (
    <ul ref={list} className={`strip-line ${look}`} aria-label={says} onKeyDown={go}>
      {pieces.map((piece, k) => (
        <Tooltip key={piece.key} title={piece.says} enterDelay={100} placement="top">
          <li
            tabIndex={k === Math.min(at, pieces.length - 1) ? 0 : -1}
            aria-label={piece.says}
            onFocus={() => setAt(k)}
            style={{ "--share": piece.share, minWidth: piece.least ? 2 : 0 } as CSSProperties}
          >
            {piece.drawn}
          </li>
        </Tooltip>
      ))}
    </ul>
  );
}
