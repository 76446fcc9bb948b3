/** So many of a thing: 1 tool change, 2 tool changes. */
export function counted(count: number, thing: string): string {
  return `${String(count)} ${thing}${count === 1 ? "" : "s"}`;
}

/** A day as it is written here: 20 Jan 2027. */
export const dayOf = (at: string | Date): string =>
  new Date(at).toLocaleDateString("en-GB", { day: "numeric", month: "short", year: "numeric" });
