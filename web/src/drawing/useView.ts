/** A drawing that can be zoomed and panned: what of it is seen, and where a pointer is on it. */
import { useCallback, useEffect, useState } from "react";

import { useScale } from "./drawing";

const CLOSEST = 40;

interface Seen {
  x: number;
  y: number;
  zoom: number;
}

export function useView(width: number, depth: number, pad: number) {
  const fit = useScale(width, depth, pad);
  const [seen, setSeen] = useState<Seen>({ x: width / 2, y: depth / 2, zoom: 1 });
  const whole = seen.zoom === 1;
  const px = fit.px / seen.zoom;
  const size = fit.size;
  const middle = whole ? { x: width / 2, y: depth / 2 } : seen;
  const left = middle.x - (px * size.width) / 2;
  const top = middle.y - (px * size.height) / 2;

  const zoomBy = useCallback(
    (factor: number, at?: { x: number; y: number }) =>
      setSeen((before) => {
        const zoom = Math.min(CLOSEST, Math.max(1, before.zoom * factor));
        if (zoom === 1) return { x: width / 2, y: depth / 2, zoom };
        const from = before.zoom === 1 ? { x: width / 2, y: depth / 2 } : before;
        if (!at) return { ...from, zoom };
        const share = before.zoom / zoom;
        return { x: at.x + (from.x - at.x) * share, y: at.y + (from.y - at.y) * share, zoom };
      }),
    [width, depth],
  );

  // The wheel must not scroll the page: that can only be said to the element itself.
  const element = fit.ref;
  useEffect(() => {
    const target = element.current;
    if (!target) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const box = target.getBoundingClientRect();
      zoomBy(Math.exp(-event.deltaY / 400), {
        x: left + (event.clientX - box.left) * px,
        y: top + (event.clientY - box.top) * px,
      });
    };
    target.addEventListener("wheel", wheel, { passive: false });
    return () => target.removeEventListener("wheel", wheel);
  }, [element, zoomBy, left, top, px]);

  return {
    ref: fit.ref,
    px,
    viewBox: `${String(left)} ${String(top)} ${String(px * size.width)} ${String(px * size.height)}`,
    whole,
    zoomBy,
    fitAll: () => setSeen({ x: width / 2, y: depth / 2, zoom: 1 }),
    pan: (dx: number, dy: number) =>
      setSeen((before) => (before.zoom === 1 ? before : { ...before, x: before.x - dx * px, y: before.y - dy * px })),
    /** Where a pointer is on the plate, mm, Y up. */
    at: (event: { clientX: number; clientY: number }): [number, number] => {
      const box = element.current?.getBoundingClientRect();
      return [left + (event.clientX - (box?.left ?? 0)) * px, depth - (top + (event.clientY - (box?.top ?? 0)) * px)];
    },
  };
}
