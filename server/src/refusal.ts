import type { ErrorBody } from "@jar-count/core/contract";

/** An answer other than success, told as problem details (RFC 9457). */
export class Refusal extends Error {
  constructor(
    readonly status: number,
    readonly title: string,
    detail: string,
    readonly more: Pick<ErrorBody, "errors" | "current"> = {},
  ) {
    super(detail);
  }
}

export const notFound = (what: string) =>
  new Refusal(404, "Not found", `${what} is not here. It may have been taken out; go back and look again.`);

/** Somebody saved first: nothing is overwritten, and what is there now goes back with the refusal. */
export const stale = (what: string, current: unknown) =>
  new Refusal(409, "Changed meanwhile", `${what} was changed elsewhere since you opened it. Nothing was overwritten.`, {
    current,
  });

/** One place in a body is wrong. */
export const wrongAt = (pointer: string, detail: string) =>
  new Refusal(422, "Not as agreed", detail, { errors: [{ pointer, detail }] });
