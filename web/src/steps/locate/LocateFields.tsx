/** What is known of fixture, datum and shop, and how the parts are located. */
import { useState } from "react";

import { useCatalogue } from "../../api/queries";
import type { LocateScheme } from "../../api/types";
import { useEditor, useStored } from "../../editing/editor";
import { OfWhich } from "../method/StationFields";
import { Choice, Field } from "../../ui/Field";
import { KindField } from "../../ui/KindField";
import { More } from "../../ui/More";
import { Said } from "../../ui/Said";

export function LocateFields({ scheme }: { scheme: LocateScheme[] }) {
  const { parts, rules, here, change, mayEdit, errors } = useEditor();
  const stored = useStored();
  const [picked, setPicked] = useState(0);
  const faces = here.on?.block.faces ?? 1;
  const picks = useCatalogue().data;
  const kinds = picks?.element_kinds;
  const given = (kind: string | undefined) => picks?.tolerance_kinds.find((item) => item.kind === kind)?.given ?? "";
  const ops = here.shown.held;
  const op = ops[picked] ?? ops[0];
  if (!op) return null;
  const { at, station, own, part } = op;
  const number = parts[part]?.ops?.[op.op]?.number;
  const features = (parts[part]?.features ?? [])
    .map((feature, index) => ({ feature, index }))
    .filter((item) => item.feature.op === number);
  const schemes = picks?.locating_kinds ?? [];
  const locating = station.locating ?? { kind: "stops" as const };
  const fields = schemes.find((item) => item.kind === locating.kind)?.fields ?? [];
  const clamped = kinds?.find((item) => item.kind === station.element?.kind)?.locates ?? "";
  const before = scheme.flatMap((one) => one.before);
  return (
    <aside className="side of-locate">
      <h2>Located by</h2>
      <div className="grid gap-12 one-column">
        {ops.length > 1 && (
          <div>
            <OfWhich label="Parts of" ops={ops} shown={op} pick={setPicked} />
          </div>
        )}
        {before
          .filter((one) => one.trouble)
          .map((one) => (
            <p key={one.said} className="problem-list" data-testid="before-trouble">
              <Said text={`${one.said}: ${one.trouble ?? ""}`} />. Its errors count with locators as true as these.
            </p>
          ))}
        {clamped ? (
          <p className="small">By what clamps it: {clamped}.</p>
        ) : (
          <>
            <Choice
              label={own || op === ops[0] ? "Locating" : "Locating, as the first op"}
              name={`${at}.locating.kind`}
              value={locating.kind ?? "stops"}
              options={schemes.map((item) => ({ value: item.kind, label: item.label }))}
              disabled={!mayEdit}
              store={(value) => change(`${at}.locating`, { kind: value })}
            />
            {errors[`${at}.locating`] && (
              <p className="problem-list">
                <Said text={errors[`${at}.locating`]} />
              </p>
            )}
            {fields.map((field) => (
              <KindField
                key={field.name}
                field={field}
                name={`${at}.locating.${field.name}`}
                value={(locating as Record<string, unknown>)[field.name]}
                materials={[]}
                mayEdit={mayEdit}
                error={errors[`${at}.locating.${field.name}`]}
                store={(value) => change(`${at}.locating.${field.name}`, value)}
              />
            ))}
          </>
        )}
      </div>
      <hr />
      <h2>Tolerances</h2>
      <div className="form">
        {features.map(({ feature, index }) => (
          <div className="wide" key={index}>
            <Field
              label={`${feature.name}, ${given(feature.kind)}`}
              {...stored(`job.parts.${String(part)}.features.${String(index)}.tolerance_mm`, "mm")}
            />
          </div>
        ))}
        {features.length === 0 && (
          <p className="wide quiet">This op cuts no feature. Features are entered in step 1.</p>
        )}
      </div>
      <hr />
      <h2>What adds up, ±</h2>
      <div className="form">
        <Field label="Station place" {...stored(here.of("accuracy.station_place_mm"), "mm")} />
        <Field label="Height of rests" {...stored(here.of("accuracy.height_mm"), "mm")} />
        <Field label="Each locator" {...stored(here.of("accuracy.locator_mm"), "mm")} />
        <Field label="Its wear" {...stored(here.of("accuracy.wear_mm"), "mm")} />
        <Field label="Datum pick-up" {...stored(here.of("accuracy.datum_pickup_mm"), "mm")} />
        <Field label="Temperature" {...stored(here.of("accuracy.temperature_k"), "K")} />
        {faces > 1 && <Field label="Face to face" {...stored(here.of("accuracy.face_place_mm"), "mm")} />}
        <Field label="Bolted on again" {...stored(here.of("accuracy.rebolted_mm"), "mm")} />
        <Field label="Machine" {...stored(here.of("machine.positioning_mm"), "mm")} />
        <Field label="and per metre" {...stored(here.of("machine.positioning_per_m_mm"), "mm")} />
        {faces > 1 && (
          <>
            <Field label="Index, arc sec" {...stored(here.of("machine.index_arcsec"))} />
            <Field label="repeats, arc sec" {...stored(here.of("machine.index_repeat_arcsec"))} />
          </>
        )}
        <Field label="Datum X" {...stored(here.of("zeros.x_mm"), "mm")} />
        <Field label="Datum Y" {...stored(here.of("zeros.y_mm"), "mm")} />
        <div className="wide">
          <Choice
            label="Errors add up as"
            name="job.rules.tolerance_rule"
            value={rules.tolerance_rule ?? "probable"}
            disabled={!mayEdit}
            options={[
              { value: "probable", label: "Probable: root of the squares" },
              { value: "worst case", label: "Worst case: plain sum" },
            ]}
            store={(value) => change("job.rules.tolerance_rule", value)}
          />
        </div>
      </div>
      <More first="Stations that would miss a tolerance are not placed.">
        Starting values are usual ones, from memory: put in what you measured, and what the machine builder states for
        positioning and index.
      </More>
    </aside>
  );
}
