import { type ErrorBody, PROBLEMS, problemType } from "@jar-count/core/contract";
import type { z } from "zod";
import { Refused } from "./client.ts";

/** What is said where a write did not get through, in the server's one error shape. */
export function refusalOf(error: unknown): ErrorBody | null {
  if (error == null) return null;
  if (error instanceof Refused) return error.body;
  return { ...shape("away"), detail: error instanceof Error ? error.message : String(error) };
}

/** What a form's own check found, in the server's one error shape; `at` is where the body stands in what is sent. */
export const notYet = (error: z.ZodError, at: string): ErrorBody => ({
  ...shape("invalid"),
  detail: "This can't be saved yet.",
  errors: error.issues
    .slice(0, 6)
    .map((issue) => ({ pointer: `${at}/${issue.path.join("/")}`, detail: issue.message })),
});

const shape = (code: "away" | "invalid") => ({ type: problemType(code), code, ...PROBLEMS[code] });

/** The one sentence that fits beside a button: the first place's, else the whole refusal's. */
export const sentenceOf = (refusal: ErrorBody | null): string | null =>
  refusal && (refusal.errors?.[0]?.detail ?? refusal.detail);
