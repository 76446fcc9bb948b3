/** A drawing that can be zoomed and panned: what of it is seen, and where a pointer is on it. */
import { useGesture } from "@use-gesture/react";
import { useCallback, useState } from "react";

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

  // Wheel, two fingers on glass and two on a pad alike; the page itself neither scrolls nor grows by them.
  const element = fit.ref;
  const under = ([x, y]: readonly [number, number]) => {
    const box = element.current?.getBoundingClientRect();
    return { x: left + (x - (box?.left ?? 0)) * px, y: top + (y - (box?.top ?? 0)) * px };
  };
  useGesture(
    {
      onWheel: ({ event, delta: [, down] }) => {
        if (event.ctrlKey) return; // two fingers on a pad: told as a pinch
        event.preventDefault();
        zoomBy(Math.exp(-down / 400), under([event.clientX, event.clientY]));
      },
      onPinch: ({ event, origin, offset: [scale], first, memo }) => {
        event.preventDefault();
        const before =
          first || !Array.isArray(memo)
            ? { scale: first ? 1 : scale, origin }
            : { scale: memo[0] as number, origin: memo[1] as [number, number] };
        zoomBy(scale / before.scale, under(origin));
        setSeen((seen) =>
          seen.zoom === 1
            ? seen
            : {
                ...seen,
                x: seen.x - (origin[0] - before.origin[0]) * px,
                y: seen.y - (origin[1] - before.origin[1]) * px,
              },
        );
        return [scale, origin];
      },
    },
    {
      target: element,
      eventOptions: { passive: false },
      pinch: { from: [1, 0], scaleBounds: { min: 1 / CLOSEST, max: CLOSEST } },
    },
  );

  return {
    ref: fit.ref,
    size,
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
