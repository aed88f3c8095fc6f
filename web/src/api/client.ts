import type { ErrorBody } from "@jar-count/core/contract";

/** An answer of the server other than success, in its one error shape. */
export class Refused extends Error {
  constructor(readonly body: ErrorBody) {
    super(body.detail);
  }
  get status() {
    return this.body.status;
  }
}

/** No answer at all: the server or the connection is away. */
export class Unreachable extends Error {
  constructor() {
    super("The server can't be reached. What you typed is kept here and sent when it is back.");
  }
}

export async function call<T>(method: "GET" | "PUT" | "POST" | "DELETE", path: string, body?: unknown): Promise<T> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, {
      method,
      ...(body === undefined ? {} : { headers: { "content-type": "application/json" }, body: JSON.stringify(body) }),
    });
  } catch {
    throw new Unreachable();
  }
  if (response.status === 204) return undefined as T;
  if (response.status === 503) throw new Unreachable(); // the server is there, its database isn't
  const text = await response.text();
  let parsed: unknown;
  try {
    parsed = JSON.parse(text);
  } catch {
    throw new Unreachable(); // something between here and the server answered in its place
  }
  if (!response.ok) throw new Refused(parsed as ErrorBody);
  return parsed as T;
}
