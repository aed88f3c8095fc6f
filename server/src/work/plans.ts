import type { Claim } from "@jar-count/core/contract";
import { DoFirst, type Session } from "../store/database.ts";
import { type ByCost, tagsOfComponents, tagsOfPlans } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";
import { readBox } from "./boxes.ts";

/** What a planned box takes, and the tags under which that holds. */
interface Plan {
  /** Of the box itself and the workshop's rules. */
  box: string;
  /** Of the components that it takes. */
  components: string;
  /** Of all components, when it was looked at last: while that stands, so does its own. */
  all: string;
  claims: Claim[];
}

/** By box: kept only to save counting them again. */
const kept = new Map<string, Plan>();

/**
 * What every planned box takes of each component, by its bill; `except` one that knows itself what it takes. Cheap
 * questions to the database decide every time which boxes are counted again: those that changed, or whose components or
 * rules did.
 * @throws DoFirst where some must be counted: it is asked in a transaction
 */
export async function plannedClaims(db: Session, except: string | null = null): Promise<Claim[]> {
  const { spares } = await findWorkshop(db);
  const byCost: ByCost = spares.some((rule) => rule.costFrom != null || rule.costTo != null)
    ? "average"
    : spares.some((rule) => rule.shareOver != null)
      ? "last"
      : "none";
  const tags = await tagsOfPlans(db, byCost);
  for (const box of kept.keys()) if (!tags.boxes.has(box)) kept.delete(box);
  const wanted = [...tags.boxes.keys()].filter((box) => box !== except);
  const doubted = wanted.filter((box) => {
    const known = kept.get(box);
    return known?.box !== tags.boxes.get(box) || known?.all !== tags.components;
  });
  const components = doubted.length > 0 ? await tagsOfComponents(db, doubted, byCost) : new Map<string, string>();
  const counting: (() => Promise<void>)[] = [];
  for (const box of doubted) {
    const now = { box: tags.boxes.get(box)!, components: components.get(box) ?? "", all: tags.components };
    const known = kept.get(box);
    if (known?.box === now.box && known.components === now.components) known.all = now.all;
    else {
      const detail = await readBox(db, box);
      counting.push(async () => {
        const list = await inThread((work) => work.totals(detail));
        const claims = list.map((t) => ({ box, component: t.component, from: null, quantity: t.run, cuts: t.cuts }));
        kept.set(box, { ...now, claims });
      });
    }
  }
  // Counted beside each other, while this transaction holds nothing; then it reads again.
  if (counting.length > 0) throw new DoFirst(async () => void (await Promise.all(counting.map((count) => count()))));
  return wanted.flatMap((box) => kept.get(box)?.claims ?? []);
}
