/**
 * Every refusal there is, by the code that programs go by: the HTTP status and a title in words. The sentence that says
 * what to do about it is written where the refusal is made.
 */
export const PROBLEMS = {
  "not-json": { status: 400, title: "Not JSON" },
  unreadable: { status: 400, title: "Can't be read" },
  foreign: { status: 403, title: "From another site" },
  "not-found": { status: 404, title: "Not found" },
  "wrong-method": { status: 405, title: "Not done this way" },
  stale: { status: 409, title: "Changed meanwhile" },
  "reversed-before": { status: 409, title: "Reversed before" },
  "is-committed": { status: 409, title: "Committed" },
  "not-committed": { status: 409, title: "Not committed" },
  "is-packed": { status: 409, title: "Packed" },
  "not-packed": { status: 409, title: "Not packed" },
  "is-sold": { status: 409, title: "Sold" },
  "no-jobs": { status: 409, title: "Nobody looks after it" },
  "not-empty": { status: 409, title: "Not empty" },
  "too-large": { status: 413, title: "Too large" },
  "too-heavy": { status: 413, title: "Too much at once" },
  "not-ours": { status: 421, title: "Another address" },
  "wrong-media-type": { status: 415, title: "Another media type is expected" },
  invalid: { status: 422, title: "Not as agreed" },
  "not-in-jar": { status: 422, title: "Not in the jar" },
  "not-free": { status: 422, title: "Not free" },
  "is-reversal": { status: 422, title: "A reversal" },
  "key-used": { status: 422, title: "Key used before" },
  "not-an-archive": { status: 422, title: "Not an archive" },
  stopped: { status: 499, title: "Stopped" },
  fault: { status: 500, title: "Our mistake" },
  "out-of-reach": { status: 502, title: "Out of reach" },
  busy: { status: 503, title: "Busy for a moment" },
  restoring: { status: 503, title: "An archive comes in" },
  "not-known": { status: 503, title: "Not known yet" },
  away: { status: 503, title: "Away for a moment" },
  "disk-full": { status: 507, title: "The disk is full" },
} as const;
export type ProblemCode = keyof typeof PROBLEMS;
export const PROBLEM_CODES = Object.keys(PROBLEMS) as [ProblemCode, ...ProblemCode[]];

/** The `type` of a problem (RFC 9457, 3.1.1): its code as a name that needs no address. */
export const problemType = (code: ProblemCode) => `urn:jar-count:problem:${code}`;
