/** A row of tools that is one stop of the Tab key: arrow keys go from tool to tool, Home and End to the ends. */
import { useEffect, useRef, type KeyboardEvent, type ReactNode } from "react";

const TOOL = "button:not(:disabled), a[href], input:not(:disabled):not([hidden])";

export function Toolbar({
  label,
  className = "",
  children,
}: {
  label: string;
  className?: string;
  children: ReactNode;
}) {
  const bar = useRef<HTMLDivElement>(null);
  const tools = () => [...(bar.current?.querySelectorAll<HTMLElement>(TOOL) ?? [])];
  const stop = (at: HTMLElement | undefined) => {
    for (const tool of tools()) tool.tabIndex = tool === at ? 0 : -1;
  };
  useEffect(() => {
    const all = tools();
    const known = all.find((tool) => tool === document.activeElement) ?? all.find((tool) => tool.tabIndex === 0);
    stop(known ?? all[0]);
  });
  const press = (event: KeyboardEvent) => {
    const typing = event.target instanceof HTMLInputElement;
    const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    const end = { Home: 0, End: -1 }[event.key];
    if (typing || (by === undefined && end === undefined)) return;
    event.preventDefault();
    event.stopPropagation();
    const all = tools();
    const here = all.indexOf(document.activeElement as HTMLElement);
    const next = all.at(end ?? (here + (by ?? 0) + all.length) % all.length);
    next?.focus();
  };
  return (
    <div
      ref={bar}
      className={`toolbar ${className}`}
      role="toolbar"
      aria-label={label}
      onKeyDown={press}
      onFocus={(event) => stop(event.target as HTMLElement)}
    >
      {children}
    </div>
  );
}

/** A tool, with its key beside it; the key itself is heard by the view it stands in. */
export function Tool({
  label,
  shortcut,
  does,
  off = false,
  pressed,
  title,
  children,
}: {
  label: string;
  shortcut?: string | undefined;
  does: () => void;
  off?: boolean;
  pressed?: boolean | undefined;
  title?: string | undefined;
  children?: ReactNode;
}) {
  return (
    <button
      type="button"
      className="tool"
      disabled={off}
      onClick={does}
      aria-pressed={pressed}
      aria-keyshortcuts={shortcut}
      title={title}
    >
      {children ?? label}
      {shortcut && <kbd aria-hidden>{shortcut}</kbd>}
    </button>
  );
}
