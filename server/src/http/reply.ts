import type { Cached } from "./cached.ts";

/** An answer that is not simply 200 with JSON: another status, a file, or bytes made before. */
export class Reply {
  constructor(
    readonly status: number,
    readonly body: unknown,
    readonly file: { name: string; type: string } | null = null,
  ) {}
}

/** 201 where the write made something that was not there. */
export const saved = <T>(isNew: boolean, body: T) => new Reply(isNew ? 201 : 200, body);

/** A file to keep, called `name`. */
export const file = (name: string, type: string, body: string | Uint8Array) =>
  new Reply(200, typeof body === "string" ? body : Buffer.from(body), { name, type });

export type Answered<T> = T | Reply | Cached;
