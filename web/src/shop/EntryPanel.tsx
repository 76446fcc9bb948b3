/** One entry: its dimensions beside a picture of what they mean, where each value comes from, who changed what, which jobs hold it. */
import { Button } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { call, Problem } from "../api/client";
import { keepShop } from "../api/queries";
import type { KindInfo, ShopHistory, ShopItem, ShopList } from "../api/types";
import { Field } from "../ui/Field";
import { KindField } from "../ui/KindField";
import { ProblemNotice } from "../ui/Notice";
import { useUnits } from "../ui/units";
import { Picture } from "./pictures";

interface Change {
  name?: string;
  data?: Record<string, unknown>;
  sources?: Record<string, string>;
  retired?: boolean;
}

function useEntryChange(item: ShopItem) {
  const cache = useQueryClient();
  const [errors, setErrors] = useState<Record<string, string>>({});
  const save = useMutation({
    scope: { id: `entry-${item.id}` },
    mutationFn: ({ change }: { key: string; change: Change }) => {
      const known = cache.getQueryData<ShopList>(["shop"])?.entries.find((entry) => entry.id === item.id);
      return call<ShopItem>(
        "PATCH",
        `/api/shop/entries/${item.id}`,
        { version: known?.version ?? item.version, ...change },
        change,
      );
    },
    onSuccess: (fresh, { key }) => {
      cache.setQueryData<ShopList>(
        ["shop"],
        (known) =>
          known && { ...known, entries: known.entries.map((entry) => (entry.id === fresh.id ? fresh : entry)) },
      );
      keepShop(cache);
      void cache.invalidateQueries({ queryKey: ["entry", item.id] });
      setErrors((known) => Object.fromEntries(Object.entries(known).filter(([name]) => name !== key)));
    },
    onError: (error, { key }) => {
      setErrors((known) => ({
        ...known,
        [key]: error instanceof Problem ? (error.errors[0]?.message ?? error.detail) : error.message,
      }));
      if (error instanceof Problem && error.status === 409) keepShop(cache);
    },
  });
  return {
    save: (key: string, change: Change) => save.mutate({ key, change }),
    errors,
    trouble: save.error instanceof Problem && save.error.status === 409 ? save.error : null,
  };
}

export function EntryPanel({
  item,
  kind,
  materials,
  mayEdit,
  close,
  wide,
}: {
  item: ShopItem;
  kind: KindInfo;
  materials: ShopItem[];
  mayEdit: boolean;
  close: () => void;
  wide: boolean;
}) {
  const { save, errors, trouble } = useEntryChange(item);
  const [focus, setFocus] = useState("");
  const details = useQuery({
    queryKey: ["entry", item.id],
    queryFn: () => call<ShopItem>("GET", `/api/shop/entries/${item.id}`),
  });
  const past = useQuery({
    queryKey: ["entry", item.id, "history"],
    queryFn: () => call<ShopHistory>("GET", `/api/shop/entries/${item.id}/history`),
  });
  const focused = kind.fields.find((field) => field.name === focus);
  const sourceOf = (name: string) => item.sources[name] ?? item.source;
  const rules = kind.kind === "rules";
  return (
    <aside
      className="scroll"
      style={{ borderLeft: wide ? 0 : "1px solid var(--rule)", background: "var(--sheet)", padding: "14px 18px" }}
      aria-label={item.name}
    >
      {!rules && (
        <div className="flex gap-8 middle under-10">
          <div className="grow">
            <Field
              label="Name"
              name="entry.name"
              text
              value={item.name}
              disabled={!mayEdit}
              error={errors.name}
              store={(value) => save("name", { name: String(value) })}
            />
          </div>
          {mayEdit && (
            <Button
              variant="outlined"
              color={item.retired ? "primary" : "error"}
              onClick={() => save("retired", { retired: !item.retired })}
            >
              {item.retired ? "Take back into use" : "Retire"}
            </Button>
          )}
          <Button onClick={close} aria-label="Close the entry">
            Close
          </Button>
        </div>
      )}
      {trouble && <ProblemNotice error={trouble} />}
      {!rules && (
        <div className="under-6 high-210">
          <Picture kind={kind.kind} data={item.data} focus={focus} fields={kind.fields.map((field) => field.name)} />
        </div>
      )}
      {!rules && (
        <div className="under-10 least-56">
          {focused ? (
            <Field
              key={focused.name}
              label={`Where “${focused.title}” comes from`}
              name="entry.source"
              text
              value={sourceOf(focused.name)}
              disabled={!mayEdit}
              store={(value) => save("source", { sources: { [focused.name]: String(value) } })}
            />
          ) : (
            <p className="quiet small">
              Values: {item.source || "entered here"}. Go to a field to see it in the picture and where its value comes
              from.
            </p>
          )}
        </div>
      )}
      {rules && (
        <p className="under-14 text-wide">
          New jobs start with these. The clamping factors, the way tolerances add up and the two times act on plans and
          setups now; the others are written into each job for the steps that follow.
        </p>
      )}
      <div className={wide ? "rules" : "form"}>
        {kind.fields.map((field) => (
          <div
            key={field.name}
            className={["keep-outs", "curve", "tools", "list of texts"].includes(field.type) ? "wide" : ""}
            onFocus={() => setFocus(field.name)}
          >
            <KindField
              field={field}
              name={`entry.${field.name}`}
              value={item.data[field.name]}
              materials={materials.map((entry) => entry.data)}
              mayEdit={mayEdit}
              error={errors[field.name]}
              store={(value) => save(field.name, { data: { [field.name]: value } })}
            />
            {rules && (
              <p className="quiet small above-4 text-narrow">
                {field.reason} <span className="faded">({sourceOf(field.name)})</span>
              </p>
            )}
          </div>
        ))}
      </div>
      {!rules && (
        <>
          <h2 className="size-l above-14 under-6">Jobs that hold it</h2>
          <p>
            {details.data && (details.data.used_by ?? []).length > 0
              ? (details.data.used_by ?? []).join(", ")
              : "None."}{" "}
            Jobs keep the values they were planned with.
          </p>
        </>
      )}
      <h2 className="size-l above-14 under-6">History</h2>
      {(past.data?.changes ?? []).length === 0 && (
        <p className="quiet">{item.ships ? "As it shipped." : "Nothing yet."}</p>
      )}
      <table className="lines small">
        <tbody>
          {(past.data?.changes ?? []).map((change, index) => (
            <tr key={index}>
              <td className="one-line">
                {new Date(change.at).toLocaleString("en-GB", {
                  day: "numeric",
                  month: "short",
                  hour: "2-digit",
                  minute: "2-digit",
                })}
              </td>
              <td>{change.person}</td>
              <td>
                {change.what}
                {Object.entries(change.fields)
                  .filter(([name]) => name !== "retired" && name !== "sources")
                  .map(([name, pair]) => (
                    <Changed
                      key={name}
                      title={kind.fields.find((field) => field.name === name)?.title ?? name}
                      unit={kind.fields.find((field) => field.name === name)?.unit ?? ""}
                      pair={pair as [unknown, unknown]}
                    />
                  ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </aside>
  );
}

function Changed({ title, unit, pair }: { title: string; unit: string; pair: [unknown, unknown] }) {
  const { plain, shownUnit } = useUnits();
  const text = (value: unknown) =>
    typeof value === "number" ? plain(value, unit) : typeof value === "object" ? "a list" : String(value);
  return (
    <div>
      {title}: <span className="mono">{text(pair[0])}</span> to <span className="mono">{text(pair[1])}</span>{" "}
      {shownUnit(unit)}
    </div>
  );
}
