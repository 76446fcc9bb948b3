/** Speaking with the service: JSON, the security token, and errors as the service words them. */

export interface FieldError {
  field: string;
  value: string;
  message: string;
}

export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    readonly detail: string,
    readonly errors: FieldError[] = [],
    readonly type = "about:blank",
  ) {
    super(detail);
  }

  /** Worth trying again by itself: the connection or the database is away. */
  get passing(): boolean {
    return this.status === 0 || this.status === 503;
  }
}

let token = "";

export function keepToken(value: string): void {
  token = value;
}

/** Whether the session is known, so that a change can be sent at all. */
export const hasToken = (): boolean => token !== "";

const keys = new WeakMap<object, string>();

/** 32 hexadecimal digits that nobody else has. */
export function newKey(): string {
  return Array.from(crypto.getRandomValues(new Uint8Array(16)), (byte) => byte.toString(16).padStart(2, "0")).join("");
}

/** The key of one change: the same however often it is sent, so that a change whose answer was lost is not made twice. */
export function keyOf(change: object): string {
  const known = keys.get(change) ?? newKey();
  keys.set(change, known);
  return known;
}

/** ``change``: what a mutation was called with. It is the same object at every try, and its key goes with the request. */
export async function call<T>(
  method: string,
  path: string,
  body?: unknown,
  change?: object | null,
  kind: "json" | "numbers" = "json",
): Promise<T> {
  const form = body instanceof FormData;
  const headers: Record<string, string> = { Accept: "application/json" };
  if (method !== "GET") headers["X-CSRFToken"] = token;
  if (change) headers["Idempotency-Key"] = keyOf(change);
  if (body !== undefined && !form) headers["Content-Type"] = "application/json";
  let response: Response;
  try {
    const sent = body === undefined ? null : form ? body : JSON.stringify(body);
    const keepalive = path.endsWith("/here"); // that a page was left is said while it is left
    response = await fetch(path, { method, headers, body: sent, credentials: "same-origin", keepalive });
  } catch {
    throw new Problem(
      0,
      "No connection",
      "Wedgecraft does not answer. What you see stays here; this goes on by itself when it is back.",
    );
  }
  if (response.status === 204) return undefined as T;
  if (response.ok && kind === "numbers") return new Float32Array(await response.arrayBuffer()) as T;
  const answer: unknown = await response.json().catch(() => null);
  if (response.ok) return answer as T;
  const said = (answer ?? {}) as Partial<Problem>;
  throw new Problem(
    response.status,
    said.title ?? "Not done",
    said.detail ?? `The service answered ${String(response.status)}.`,
    said.errors ?? [],
    said.type ?? "about:blank",
  );
}
