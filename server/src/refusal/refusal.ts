import { type ErrorBody, type ProblemCode, PROBLEMS } from "@jar-count/core/contract";

/** An answer other than success, sent as problem details (RFC 9457). */
export class Refusal extends Error {
  /** The HTTP status; what reads bodies writes over it, so it is not gone by here. */
  status: number;
  constructor(
    readonly code: ProblemCode,
    detail: string,
    readonly more: Pick<ErrorBody, "errors" | "current" | "holds"> = {},
  ) {
    super(detail);
    this.status = PROBLEMS[code].status;
  }
}

export const notFound = (what: string) =>
  new Refusal("not-found", `${what} is not here. It may have been taken out; go back and look again.`);

/** Somebody saved first: nothing is overwritten, and what is there now goes back with the refusal. */
export const stale = (what: string, current: unknown) =>
  new Refusal("stale", `${what} was changed elsewhere since you opened it. Nothing was overwritten.`, { current });

/** One place in a body is wrong. */
export const wrongAt = (pointer: string, detail: string) =>
  new Refusal("invalid", detail, { errors: [{ pointer, detail }] });
