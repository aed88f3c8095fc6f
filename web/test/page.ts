/** What the page's own logic needs of a browser, for tests that run without one. */
import { PROBLEMS, type ProblemCode, problemType } from "@jar-count/core/contract";
import { vi } from "vitest";

/** The browser's store, as far as the page uses it. */
export class Store {
  private readonly kept = new Map<string, string>();
  full = false;
  getItem = (key: string) => this.kept.get(key) ?? null;
  setItem = (key: string, value: string) => {
    if (this.full) throw new Error("quota");
    this.kept.set(key, value);
  };
  removeItem = (key: string) => void this.kept.delete(key);
  key = (i: number) => [...this.kept.keys()][i] ?? null;
  get length() {
    return this.kept.size;
  }
}

export interface Asked {
  method: string;
  /** The address below `/api`, with its query. */
  path: string;
  body: unknown;
}
type Reply = { status?: number; body: unknown } | "away";

/** Puts a server in place of the network. Returns what it was asked, in order. */
export function serve(reply: (asked: Asked) => Reply | Promise<Reply>): Asked[] {
  const came: Asked[] = [];
  vi.stubGlobal("fetch", async (address: string, init: RequestInit = {}) => {
    const path = address.replace(/^\/api/, "");
    const body: unknown = typeof init.body === "string" ? JSON.parse(init.body) : null;
    const asked = { method: init.method ?? "GET", path, body };
    came.push(asked);
    const answer = await reply(asked);
    if (answer === "away") throw new TypeError("fetch failed");
    const status = answer.status ?? 200;
    return new Response(typeof answer.body === "string" ? answer.body : JSON.stringify(answer.body), { status });
  });
  return came;
}

/** A refusal in the server's one shape. */
export const refused = (code: ProblemCode, detail: string, more: object = {}) => ({
  status: PROBLEMS[code].status,
  body: { type: problemType(code), code, ...PROBLEMS[code], detail, ...more },
});
