import { type ErrorBody, PROBLEMS, problemType } from "@jar-count/core/contract";
import { Refused } from "./client.ts";

/** What is said where a write did not get through, in the server's one error shape. */
export function refusalOf(error: unknown): ErrorBody | null {
  if (error == null) return null;
  if (error instanceof Refused) return error.body;
  return {
    type: problemType("away"),
    code: "away",
    ...PROBLEMS.away,
    detail: error instanceof Error ? error.message : String(error),
  };
}

/** The one sentence that fits beside a button: the first place's, else the whole refusal's. */
export const sentenceOf = (refusal: ErrorBody | null): string | null =>
  refusal && (refusal.errors?.[0]?.detail ?? refusal.detail);
