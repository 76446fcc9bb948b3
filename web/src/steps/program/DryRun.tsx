/** The dry run: on, back, line by line; the line that runs and what it does. */
import { Button, MenuItem, Select, Slider } from "@mui/material";

import { clock, useUnits } from "../../ui/units";
import { PACES, type Playing } from "./playing";

const DOES = ["rapid", "feed", "at rest"] as const;

/** Run and stop, line by line, how quick, and where it is. */
export function Scrubber({ playing }: { playing: Playing }) {
  return (
    <>
      <Button variant="contained" onClick={playing.press} data-testid="play">
        {playing.going ? "Stop" : "Run"}
      </Button>
      <Button onClick={() => playing.step(-1)}>Line back</Button>
      <Button onClick={() => playing.step(1)}>Line on</Button>
      <Slider
        size="small"
        min={0}
        max={Math.ceil(playing.whole)}
        step={0.1}
        value={playing.at}
        onChange={(_event, value) => playing.to(value)}
        aria-label="Where the program is"
        getAriaValueText={(value) => `${clock(value)} of ${clock(playing.whole)} min`}
      />
      <Select
        size="small"
        variant="standard"
        disableUnderline
        value={playing.pace}
        onChange={(event) => playing.setPace(Number(event.target.value))}
        inputProps={{ "aria-label": "How quick it goes" }}
      >
        {PACES.map((pace) => (
          <MenuItem key={pace} value={pace}>
            {pace} x
          </MenuItem>
        ))}
      </Select>
    </>
  );
}

/** What it does there, and by which line. */
export function DryLine({ playing, text }: { playing: Playing; text: string | null }) {
  const { withUnit } = useUnits();
  const { played, row } = playing;
  const tool = (played.tool ?? [])[row] ?? 0;
  const z = (played.z ?? [])[row] ?? 0;
  const turning = ((played.face ?? [])[row] ?? 0) < 0;
  return (
    <p className="dry-line" aria-label="Dry run">
      <span className="mono">
        {clock(playing.at)} of {clock(playing.whole)}
      </span>
      <strong className="mono">{tool ? `T${String(tool)}` : "no tool"}</strong>
      <span className="quiet">{turning ? "the block turns" : DOES[(played.what ?? [])[row] ?? 2]}</span>
      {!turning && (
        <span>
          tip <span className="mono">{withUnit(Math.abs(z), "mm", 1)}</span> {z < 0 ? "under" : "over"} what parts stand
          on
        </span>
      )}
      {text !== null && <span className="mono dry-text">{text}</span>}
      {played.whole === false && (
        <span className="quiet">only the first {(played.line ?? []).length} places are played</span>
      )}
    </p>
  );
}
