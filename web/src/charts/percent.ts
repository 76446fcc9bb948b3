/** A share of a tolerance in percent: whole, but never 100 for what is not in. */
export const percent = (share: number): string =>
  share > 1 + 1e-9 && share < 1.01 ? (Math.ceil(1000 * share - 1e-6) / 10).toFixed(1) : (100 * share).toFixed(0);
