import { piecesOf as inPieces, pieceShelf, sumShelf } from "@jar-count/core/ahead";
import { convert } from "@jar-count/core/component";
import type { Component, Delivery, Order, SaveOrder } from "@jar-count/core/contract";
import { coinPlaces } from "@jar-count/core/cost";
import { type Move, shareCharge, unfitFor } from "@jar-count/core/stock";
import { exact, inEqualParts, timesInto } from "@jar-count/core/units";
import Big from "big.js";
import type { z } from "zod";
import { notFound, Refusal, stale, wrongAt } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { lockTotals } from "../store/ledger.ts";
import { takeRecord } from "../store/ids.ts";
import { findOrder, lockOrder, putOrder, spokenOnLines, touchOrders, wasDelivered } from "../store/orders.ts";
import { writeOnce } from "../store/requests.ts";
import { giveUp, letGoPlanned, moveToStock, reservationsOnLine } from "../store/runs.ts";
import { firstPlace } from "../store/rooms.ts";
import { findWorkshop } from "../store/workshop.ts";
import { postEntry } from "./book.ts";

export async function readOrder(db: Session, id: string): Promise<Order> {
  const found = await findOrder(db, id);
  if (!found) throw notFound("This order");
  return found;
}

type Save = z.output<typeof SaveOrder>;

/** Writes an order whole. What was received of a line ties it to its component. */
export function saveOrder(db: Database, id: string, { requestKey, version, order }: Save): Promise<Order> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { id, version, order },
      async () => {
        await takeRecord(session, "order", id);
        const known = (await lockOrder(session, id)) ?? 0;
        const before = known > 0 ? await findOrder(session, id) : undefined;
        if (known !== version) throw stale("This order", before);
        const touched = [...order.lines, ...(before?.lines ?? [])].map((l) => l.component);
        await lockTotals(session, touched);
        await mustFit(session, order);
        const spoken = before ? await spokenOnLines(session, id) : new Map<string, number>();
        // What planned boxes speak for gives way; what committed ones do, does not.
        for (const [line, amount] of spoken) {
          const was = before!.lines.find((l) => l.id === line)!;
          const now = order.lines.find((l) => l.id === line);
          const most = now?.component === was.component ? exact(now.quantity - (before!.received[line] ?? 0)) : 0;
          if (amount > most) {
            spoken.set(line, exact(amount - (await letGoPlanned(session, line, exact(amount - most)))));
          }
        }
        const refused = [...spoken]
          .filter(([, amount]) => amount > 0)
          .flatMap(([line, amount]): { pointer: string; detail: string }[] => {
            const was = before!.lines.find((l) => l.id === line)!;
            const at = order.lines.findIndex((l) => l.id === line);
            const now = order.lines[at];
            const least = exact(amount + (before!.received[line] ?? 0));
            if (now?.component === was.component && now.quantity >= least) return [];
            const detail = `Committed boxes speak for ${amount.toLocaleString("en")} of this line: leave at least `;
            return [
              {
                pointer: now ? `/order/lines/${at}/quantity` : "/order/lines",
                detail: `${detail}that, or take a box back.`,
              },
            ];
          });
        if (refused.length > 0) throw new Refusal("invalid", refused[0]!.detail, { errors: refused });
        for (const line of before?.lines ?? []) {
          const now = order.lines.find((l) => l.id === line.id);
          if (now?.component !== line.component && (await wasDelivered(session, line.id))) {
            throw wrongAt(
              "/order/lines",
              "A line of which something came can't be taken out or become another component.",
            );
          }
        }
        await putOrder(session, id, order);
      },
      () => readOrder(session, id),
    ),
  );
}

/** @throws Refusal where a line's amount can't be one of its component */
async function mustFit(session: Session, { lines }: Save["order"]) {
  const found = await findComponents(
    session,
    lines.map((l) => l.component),
  );
  const known = new Map(found.map((c) => [c.id, c]));
  const errors = lines.flatMap((line, i) => {
    const component = known.get(line.component);
    if (!component) return [{ pointer: `/order/lines/${i}/component`, detail: "There is no such component." }];
    const linear = component.baseUnit === "mm";
    if (!linear && line.pieceMm != null) {
      const detail = `${component.name} is not kept by length: leave the length of a piece out.`;
      return [{ pointer: `/order/lines/${i}/pieceMm`, detail }];
    }
    const unfit = linear ? null : unfitFor(component, 0, line.quantity);
    return unfit ? [{ pointer: `/order/lines/${i}/quantity`, detail: unfit }] : [];
  });
  if (errors.length > 0) throw new Refusal("invalid", errors[0]!.detail, { errors });
}

/** Receives some lines of an order, in full or in part, with freight and duty shared over them. */
export function receiveOrder(db: Database, id: string, delivery: z.output<typeof Delivery>): Promise<Order> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      delivery.requestKey,
      { id, delivery },
      async () => {
        const version = await lockOrder(session, id);
        if (version === undefined) throw notFound("This order");
        const order = await readOrder(session, id);
        if (delivery.version != null && delivery.version !== version) throw stale("This order", order);
        await receive(session, order, delivery);
      },
      () => readOrder(session, id),
    ),
  );
}

type OrderLine = Order["lines"][number];
type DeliveredLine = z.output<typeof Delivery>["lines"][number] & { of: OrderLine };

async function receive(session: Session, order: Order, delivery: z.output<typeof Delivery>) {
  const lines = delivery.lines.map((delivered, i): DeliveredLine => {
    const of = order.lines.find((l) => l.id === delivered.line);
    if (!of) throw wrongAt(`/lines/${i}/line`, "There is no such line in this order.");
    return { ...delivered, of };
  });
  const ids = lines.map((l) => l.of.component);
  await lockTotals(session, ids);
  const components = new Map((await findComponents(session, ids)).map((c) => [c.id, c]));
  const { currency } = await findWorkshop(session);
  const costs = landedCosts(order, delivery, lines, components, coinPlaces(currency));
  const place = delivery.place ?? (await firstPlace(session));
  const of: number[] = [];
  const moves = lines.flatMap((l, i): Move[] => {
    const pieces = piecesOf(l, components.get(l.of.component)!);
    // What the line cost is shared over its pieces by how much they are.
    const shares = shareCharge(
      costs[i]!,
      pieces.map((p) => p.pieces * (p.stretchMm || 1)),
      4,
    );
    return pieces.map(({ pieces: quantity, stretchMm }, k) => {
      of.push(i);
      const at = { component: l.of.component, place, lot: l.lot, stretchMm };
      return { ...at, quantity, cost: shares[k]!, orderLine: l.line };
    });
  });
  for (const line of new Set(lines.map((l) => l.of))) {
    const parts = lines.filter((l) => l.of === line);
    await giveToBoxes(session, order, parts, components.get(line.component)!);
  }
  const entry = {
    kind: "received",
    requestKey: delivery.requestKey,
    person: delivery.person,
    note: delivery.note || `Order ${order.number}`,
  } as const;
  await postEntry(session, entry, moves, (i) => `/lines/${of[i]}/quantity`);
  await touchOrders(
    session,
    lines.map((l) => l.line),
  );
}

/**
 * What came of a line, in one part or several, goes to the boxes that speak for it, who is packed first before the
 * others: from here on they speak for it in stock. Where too little is still to come for the rest, those packed last go
 * without, and their box shows short.
 */
async function giveToBoxes(session: Session, order: Order, parts: readonly DeliveredLine[], component: Component) {
  const { of } = parts[0]!;
  const waiting = await reservationsOnLine(session, of.id);
  if (waiting.length === 0) return;
  const came = parts.reduce((sum, part) => sum + part.quantity, 0);
  const pieces = parts.flatMap((part) => piecesOf(part, component));
  const shelf =
    component.baseUnit === "mm"
      ? pieceShelf(pieces.map((p) => ({ mm: p.stretchMm, count: p.pieces })))
      : sumShelf(came);
  let open = Math.max(0, exact(of.quantity - (order.received[of.id] ?? 0) - came));
  for (const r of waiting) {
    const each = r.cutMm ?? 1;
    const { got } = shelf.take({
      quantity: r.quantity,
      cuts: r.cutMm === null ? [] : [{ mm: each, count: r.quantity }],
    });
    const moved = r.cutMm === null ? got : Math.round(got / each);
    const rest = exact(r.quantity - moved);
    if (moved > 0) await moveToStock(session, r, moved);
    const left = r.cutMm === null ? Math.min(rest, open) : Math.min(rest, timesInto(open, each));
    if (left < rest) await giveUp(session, { ...r, quantity: rest }, exact(rest - left));
    open = exact(open - left * each);
  }
}

/** What each delivered line cost in the home currency, its share of freight and duty in it: decimal text, 4 places. */
function landedCosts(
  order: Order,
  delivery: z.output<typeof Delivery>,
  lines: readonly DeliveredLine[],
  components: ReadonlyMap<string, Component>,
  places: number,
): string[] {
  const inHome = (amount: Big) => amount.times(order.rate);
  const goods = lines.map((l) => inHome(new Big(l.of.price).times(l.quantity).div(l.of.quantity)));
  const massOf = (l: DeliveredLine) => {
    const c = components.get(l.of.component)!;
    return c.baseUnit === "mm" ? 0 : (convert(l.quantity, c.baseUnit, "g", c)?.n ?? 0);
  };
  const charge = inHome(new Big(delivery.freight).plus(delivery.duty)).toFixed(places);
  const shares = shareCharge(charge, delivery.shareBy === "mass" ? lines.map(massOf) : goods.map(Number), places);
  return goods.map((g, i) => g.plus(shares[i]!).toFixed(4));
}

/** Two lengths that a person would call the same, mm: tells how many packs came, and makes no length of its own. */
const SAME_MM = 0.001;

/**
 * In which pieces a delivered line comes. Spools come whole: as many pieces as packs came, each as long as the line
 * says; what is over is a piece of its own. Together they are always as much as came.
 */
function piecesOf({ quantity, of }: DeliveredLine, { baseUnit }: Component): { pieces: number; stretchMm: number }[] {
  if (baseUnit !== "mm") return [{ pieces: quantity, stretchMm: 0 }];
  if (of.pieceMm != null) {
    return inPieces({ quantity, pieceMm: of.pieceMm }).map(({ mm, count }) => ({ pieces: count, stretchMm: mm }));
  }
  const packs = Math.round((quantity * of.packs) / of.quantity);
  if (packs < 1 || Math.abs((packs * of.quantity) / of.packs - quantity) > SAME_MM) {
    return [{ pieces: 1, stretchMm: exact(quantity) }];
  }
  return inEqualParts(quantity, packs).map(({ each, count }) => ({ pieces: count, stretchMm: each }));
}
