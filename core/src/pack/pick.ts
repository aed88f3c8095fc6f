import type { Packing, PackNeed, Stand } from "../contract/index.ts";
import { groupBy } from "../ahead/index.ts";
import { addCuts, type CutStep, planCuts, type Stretch } from "../cut/index.ts";
import { exact } from "../units/index.ts";
import { stillOpen } from "./use.ts";

/** So much of a need, to be taken from one place and lot. */
export interface Picked {
  need: string;
  variant: string;
  place: string;
  lot: string;
  quantity: number;
}

type Wanted = Pick<PackNeed, "id" | "variant" | "lot"> & { quantity: number };

/**
 * From which place and lot each need of one component is taken: a need goes on with the lot that it was begun with;
 * else it gets the smallest lot that lasts for all of it, so that a colourway is of one dye lot; where none lasts, the
 * largest first. Those that need most choose first. Within a lot, places are emptied in the order of the walk.
 * @param stands of one component that is not kept by length
 */
export function assignLots(
  stands: readonly Stand[],
  wanted: readonly Wanted[],
  places: readonly string[],
): { picks: Picked[]; missing: { need: string; quantity: number }[] } {
  const order = new Map(places.map((id, i) => [id, i]));
  const lots = new Map<string, Stand[]>();
  for (const s of stands) if (s.quantity > 0) lots.set(s.lot, [...(lots.get(s.lot) ?? []), { ...s }]);
  for (const list of lots.values()) list.sort((a, b) => (order.get(a.place) ?? 0) - (order.get(b.place) ?? 0));
  const sizeOf = (lot: string) => (lots.get(lot) ?? []).reduce((sum, s) => exact(sum + s.quantity), 0);
  const picks: Picked[] = [];
  const missing: { need: string; quantity: number }[] = [];
  const turns = [...wanted].sort(
    (a, b) => Number(b.lot !== null) - Number(a.lot !== null) || b.quantity - a.quantity || (a.id < b.id ? -1 : 1),
  );
  for (const { id, variant, lot, quantity } of turns) {
    let open = quantity;
    const take = (from: string) => {
      for (const stand of lots.get(from) ?? []) {
        const n = Math.min(open, stand.quantity);
        if (!(n > 0)) continue;
        stand.quantity = exact(stand.quantity - n);
        open = exact(open - n);
        picks.push({ need: id, variant, place: stand.place, lot: from, quantity: n });
      }
    };
    if (lot !== null) take(lot);
    while (open > 0) {
      const left = [...lots.keys()].filter((l) => sizeOf(l) > 0);
      if (left.length === 0) break;
      const lasting = left.filter((l) => sizeOf(l) >= open).sort((a, b) => sizeOf(a) - sizeOf(b) || (a < b ? -1 : 1));
      take(lasting[0] ?? left.sort((a, b) => sizeOf(b) - sizeOf(a) || (a < b ? -1 : 1))[0]!);
    }
    if (open > 0) missing.push({ need: id, quantity: open });
  }
  return { picks, missing };
}

/** One jar on the way along the shelf: how much to bring for what is still to be packed. */
export interface PickRow {
  component: string;
  place: string;
  lot: string;
  quantity: number;
  /** For which variants. */
  variants: { variant: string; quantity: number }[];
}

/** Stringing on the way along the shelf: which pieces to bring. */
export interface PieceRow {
  component: string;
  place: string;
  lot: string;
  /** Pieces of each length. */
  pieces: Stretch[];
}

export interface CutRow {
  component: string;
  steps: CutStep[];
  /** Cuts that no piece is long enough for. */
  missing: Stretch[];
}

const linear = (need: Pick<PackNeed, "cutMm">) => need.cutMm !== null;

/** What is still to be cut for a box: from which spool or offcut, the longest first, and what is left each time. */
export function cutList({ needs, stands }: Pick<Packing, "needs" | "stands">): CutRow[] {
  const open = groupBy(needs.filter(linear), (n) => n.component);
  return [...open].flatMap(([component, list]): CutRow[] => {
    const cuts = list.reduce<Stretch[]>((all, n) => addCuts(all, [{ mm: n.cutMm!, count: stillOpen(n) }]), []);
    if (cuts.length === 0) return [];
    return [{ component, ...planCuts(piecesOf(stands, component), cuts) }];
  });
}

/** The pieces that stand somewhere of a component, as cutting asks for them. */
export const piecesOf = (stands: readonly Stand[], component: string) =>
  stands.flatMap(({ component: c, place, lot, stretchMm, quantity }) =>
    c === component && stretchMm > 0 ? [{ place, lot, mm: stretchMm, count: quantity }] : [],
  );

/**
 * What to bring to the bench for all that is still to be packed, jar by jar in the order of the walk; and what is not
 * there.
 */
export function pickList(packing: Pick<Packing, "needs" | "stands" | "places">): {
  rows: (PickRow | PieceRow)[];
  missing: { component: string; quantity: number }[];
} {
  const places = packing.places.map((p) => p.id);
  const order = new Map(places.map((id, i) => [id, i]));
  const rows: (PickRow | PieceRow)[] = [];
  const missing: { component: string; quantity: number }[] = [];
  const wanted = groupBy(
    packing.needs.filter((n) => !linear(n) && stillOpen(n) > 0),
    (n) => n.component,
  );
  const stands = groupBy(packing.stands, (s) => s.component);
  for (const [component, needs] of wanted) {
    const found = assignLots(
      stands.get(component) ?? [],
      needs.map((n) => ({ ...n, quantity: stillOpen(n) })),
      places,
    );
    for (const picks of groupBy(found.picks, (p) => `${p.place} ${p.lot}`).values()) {
      const { place, lot } = picks[0]!;
      const quantity = picks.reduce((sum, p) => exact(sum + p.quantity), 0);
      rows.push({
        component,
        place,
        lot,
        quantity,
        variants: picks.map(({ variant, quantity: n }) => ({ variant, quantity: n })),
      });
    }
    const lacking = found.missing.reduce((sum, m) => exact(sum + m.quantity), 0);
    if (lacking > 0) missing.push({ component, quantity: lacking });
  }
  for (const { component, steps, missing: cuts } of cutList(packing)) {
    for (const at of groupBy(steps, (s) => `${s.place} ${s.lot}`).values()) {
      const { place, lot } = at[0]!;
      const pieces = at.reduce<Stretch[]>((all, s) => addCuts(all, [{ mm: s.fromMm, count: s.pieces }]), []);
      rows.push({ component, place, lot, pieces });
    }
    const lacking = cuts.reduce((sum, c) => sum + c.mm * c.count, 0);
    if (lacking > 0) missing.push({ component, quantity: exact(lacking) });
  }
  const at = (row: PickRow | PieceRow) => order.get(row.place) ?? places.length;
  return { rows: rows.sort((a, b) => at(a) - at(b)), missing };
}
