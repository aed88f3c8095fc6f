import { pieceMass } from "../component/index.ts";
import type { BilledComponent, Stand } from "../contract/index.ts";
import type { ContentsItem } from "../run/index.ts";
import { type BagItem, usualSpread } from "../weigh/index.ts";

/**
 * A bag's items as weighing it asks for them: what was learnt by weighing of the lot first, else what is known of the
 * component. What is cut, or counted by whole packs, has no mass of a piece.
 */
export function bagItems(items: readonly ContentsItem[], stands: readonly Stand[]): BagItem[] {
  return items.map(({ component, counted, spare, amount, cuts, packs }) => {
    const { name, baseUnit, perGram } = component;
    if (packs.length > 0 || cuts.length > 0) return { name, count: 1, piece: null };
    if (baseUnit !== "g") return { name, count: amount, piece: pieceOf(component, stands) };
    // Weighed out by the gram: so many pieces as a gram has, else the grams themselves, to a hundredth part.
    if (perGram != null) return { name, count: counted + spare, piece: pieceOf(component, stands) };
    return { name: `${name}, g`, count: amount, piece: { g: 1, u: 0.01, sd: 0, estimated: false } };
  });
}

function pieceOf(component: BilledComponent, stands: readonly Stand[]): BagItem["piece"] {
  const { form } = component;
  const weighed = stands.find((s) => s.component === component.id && s.unitMass)?.unitMass;
  const spread = usualSpread(form);
  if (weighed) return { g: weighed.g, u: weighed.u, sd: weighed.sd ?? spread * weighed.g, estimated: false };
  // Bills before this one hold no material, and a metal piece is no glass.
  if (component.massG == null && component.perGram == null && component.material == null) return null;
  const known = pieceMass(component);
  return known && { g: known.g, u: known.u, sd: spread * known.g, estimated: known.from === "estimated" };
}
