import {
  addressOf,
  type ErrorBody,
  type FileRoute,
  PROBLEMS,
  type RouteAnswer,
  type RouteArguments,
  type RouteName,
  ROUTES,
} from "@jar-count/core/contract";

/** An answer of the server other than success, in its one error shape. */
export class Refused extends Error {
  constructor(readonly body: ErrorBody) {
    super(body.detail);
  }
  get code() {
    return this.body.code;
  }
}

/** No answer at all: the server or the connection is away. */
export class Unreachable extends Error {
  constructor() {
    super("The server can't be reached. What you typed is kept here and sent when it is back.");
  }
}

/** Refusals that pass by themselves: the database is away or busy, or it is not known yet what became of a write. */
const WAITING: readonly string[] = ["away", "busy", "not-known", "restoring"];

let away = false;
const watching = new Set<() => void>();
/** Whether the last call got no answer. */
export const isAway = () => away;
/** Calls back when the server goes away or is back. @returns what ends that */
export function onAway(changed: () => void): () => void {
  watching.add(changed);
  return () => watching.delete(changed);
}
/** Something else than a call got no answer, such as a page's code. */
export const noteAway = () => setAway(true);
function setAway(now: boolean) {
  if (away === now) return;
  away = now;
  for (const changed of watching) changed();
}

interface Sent {
  params?: Record<string, string | number> | undefined;
  query?: Record<string, unknown> | undefined;
  body?: unknown;
}

async function send(name: RouteName, call: Sent = {}, signal?: AbortSignal): Promise<Response> {
  let response: Response;
  try {
    response = await fetch(addressOf(name, call.params, call.query), {
      method: ROUTES[name].method.toUpperCase(),
      ...(call.body === undefined ? {} : bodyOf(call.body)),
      ...(signal ? { signal } : {}),
    });
  } catch (error) {
    if (signal?.aborted) throw error;
    setAway(true);
    throw new Unreachable();
  }
  if (response.ok) {
    setAway(false);
    return response;
  }
  const refusal = refusalIn(await response.json().catch(() => null));
  // Not our error shape: something between here and the server spoke in its place.
  // What is not known to be saved is sent again by its key, as what got no answer.
  if (!refusal || WAITING.includes(refusal.code)) {
    setAway(true);
    throw new Unreachable();
  }
  setAway(false);
  throw new Refused(refusal);
}

/** A body in the server's one error shape: told by its code, since nobody else writes those. */
function refusalIn(body: unknown): ErrorBody | null {
  const found = body as Partial<ErrorBody> | null;
  return typeof found?.code === "string" && found.code in PROBLEMS && typeof found.detail === "string"
    ? (found as ErrorBody)
    : null;
}

function bodyOf(body: unknown): RequestInit {
  if (body instanceof Blob) return { headers: { "content-type": body.type || "application/zip" }, body };
  return { headers: { "content-type": "application/json" }, body: JSON.stringify(body) };
}

/**
 * Calls a route of the server by its name in the table of the API.
 * @throws Refused with the server's reason, Unreachable where no answer came
 */
export async function call<N extends RouteName>(name: N, ...[asked]: RouteArguments<N>): Promise<RouteAnswer<N>> {
  return answerOf<N>(await send(name, asked));
}

/** Fetches a route's file; `signal` ends it when nobody waits any more. */
export async function callFile<N extends FileRoute>(
  name: N,
  asked?: RouteArguments<N>[0],
  signal?: AbortSignal,
): Promise<Blob> {
  return (await send(name, asked, signal)).blob();
}

/** The server reads what it sends by its contract in its tests; here its word is taken for it. */
async function answerOf<N extends RouteName>(response: Response): Promise<RouteAnswer<N>> {
  if (response.status === 204) return undefined as RouteAnswer<N>;
  const text = await response.text();
  try {
    return JSON.parse(text) as RouteAnswer<N>;
  } catch {
    throw new Unreachable(); // something between here and the server answered in its place
  }
}
