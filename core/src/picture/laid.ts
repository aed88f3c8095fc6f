import type { Laid } from "../contract/index.ts";
import type { Counting, StrungPartOf } from "../count/index.ts";
import { fittingOf } from "./fittings.ts";
import { takenBy } from "./taken.ts";
import { closesToRing } from "./ring.ts";

/** How a part is drawn, and why where nobody said it. */
export interface Proposal {
  laid: Laid;
  /** In words, after "because"; null where the design says it. */
  reason: string | null;
}

/** How a part is drawn: as the design says, else as its rows and findings let one guess. */
export function laidOf(counting: Counting, strung: StrungPartOf): Proposal {
  const { part } = strung;
  const { design } = counting;
  if (part.laid != null) return { laid: part.laid, reason: null };
  if (closesToRing(strung)) return { laid: "ring", reason: "a later row passes through the beads of the first" };
  const taken = takenBy(part, counting);
  // Of what is strung on a head pin the first bead sits at its head, wherever it hangs from.
  const onPin = (part.uses ?? []).some((u) => isHeadPin(design.key.find((e) => e.key === u.key)));
  const rising: Proposal = { laid: "rising", reason: "it hangs, and is strung from a pin's head upwards" };
  if (taken.some((t) => t.shape === "ear wire" || t.shape === "post"))
    return onPin && strung.whole.strandMm > 0 ? rising : { laid: "hanging", reason: "it takes an ear wire" };
  if (part.as != null) {
    const role = counting.roles.get(part.as);
    const hangs = counting.parts.some((p) => p.placings.some((x) => x.key === part.as && x.how === "hung"));
    if (hangs || (role?.hangsBy.length ?? 0) > 0) return onPin ? rising : { laid: "hanging", reason: "it hangs" };
    return { laid: "strand", reason: "it stands on a strand" };
  }
  if (part.makes === 2 && design.about?.kind === "earrings") return { laid: "hanging", reason: "it is an earring" };
  if (strung.whole.strandMm === 0 && strung.placings.some((p) => p.how === "hung"))
    return { laid: "hanging", reason: "everything in it hangs" };
  return { laid: "strand", reason: "nothing in its rows closes or hangs" };
}

const isHeadPin = (entry: Parameters<typeof fittingOf>[0] | undefined) =>
  entry !== undefined && fittingOf(entry) === "pin head" && !/eye/i.test(`${entry.form ?? ""} ${entry.name}`);
