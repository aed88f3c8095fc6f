import type { Claim } from "@jar-count/core/contract";
import type { Session } from "../store/database.ts";
import { tagsOfPlans } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";

/** What planned boxes take, by box, with the tag under which it holds: kept only to save counting them again. */
const kept = new Map<string, { tag: string; claims: Claim[] }>();

/**
 * What every planned box takes of each component, by its bill. A cheap question to the database decides every time
 * which boxes are counted again: those that changed, or whose components or rules did.
 */
export async function plannedClaims(db: Session): Promise<Claim[]> {
  const { spares } = await findWorkshop(db);
  const tags = await tagsOfPlans(
    db,
    spares.some((rule) => rule.costFrom != null || rule.costTo != null),
  );
  for (const box of kept.keys()) if (!tags.has(box)) kept.delete(box);
  const changed = [...tags].filter(([box, tag]) => kept.get(box)?.tag !== tag);
  // One after another on this session; the threads count beside each other.
  const counting: Promise<void>[] = [];
  for (const [box, tag] of changed) {
    const detail = await readBox(db, box);
    counting.push(
      inThread((work) => work.totals(detail)).then((totals) => {
        const claims = totals.map((t) => ({ box, component: t.component, from: null, quantity: t.run, cuts: t.cuts }));
        kept.set(box, { tag, claims });
      }),
    );
  }
  await Promise.all(counting);
  return [...tags.keys()].flatMap((box) => kept.get(box)?.claims ?? []);
}
