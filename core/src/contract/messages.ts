import type { z } from "zod";

const EXPECTED: Record<string, string> = {
  number: "Write a number.",
  int: "Write a whole number.",
  string: "A text is expected here.",
  boolean: "Write true or false.",
  array: "A list is expected here.",
  object: "An object is expected here.",
  record: "An object is expected here.",
};

/**
 * What is said of a value that no schema has words of its own for: what was expected, never the library's own terms.
 */
export function plainMessage(issue: z.core.$ZodRawIssue): string | undefined {
  if (issue.code === "invalid_type")
    return issue.input === undefined
      ? "This is missing."
      : (EXPECTED[issue.expected] ?? "Something else is expected here.");
  if (issue.code === "unrecognized_keys") return `There is no field called ${issue.keys.slice(0, 5).join(", ")}.`;
  if (issue.code === "invalid_value") return `Write one of: ${issue.values.slice(0, 20).map(String).join(", ")}.`;
  if (issue.code === "too_small" || issue.code === "too_big") {
    const [bound, much] = issue.code === "too_small" ? [issue.minimum, "At least"] : [issue.maximum, "At most"];
    const of = issue.origin === "string" ? " characters" : issue.origin === "array" ? " of these" : "";
    return `${much} ${bound.toLocaleString("en")}${of}.`;
  }
  if (issue.code === "invalid_format") return "This is not written as it must be here.";
  if (issue.code === "invalid_union") return "None of the shapes that are possible here fits.";
  return undefined;
}
