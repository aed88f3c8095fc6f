import type { KeyEntry, Part } from "../contract/index.ts";
import { type Counting, ofSize } from "../count/index.ts";
import { fittingOf } from "./fittings.ts";
import type { FittingShape } from "./picture.ts";

/** A finding that a part takes and no row names, with what it is drawn as. */
export interface Taken {
  entry: KeyEntry;
  shape: FittingShape;
  count: number;
}

/** The findings of one part that have a place in its picture. */
export function takenBy(part: Pick<Part, "uses">, { design, answer }: Counting): Taken[] {
  return (part.uses ?? []).flatMap((use) => {
    const entry = design.key.find((e) => e.key === use.key);
    const shape = entry ? fittingOf(entry) : null;
    const count = ofSize(use.count, answer.size) ?? 0;
    return entry && shape && count > 0 && use.forEach == null ? [{ entry, shape, count }] : [];
  });
}
