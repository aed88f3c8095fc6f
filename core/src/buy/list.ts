import Big from "big.js";
import { groupBy, inOrder, piecesOf, sharingFor } from "../ahead/index.ts";
import { dayAfter, notBefore } from "../day/index.ts";
import { convert } from "../component/index.ts";
import type { BuyLine, BuyList, Component, Lack, Offer, OpenBox, Packs, Shares } from "../contract/index.ts";
import { coinPlaces, packPrice, priceOfPacks, sayCoins, sumOfMoney } from "../cost/index.ts";
import { addCuts, cutFrom, type Stretch } from "../cut/index.ts";
import { exact, inSteps } from "../units/index.ts";
import { choosePacks } from "./packs.ts";

/**
 * What some open boxes lack of each component, beside what there is, what comes in time and what others take before
 * them. Each lacks for itself, so what two of them lack adds up.
 */
export function lacksOf(shares: Shares, linear: (component: string) => boolean, boxes: ReadonlySet<string>): Lack[] {
  const asked = inOrder(shares.boxes.filter((b) => boxes.has(b.id)));
  const lacks = new Map<string, Lack>();
  const wants = new Map<string, Map<string, { run: number; cuts: Stretch[] }>>();
  for (const { box, component, quantity, cuts } of shares.claims) {
    if (!boxes.has(box)) continue;
    const of = wants.get(box) ?? new Map<string, { run: number; cuts: Stretch[] }>();
    const known = of.get(component) ?? { run: 0, cuts: [] };
    of.set(component, { run: exact(known.run + quantity), cuts: addCuts(known.cuts, cuts) });
    wants.set(box, of);
  }
  for (const box of asked) {
    const sharing = sharingFor(shares, box);
    for (const [id, want] of wants.get(box.id) ?? []) {
      const component = { id, baseUnit: linear(id) ? ("mm" as const) : ("piece" as const) };
      const found = sharing({ component, ...want });
      if (!found || !(found.short > 0)) continue;
      const by = notBefore(box.packBy, shares.today);
      const lack = lacks.get(id) ?? { component: id, need: 0, cuts: [], by, boxes: [], late: [] };
      const cuts = [...(found.lacking ?? [])];
      lack.need = exact(lack.need + found.short);
      lack.cuts = addCuts(lack.cuts, cuts);
      lack.boxes.push({ box: box.id, quantity: found.short, cuts });
      lacks.set(id, lack);
    }
  }
  const supplies = groupBy(
    shares.supplies.filter((s) => lacks.has(s.component)),
    (s) => s.component,
  );
  const claimsOn = groupBy(
    shares.claims.filter((c) => c.from !== null && c.from !== "stock" && c.from !== "used"),
    (c) => c.from!,
  );
  for (const lack of lacks.values())
    lack.late = lateFor(lack, supplies.get(lack.component) ?? [], claimsOn, shares.today);
  return [...lacks.values()];
}

/** What is on the way too late for a box that lacks it, or nobody knows when, less what other boxes have of it. */
function lateFor(
  lack: Lack,
  supplies: Shares["supplies"],
  claimsOn: ReadonlyMap<string, Shares["claims"]>,
  today: string,
): Lack["late"] {
  const lacking = new Set(lack.boxes.map((b) => b.box));
  return supplies.flatMap(({ order, line, due, quantity }) => {
    if (due !== null && notBefore(due, today) <= lack.by) return [];
    const others = (claimsOn.get(line) ?? []).reduce(
      (sum, c) => (lacking.has(c.box) ? sum : exact(sum + c.quantity)),
      0,
    );
    const left = exact(quantity - others);
    return left > 0 ? [{ order, line, due, quantity: left }] : [];
  });
}

/** What buying asks of a component: what it is measured by, and how it is sold. */
export type Offered = Pick<
  Component,
  | "id"
  | "name"
  | "baseUnit"
  | "offers"
  | "form"
  | "alongMm"
  | "acrossMm"
  | "holeMm"
  | "material"
  | "massG"
  | "perGram"
  | "perGramU"
>;

/** How much of a component's base unit a pack of an offer holds; null where that can't be said. */
export function packAmount(component: Offered, offer: Offer): number | null {
  const found = convert(offer.amount, offer.unit, component.baseUnit, component)?.n;
  const amount = found === undefined ? 0 : inSteps(found, component.baseUnit);
  return amount > 0 ? amount : null;
}

/** What so many packs bring in the base unit: whole pieces. */
export function amountOfPacks(component: Offered, offer: Offer, packs: number): number {
  const amount = exact((packAmount(component, offer) ?? 0) * packs);
  return component.baseUnit === "piece" ? Math.floor(amount + 1e-6) : amount;
}

export interface Buying {
  /** The day on which one would order. */
  today: string;
  /** The home currency, in which offers are. */
  currency: string;
  suppliers: ReadonlyMap<string, { leadDays?: number | null | undefined }>;
}

/** A line of what to buy with so many packs of some offers, by their ids: chosen, or set by hand. */
export function buyLine(
  component: Offered,
  lack: Lack,
  packs: ReadonlyMap<string, number>,
  { today, currency, suppliers }: Buying,
): BuyLine {
  const places = coinPlaces(currency);
  const chosen = component.offers.flatMap((offer): Packs[] => {
    const n = packs.get(offer.id ?? "") ?? 0;
    if (n < 1) return [];
    const lead = offer.leadDays ?? suppliers.get(offer.supplier ?? "")?.leadDays ?? null;
    const due = lead === null ? null : dayAfter(today, lead);
    return [
      {
        offer: offer.id!,
        supplier: offer.supplier ?? null,
        pack: offer.pack,
        packs: n,
        amount: amountOfPacks(component, offer, n),
        price: priceOfPacks(offer, n, currency),
        orderBy: lead === null ? null : dayAfter(lack.by, -lead),
        due,
        late: due !== null && due > lack.by,
      },
    ];
  });
  const total =
    chosen.length === 1
      ? chosen[0]!.price
      : sumOfMoney(
          chosen.map((c) => c.price),
          currency,
        );
  const amount = exact(chosen.reduce((sum, c) => sum + c.amount, 0));
  const over = exact(amount - lack.need);
  const stepped = unsteppedOf(component, lack, chosen, currency);
  return {
    ...lack,
    chosen,
    total,
    amount,
    over,
    overWorth: over > 0 ? new Big(total).times(over).div(amount).toFixed(places) : sayCoins(0, places),
    unstepped: stepped !== null && new Big(total).lt(stepped) ? stepped : null,
  };
}

/** What one offer alone would cost without going up to a step that is beyond the need. */
function unsteppedOf(component: Offered, { need }: Lack, chosen: readonly Packs[], currency: string): string | null {
  if (chosen.length !== 1) return null;
  const { offer: id, packs } = chosen[0]!;
  const offer = component.offers.find((o) => o.id === id)!;
  const fewest = Math.max(offer.minimum, Math.ceil(need / packAmount(component, offer)! - 1e-9));
  const steppedUp = packs > fewest && packPrice(offer, packs) !== packPrice(offer, fewest);
  return steppedUp ? priceOfPacks(offer, fewest, currency) : null;
}

/**
 * The packs that cover what is lacking for the least money, by offer. Of what is kept by length every cut must fit on a
 * piece as long as a pack: where a sum would do and the pieces do not, more is bought until they do.
 * @param among only these offers, by their ids
 * @returns null where nobody offers it, or no pack is long enough
 */
export function packsFor(
  component: Offered,
  lack: Pick<Lack, "need" | "cuts">,
  currency: string,
  among?: ReadonlySet<string>,
): Map<string, number> | null {
  const longest = lack.cuts[0]?.mm ?? 0;
  const offers = component.offers.flatMap((offer) => {
    const amount = packAmount(component, offer);
    if (!offer.id || amount === null || (among && !among.has(offer.id))) return [];
    if (amount < longest) return [];
    return [{ ...offer, id: offer.id, amount }];
  });
  // Of equal ones the earlier is chosen: one that names who sells it, so that it can be ordered.
  offers.sort((a, b) => Number(a.supplier == null) - Number(b.supplier == null));
  let need = lack.need;
  for (let tries = 0; tries < 100; tries++) {
    const found = choosePacks(need, currency, offers);
    if (!found) return null;
    const packs = new Map(found.chosen.map((c) => [offers[c.offer]!.id, c.packs]));
    if (lack.cuts.length === 0) return packs;
    const pieces = found.chosen.map((c) => ({ mm: offers[c.offer]!.amount, count: c.packs }));
    const { missing } = cutFrom(pieces, lack.cuts);
    if (missing.length === 0) return packs;
    need = exact(found.amount + missing[0]!.mm);
  }
  return null;
}

/** What to buy for some boxes, the late lines first, then by the last day to order. */
export function buyList(
  open: readonly OpenBox[],
  boxes: ReadonlySet<string>,
  lacks: readonly Lack[],
  components: ReadonlyMap<string, Offered>,
  buying: Buying,
): BuyList {
  const lines = lacks.flatMap((lack): BuyLine[] => {
    const component = components.get(lack.component);
    if (!component) return [];
    const packs = packsFor(component, lack, buying.currency) ?? new Map<string, number>();
    return [buyLine(component, lack, packs, buying)];
  });
  const sorted = lines.map((line) => ({
    line,
    key: `${isLate(line) ? 0 : 1} ${lastDayOf(line)} ${components.get(line.component)!.name} ${line.component}`,
  }));
  sorted.sort((a, b) => compare(a.key, b.key));
  return {
    today: buying.today,
    currency: buying.currency,
    open: inOrder(open),
    boxes: inOrder(open.filter((b) => boxes.has(b.id))).map((b) => b.id),
    lines: sorted.map((l) => l.line),
    total: sumOfMoney(
      lines.map((l) => l.total),
      buying.currency,
    ),
  };
}

export const isLate = (line: Pick<BuyLine, "chosen">) => line.chosen.some((c) => c.late);

/** The last day on which all of a line can be ordered in time. */
export const lastDayOf = (line: Pick<BuyLine, "chosen" | "by">): string =>
  line.chosen.reduce((day, c) => (c.orderBy !== null && c.orderBy < day ? c.orderBy : day), line.by);

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);

/** The pieces that an order's line of something kept by length brings. */
export const piecesOfPacks = (component: Offered, offer: Offer, packs: number): Stretch[] =>
  piecesOf({ quantity: amountOfPacks(component, offer, packs), pieceMm: packAmount(component, offer) });
