/** The fewest ops on every form, what sits how, what is left to clamp and to locate on, and what it costs. */
import { Button, CircularProgress } from "@mui/material";

import { useRouteChange, useSetups } from "../../api/queries";
import type { Part, SetupScheme } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { Field } from "../../ui/Field";
import { ProblemNotice } from "../../ui/Notice";
import { Said } from "../../ui/Said";

const hours = (minutes: number): string =>
  `${String(Math.floor(minutes / 60))} h ${String(Math.round(minutes % 60)).padStart(2, "0")} min`;

export function SetupsPanel({ partIndex, part, done }: { partIndex: number; part: Part; done: () => void }) {
  const { job, mayEdit } = useEditor();
  const route = useRouteChange(job.id);
  const stored = useStored();
  const found = useSetups(job.id, partIndex, job.version, true);
  const features = part.features ?? [];
  if (found.error) return <ProblemNotice error={found.error} />;
  if (!found.data)
    return (
      <div className="pad">
        <CircularProgress size={22} aria-label="Looking for the fewest setups" />
      </div>
    );
  const forms = job.setups
    .map((setup, index) => ({ held: setup.held, kind: job.document.route?.setups[index]?.form.kind }))
    .filter(({ held }) => held.some((item) => item.part === partIndex))
    .map(({ kind }) => kind);
  const inUse = (scheme: SetupScheme) =>
    forms.length === scheme.ops.length &&
    forms.every((kind) => kind === scheme.form) &&
    scheme.ops.length === part.ops?.length &&
    scheme.ops.every((op, index) => op.up === part.ops?.[index]?.up);
  // Each op in a setup of its own: none of the old ones is held anywhere any more.
  const take = (scheme: SetupScheme) =>
    route.mutate({ to: `parts/${String(partIndex)}/scheme`, body: { form: scheme.form } }, { onSuccess: done });
  return (
    <div className="scroll pad grow">
      <div className="flex gap-14 at-top under-10">
        <p className="grow text-wide">
          From the sides each of the {features.length} features of {part.name} can be cut from, and those a form reaches
          in one clamping: the fewest ops, exactly. Times are setting up and handling for the whole batch, without
          cutting.
        </p>
        <div className="wide-150">
          <Field label="Setting up, min an op" {...stored("job.rules.setup_minutes")} />
        </div>
        <div className="wide-150">
          <Field label="Handling, s a part" {...stored("job.rules.handling_seconds")} />
        </div>
      </div>
      {route.error && <ProblemNotice error={route.error} />}
      {features.length === 0 ? (
        <p className="problem-list">No features yet: enter them in step 1, with the sides a tool can come from.</p>
      ) : (
        <table className="lines" aria-label="Setups by form">
          <thead>
            <tr>
              <th>Held in</th>
              <th className="num">Ops</th>
              <th className="num">For the batch</th>
              <th>How it sits, what is clamped, what is cut</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {found.data.schemes.map((scheme) => (
              <tr key={scheme.form} className="from-top">
                <td className="one-line">
                  <b>{scheme.form}</b>
                  <div className="quiet smaller wraps-190">{scheme.reach}</div>
                </td>
                <td className="num mono size-xxl">{scheme.left_over.length > 0 ? "–" : scheme.ops.length}</td>
                <td className="num mono one-line">
                  {scheme.minutes === null ? "" : hours(scheme.minutes)}
                  {scheme.minutes !== null && (
                    <div className="quiet smaller">{hours(scheme.setting_minutes)} set up</div>
                  )}
                </td>
                <td>
                  {scheme.ops.map((op) => (
                    <div key={op.number} className="grid gap-8 middle under-4 setup-op">
                      <span className="mono">op {op.number}</span>
                      <Sitting up={op.up} clamp={op.clamp_on} reached={op.reached} />
                      <span>
                        <Said text={op.sentence} />
                        <span className="quiet">; against {op.locate_on.join(", ")}</span>
                        <div className="small">{op.features.join(", ")}</div>
                      </span>
                    </div>
                  ))}
                  {scheme.left_over.length > 0 && (
                    <p className="problem-list">
                      Cannot be cut in any clamping here: {scheme.left_over.join(", ")}. More stock below to grip, other
                      sides for the tool, or fewer faces taken at once.
                    </p>
                  )}
                </td>
                <td>
                  {mayEdit && scheme.left_over.length === 0 && (
                    <Button
                      variant={inUse(scheme) ? "text" : "outlined"}
                      disabled={inUse(scheme)}
                      onClick={() => take(scheme)}
                    >
                      {inUse(scheme) ? "In use" : "Use this"}
                    </Button>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </div>
  );
}

/** A block with the reached sides marked and the clamped sides arrowed: what is up is up. */
function Sitting({ up, clamp, reached }: { up: string; clamp: readonly string[]; reached: readonly string[] }) {
  const sides = ["+X", "-X", "+Y", "-Y", "+Z", "-Z"].filter((side) => side[1] !== up[1]);
  const [left, right] = clamp.length === 2 ? clamp : sides;
  return (
    <svg
      width="74"
      height="44"
      viewBox="0 0 74 44"
      role="img"
      aria-label={`${up} up${clamp.length ? `, clamped on ${clamp.join(" and ")}` : ""}`}
    >
      <rect x="18" y="12" width="38" height="24" fill="var(--wash)" stroke="var(--ink)" />
      <line x1="10" y1="37.5" x2="64" y2="37.5" stroke="var(--ink)" strokeWidth="2" />
      <text x="37" y="28" fontSize="11.5" fontFamily="IBM Plex Mono" textAnchor="middle" fill="var(--ink)">
        {up}
      </text>
      <path d="M37 1v8m-3-3l3 3 3-3" fill="none" stroke="var(--mark)" strokeWidth="1.6" />
      {clamp.length === 2 && (
        <path d="M2 24h12m-4-3l4 3-4 3M72 24H60m4-3l-4 3 4 3" fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      )}
      {clamp.length === 0 && (
        <path d="M2 34h12m-4-3l4 3-4 3M72 34H60m4-3l-4 3 4 3" fill="none" stroke="var(--ink)" strokeWidth="1.6" />
      )}
      {left !== undefined && reached.includes(left) && (
        <line x1="18" y1="13" x2="18" y2="35" stroke="var(--mark)" strokeWidth="3" />
      )}
      {right !== undefined && reached.includes(right) && (
        <line x1="56" y1="13" x2="56" y2="35" stroke="var(--mark)" strokeWidth="3" />
      )}
      <line x1="19" y1="12" x2="55" y2="12" stroke="var(--mark)" strokeWidth="3" />
    </svg>
  );
}
