import type { Claim } from "@jar-count/core/contract";
import type { Session } from "../store/database.ts";
import { tagsOfComponents, tagsOfPlans } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";

/** What a planned box takes, and the tags under which that holds. */
interface Plan {
  box: string;
  components: string;
  claims: Claim[];
}

/** By box: kept only to save counting them again. */
const kept = new Map<string, Plan>();
/** What was true of all components when {@link kept} was looked through last. */
let seen = "";

/**
 * What every planned box takes of each component, by its bill. Cheap questions to the database decide every time which
 * boxes are counted again: those that changed, or whose components or rules did.
 */
export async function plannedClaims(db: Session): Promise<Claim[]> {
  const { spares } = await findWorkshop(db);
  const byCost = spares.some((rule) => rule.costFrom != null || rule.costTo != null);
  const tags = await tagsOfPlans(db, byCost);
  for (const box of kept.keys()) if (!tags.boxes.has(box)) kept.delete(box);
  const changed = [...tags.boxes].filter(([box, tag]) => kept.get(box)?.box !== tag).map(([box]) => box);
  // Only where some component changed at all is it asked which boxes take it.
  const doubted = tags.components === seen ? changed : [...tags.boxes.keys()];
  if (doubted.length > 0) {
    const components = await tagsOfComponents(db, doubted, byCost);
    // Read one after another on this session; the threads count beside each other.
    const counting: Promise<unknown>[] = [];
    for (const box of doubted) {
      const now = { box: tags.boxes.get(box)!, components: components.get(box) ?? "" };
      const known = kept.get(box);
      if (known?.box === now.box && known.components === now.components) continue;
      const detail = await readBox(db, box);
      const totals = inThread((work) => work.totals(detail));
      counting.push(
        totals.then((list) => {
          const claims = list.map((t) => ({ box, component: t.component, from: null, quantity: t.run, cuts: t.cuts }));
          kept.set(box, { ...now, claims });
        }),
      );
    }
    await Promise.all(counting);
    seen = tags.components;
  }
  return [...tags.boxes.keys()].flatMap((box) => kept.get(box)?.claims ?? []);
}
