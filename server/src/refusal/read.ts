import { findUnfit, plainMessage } from "@jar-count/core/contract";
import { z } from "zod";
import { notFound, Refusal } from "./refusal.ts";

z.config({ customError: plainMessage });

/** Reads a body by its schema, or refuses it whole with a message for each place. */
export function readAs<S extends z.ZodType>(schema: S, body: unknown): z.output<S> {
  const found = schema.safeParse(body);
  if (found.success) return found.data;
  throw new Refusal("invalid", "Some of this can't be accepted; each place says what to mend. Nothing was saved.", {
    errors: found.error.issues.slice(0, 100).map((issue) => ({
      pointer: issue.path.map((step) => `/${String(step).replaceAll("~", "~0").replaceAll("/", "~1")}`).join(""),
      detail: issue.message,
    })),
  });
}

/** Reads an address's parameters: one that can't be any is the address of nothing. */
export function readParams<S extends z.ZodType>(schema: S, params: unknown): z.output<S> {
  const found = schema.safeParse(params);
  if (!found.success || findUnfit(params)) throw notFound("This address");
  return found.data;
}
