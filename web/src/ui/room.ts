/** How much room a picture has, on the screen and on paper. */
import { useEffect, useRef, useState } from "react";
import { flushSync } from "react-dom";

/** A drawing on paper, in pixels of a printer's page: across it, or beside others. */
const ON_PAPER = { whole: { width: 700, height: 560 }, beside: { width: 330, height: 330 } };

/** Pixels of an element. Paper has another shape than the screen, and nobody measures it: as wide as a page, as high
 * as the style sheet says, or as told. */
export function useRoom(paper?: { width: number; height: number }) {
  const ref = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 800, height: 450 });
  const [wide, high] = [paper?.width, paper?.height];
  useEffect(() => {
    const element = ref.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => {
      if (entry) setSize({ width: entry.contentRect.width, height: entry.contentRect.height });
    });
    watch.observe(element);
    const onto = () => {
      const low = element.classList.contains("low") || element.closest(".three-views, .beside");
      flushSync(() => setSize(wide && high ? { width: wide, height: high } : low ? ON_PAPER.beside : ON_PAPER.whole));
    };
    const back = () => setSize({ width: element.clientWidth, height: element.clientHeight });
    window.addEventListener("beforeprint", onto);
    window.addEventListener("afterprint", back);
    return () => {
      watch.disconnect();
      window.removeEventListener("beforeprint", onto);
      window.removeEventListener("afterprint", back);
    };
  }, [wide, high]);
  return { ref, size };
}

/** Only while a page goes to paper: what stands on paper alone is not drawn again with each change on the screen. */
export function usePrinting(): boolean {
  const [printing, setPrinting] = useState(false);
  useEffect(() => {
    const begin = () => flushSync(() => setPrinting(true));
    const end = () => setPrinting(false);
    const paper = window.matchMedia("print");
    const turned = () => setPrinting(paper.matches);
    window.addEventListener("beforeprint", begin);
    window.addEventListener("afterprint", end);
    paper.addEventListener("change", turned);
    return () => {
      window.removeEventListener("beforeprint", begin);
      window.removeEventListener("afterprint", end);
      paper.removeEventListener("change", turned);
    };
  }, []);
  return printing;
}
