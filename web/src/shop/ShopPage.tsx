/** The shop: everything there is, by kind, in a grid that can be searched; the entry picked is edited beside it. */
import { Button, CircularProgress, FormControlLabel, Switch, TextField } from "@mui/material";
import { DataGrid, type GridColDef } from "@mui/x-data-grid";
import { useMemo, useState } from "react";
import { useSearchParams } from "react-router";

import { useShop } from "../api/queries";
import type { FieldInfo, Me, ShopItem } from "../api/types";
import { ProblemNotice } from "../ui/Notice";
import { useUnits } from "../ui/units";
import { AddEntry } from "./AddEntry";
import { EntryPanel } from "./EntryPanel";
import { ImportEntries } from "./ImportEntries";
import { useTitle } from "../ui/useTitle";
import { Tabs } from "../ui/Tabs";

type Value = string | number | boolean | null | undefined | { name?: string } | unknown[];

/** A value as the grid shows and sorts it. */
export function useShown(): (field: FieldInfo, value: Value) => string | number {
  const { plain } = useUnits();
  return (field, value) => {
    if (value === null || value === undefined) return "";
    if (typeof value === "boolean") return value ? "yes" : "no";
    if (Array.isArray(value)) return field.type === "list of texts" ? value.join(", ") : value.length;
    if (typeof value === "object") return value.name ?? "";
    if (typeof value === "number" && field.type === "quantity") return Number(plain(value, field.unit ?? ""));
    return value;
  };
}

export function ShopPage({ me }: { me: Me }) {
  useTitle("Shop");
  const shop = useShop();
  const [asked, setAsked] = useSearchParams();
  const [retired, setRetired] = useState(false);
  const [search, setSearch] = useState("");
  const [adding, setAdding] = useState(false);
  const [importing, setImporting] = useState(false);
  const shown = useShown();
  const { shownUnit } = useUnits();
  const mayEdit = me.role === "planner" || me.role === "admin";
  const kinds = shop.data?.kinds ?? [];
  const kind = kinds.find((item) => item.kind === asked.get("kind")) ?? kinds[0];
  const entries = useMemo(
    () => (shop.data?.entries ?? []).filter((item) => item.kind === kind?.kind && (retired || !item.retired)),
    [shop.data, kind, retired],
  );
  const picked =
    entries.find((item) => item.id === asked.get("entry")) ?? (kind?.kind === "rules" ? entries[0] : undefined);
  const go = (to: { kind?: string; entry?: string }) =>
    setAsked({ kind: to.kind ?? kind?.kind ?? "machine", ...(to.entry ? { entry: to.entry } : {}) }, { replace: true });
  const columns = useMemo<GridColDef<ShopItem>[]>(
    () => [
      {
        field: "name",
        headerName: "Name",
        width: 230,
        renderCell: ({ row }) => <span className={row.retired ? "struck" : undefined}>{row.name}</span>,
      },
      ...(kind?.fields ?? [])
        .filter((field) => !["keep-outs", "curve", "tools", "list of texts"].includes(field.type))
        .map((field): GridColDef<ShopItem> => ({
          field: field.name,
          headerName: field.unit ? `${field.title}, ${shownUnit(field.unit)}` : field.title,
          description: field.title,
          width: Math.max(
            field.type === "choice" || field.type === "material" ? 130 : 84,
            7.4 * (field.title.length + (field.unit ? field.unit.length + 2 : 0)) + 26,
          ),
          align: field.type === "quantity" || field.type.endsWith("number") ? "right" : "left",
          headerAlign: field.type === "quantity" || field.type.endsWith("number") ? "right" : "left",
          cellClassName: field.type === "quantity" || field.type.endsWith("number") ? "mono" : "",
          valueGetter: (_unused: unknown, row: ShopItem) => shown(field, row.data[field.name] as Value),
        })),
      { field: "source", headerName: "Source", width: 280 },
    ],
    [kind, shown, shownUnit],
  );
  if (shop.error && !shop.data)
    return (
      <div className="page" tabIndex={0}>
        <ProblemNotice error={shop.error} />
      </div>
    );
  if (!kind)
    return (
      <div className="page" tabIndex={0}>
        <CircularProgress size={22} aria-label="Loading the shop" />
      </div>
    );
  const rules = kind.kind === "rules";
  return (
    <>
      <header className="bar">
        <h1>Shop</h1>
        <span className="quiet">{kind.about}</span>
        <span className="push" />
        <Button variant="outlined" component="a" href={`/api/shop/export?kind=${kind.kind}&format=csv`} download>
          Export CSV
        </Button>
        <Button variant="outlined" component="a" href="/api/shop/export?format=json" download>
          Export all
        </Button>
        {mayEdit && (
          <Button variant="outlined" onClick={() => setImporting(true)}>
            Import
          </Button>
        )}
        {mayEdit && !rules && (
          <Button variant="contained" onClick={() => setAdding(true)}>
            Add
          </Button>
        )}
      </header>
      <div className="tabs">
        <Tabs
          label="Kinds"
          chosen={kind.kind}
          choose={(id) => go({ kind: String(id) })}
          tabs={kinds.map((item) => ({
            id: item.kind,
            says: (
              <>
                {item.plural}{" "}
                <span className="mono smaller quiet-here">
                  {item.kind === "rules"
                    ? ""
                    : (shop.data?.entries ?? []).filter((entry) => entry.kind === item.kind && !entry.retired).length}
                </span>
              </>
            ),
          }))}
        />
      </div>
      <div
        className="shop-split grow may-shrink grid"
        style={{ gridTemplateColumns: rules ? "minmax(0, 1fr)" : picked ? "minmax(0, 1fr) 500px" : "minmax(0, 1fr)" }}
      >
        {!rules && (
          <div className="may-narrow may-shrink flex down">
            <div className="flex gap-14 middle pad-tools">
              <TextField
                name="search"
                label={`Search ${kind.plural.toLowerCase()}`}
                value={search}
                onChange={(event) => setSearch(event.target.value)}
                className="wide-300"
              />
              <FormControlLabel
                control={
                  <Switch size="small" checked={retired} onChange={(event) => setRetired(event.target.checked)} />
                }
                label="Show retired"
              />
              <span className="quiet">Pick one to see and change it.</span>
            </div>
            <DataGrid
              rows={entries}
              columns={columns}
              density="compact"
              disableColumnMenu
              columnHeaderHeight={44}
              rowHeight={34}
              filterModel={{ items: [], quickFilterValues: search.split(/\s+/).filter(Boolean) }}
              hideFooter={entries.length < 100}
              disableRowSelectionOnClick={false}
              rowSelectionModel={{ type: "include", ids: new Set(picked ? [picked.id] : []) }}
              onRowClick={({ row }) => go({ entry: row.id })}
              onCellKeyDown={({ row }, event) => {
                if (event.key === "Enter") go({ entry: (row as ShopItem).id });
              }}
              initialState={{ pagination: { paginationModel: { pageSize: 100 } } }}
              localeText={{ noRowsLabel: "Nothing here yet. Add one, or import a table." }}
              sx={{
                border: 0,
                flex: 1,
                "& .mono": { fontFamily: "IBM Plex Mono", fontVariantNumeric: "tabular-nums" },
              }}
              aria-label={kind.plural}
            />
          </div>
        )}
        {picked && (
          <EntryPanel
            key={picked.id}
            item={picked}
            kind={kind}
            materials={(shop.data?.entries ?? []).filter((entry) => entry.kind === "material" && !entry.retired)}
            mayEdit={mayEdit}
            close={() => go({})}
            wide={rules}
          />
        )}
      </div>
      {adding && (
        <AddEntry
          kind={kind}
          entries={entries}
          from={picked}
          close={() => setAdding(false)}
          made={(id) => go({ entry: id })}
        />
      )}
      {importing && <ImportEntries kind={kind} close={() => setImporting(false)} />}
    </>
  );
}
