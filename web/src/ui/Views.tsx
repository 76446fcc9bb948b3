/** The views of one step; the one that is shown is in the address, so that a reload, or a link, shows it again. */
import { Tab, Tabs } from "@mui/material";
import { useSearchParams } from "react-router";

interface View<T extends string> {
  value: T;
  label: string;
}

/** Which view is shown, the first where the address says nothing; and how to show another. */
export function useView<T extends string>(views: readonly [View<T>, ...View<T>[]]): [T, (view: T) => void] {
  const [params, setParams] = useSearchParams();
  const first = views[0].value;
  const shown = views.find((view) => view.value === params.get("view"))?.value ?? first;
  return [shown, (view) => setParams(view === first ? {} : { view }, { replace: true })];
}

export function Views<T extends string>({
  label,
  views,
  shown,
  show,
}: {
  label: string;
  views: readonly View<T>[];
  shown: T;
  show: (view: T) => void;
}) {
  return (
    <Tabs
      value={shown}
      onChange={(_event, value: T) => show(value)}
      aria-label={label}
      variant="scrollable"
      scrollButtons={false}
    >
      {views.map((view) => (
        <Tab key={view.value} value={view.value} label={view.label} />
      ))}
    </Tabs>
  );
}
