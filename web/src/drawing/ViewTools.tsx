/** Nearer, farther, the whole plate; measuring. */
interface Props {
  zoomBy: (factor: number) => void;
  fitAll: () => void;
  whole: boolean;
  measuring: boolean;
  measure: () => void;
}

export function ViewTools({ zoomBy, fitAll, whole, measuring, measure }: Props) {
  return (
    <div className="view-tools" onPointerDown={(event) => event.stopPropagation()}>
      <button type="button" title="Nearer (+)" aria-label="Nearer" onClick={() => zoomBy(1.4)}>
        +
      </button>
      <button type="button" title="Farther (-)" aria-label="Farther" disabled={whole} onClick={() => zoomBy(1 / 1.4)}>
        −
      </button>
      <button type="button" title="Whole plate (0)" disabled={whole} onClick={fitAll}>
        Fit
      </button>
      <button type="button" title="Measure a distance (M)" aria-pressed={measuring} onClick={measure}>
        Measure
      </button>
    </div>
  );
}
