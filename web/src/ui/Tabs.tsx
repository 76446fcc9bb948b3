/** One of several to look at: one stop of the Tab key, arrow keys go from one to the next. */
import type { KeyboardEvent, ReactNode } from "react";

export interface OneTab {
  id: string | number;
  says: ReactNode;
}

interface Props {
  label: string;
  tabs: readonly OneTab[];
  chosen: string | number | null;
  choose: (id: string | number) => void;
  /** How a tab looks, where not as on a row of its own. */
  look?: string;
}

export function Tabs({ label, tabs, chosen, choose, look = "" }: Props) {
  const press = (event: KeyboardEvent<HTMLDivElement>) => {
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    const all = [...event.currentTarget.querySelectorAll<HTMLElement>("[role=tab]")];
    const here = all.indexOf(document.activeElement as HTMLElement);
    const next = all[(here + by + all.length) % all.length];
    next?.focus();
    next?.click();
  };
  const stop = tabs.some((tab) => tab.id === chosen) ? chosen : tabs[0]?.id;
  return (
    <div className="tab-list" role="tablist" aria-label={label} onKeyDown={press}>
      {tabs.map(({ id, says }) => (
        <button
          key={id}
          type="button"
          role="tab"
          className={look}
          aria-selected={id === chosen}
          tabIndex={id === stop ? 0 : -1}
          onClick={() => choose(id)}
        >
          {says}
        </button>
      ))}
    </div>
  );
}
