import { pieceMass } from "../component/index.ts";
import type { BilledComponent, Stand } from "../contract/index.ts";
import type { ContentsItem } from "../run/index.ts";
import { type BagItem, usualSpread } from "../weigh/index.ts";

/**
 * A bag's items as weighing it asks for them: what was learnt by weighing of the lot first, else what is known of the
 * component. What is cut, or counted by whole packs, has no mass of a piece.
 */
export function bagItems(items: readonly ContentsItem[], stands: readonly Stand[]): BagItem[] {
  return items.map(({ component, amount, cuts, packs }) => {
    const { name, baseUnit } = component;
    const piece = packs.length > 0 || cuts.length > 0 ? null : pieceOf(component, stands);
    // What is kept in grams is one piece of just that mass, weighed out to a hundredth part.
    if (baseUnit === "g") return { name, count: 1, piece: { g: amount, u: 0.01 * amount, sd: 0 } };
    return { name, count: baseUnit === "piece" ? amount : 1, piece: baseUnit === "piece" ? piece : null };
  });
}

function pieceOf(component: BilledComponent, stands: readonly Stand[]): BagItem["piece"] {
  const { form } = component;
  const weighed = stands.find((s) => s.component === component.id && s.unitMass)?.unitMass;
  if (weighed) return { g: weighed.g, u: weighed.u, sd: weighed.sd ?? usualSpread(form) * weighed.g };
  const known = pieceMass(component);
  return known && { g: known.g, u: known.u, sd: usualSpread(form) * known.g };
}
