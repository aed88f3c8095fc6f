import { z } from "zod";
import { RequestKey, Uuid } from "./values.ts";

export const PAPERS = ["a4", "letter"] as const;
export type Paper = (typeof PAPERS)[number];

/** Labels for jars, one each, in this order. */
export const LabelRequest = z.strictObject({
  /** By which its progress can be asked for. */
  requestKey: RequestKey.nullish(),
  components: z.array(Uuid).min(1, "Choose at least one jar.").max(2000, "At most 2,000 labels at a time."),
  paper: z.enum(PAPERS),
  /** How many labels of the first sheet are used up already. */
  skip: z.int().min(0).max(29).default(0),
});
export type LabelRequest = z.infer<typeof LabelRequest>;
