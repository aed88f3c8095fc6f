import { z } from "zod";

import { PROBLEM_CODES } from "./problems.ts";

/** Problem details (RFC 9457), with a message for each place that is wrong. */
export const ErrorBody = z.object({
  type: z.string(),
  /** Goes with the type: what programs go by. */
  code: z.enum(PROBLEM_CODES),
  title: z.string(),
  status: z.int(),
  detail: z.string(),
  /** JSON pointers (RFC 6901) into the body that was sent. */
  errors: z.array(z.object({ pointer: z.string(), detail: z.string() })).optional(),
  /** With `stale`: what is there now, by the route's own schema. */
  current: z.unknown().optional(),
  /** With `not-in-jar`: how much the jar holds, in the base unit. */
  holds: z.number().optional(),
});
export type ErrorBody = z.infer<typeof ErrorBody>;
