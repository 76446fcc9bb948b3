/** So many of a thing: 1 tool change, 2 tool changes. */
export function counted(count: number, thing: string): string {
  return `${String(count)} ${thing}${count === 1 ? "" : "s"}`;
}
