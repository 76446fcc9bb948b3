/** What can be laid over the stations, and what its shades mean. */
import type { Design } from "../../api/types";
import { type Limits, type Overlay, shareOf } from "../../drawing/Station";

/** What can be laid over the stations; the last shades the plate instead. */
export const OVERLAYS: { key: Overlay; label: string; shortcut: string; title: string }[] = [
  {
    key: "tolerance",
    label: "Tolerance",
    shortcut: "1",
    title: "Share of its tightest feature's tolerance, and where on the plate it would be missed",
  },
  {
    key: "clamping",
    label: "Clamping",
    shortcut: "2",
    title: "Factor needed over the factor there is, as each station is turned",
  },
  { key: "reach", label: "Reach", shortcut: "3", title: "Share of the machine's travel that the station's cuts use" },
  { key: "sweep", label: "Sweep", shortcut: "4", title: "Where cutter and holder go" },
];

/** What the shades of an overlay mean, and the station that uses most. */
export function OverlayLine({ overlay, design, judged }: { overlay: Overlay; design: Design | null; judged: Limits }) {
  const words = OVERLAYS.find((item) => item.key === overlay);
  const shares = (design?.stations ?? []).map((station) => ({
    number: station.number,
    share: shareOf(overlay, station, judged.needed[station.kind ?? 0] ?? 2),
  }));
  const most = shares.reduce((high, item) => ((item.share ?? -1) > (high.share ?? -1) ? item : high), {
    number: 0,
    share: null as number | null,
  });
  if (!words || most.share === null || judged.close === null) return null;
  return (
    <p className="quiet small" data-testid="overlay-line">
      {words.title}. Most: <span className="mono">{Math.round(100 * most.share)} %</span>, station {most.number}. Green:
      room left, amber: over {Math.round(100 * judged.close)} %, red: over the limit.
    </p>
  );
}
