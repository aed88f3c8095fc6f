import { inOrder, pieceShelf, sumShelf } from "@jar-count/core/ahead";
import { amountOfPacks, buyList, lacksOf, type Letter, orderCsv, packAmount, piecesOfPacks } from "@jar-count/core/buy";
import {
  type BuyList,
  type Component,
  type Lack,
  type OpenBox,
  type Order,
  type OrderInput,
  OrderLine,
  type PacksAnswer,
  type PacksRequest,
  type Paper,
  type Shares,
  type WriteOrders,
} from "@jar-count/core/contract";
import { priceOfPacks } from "@jar-count/core/cost";
import { stillOpen } from "@jar-count/core/pack";
import { dayAfter } from "@jar-count/core/day";
import { exact } from "@jar-count/core/units";
import { randomUUID } from "node:crypto";
import type { z } from "zod";
import { notFound, Refusal, wrongAt } from "../refusal/index.ts";
import { findComponents, findOffered } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { lockTotals } from "../store/ledger.ts";
import { findOrder, lockOrder, lockOrdersFor, putOrder } from "../store/orders.ts";
import { giveUpForLine, listNeeds } from "../store/packing.ts";
import { writeOnce } from "../store/requests.ts";
import { listRooms } from "../store/rooms.ts";
import { addNeeds, coverNeeds, linearOnes } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";
import { inThread } from "../threads/pool.ts";
import { atOnce, mustFindRun, readShares } from "./ahead.ts";
import { readOrder } from "./orders.ts";

/** So many seconds a choice of packs may take. */
const SECONDS = 10;

/**
 * The packs that cover a need for the least money.
 * @throws Refusal where there is no offer, or the best can't be found in time
 */
export async function packsFor(asked: z.output<typeof PacksRequest>): Promise<z.output<typeof PacksAnswer>> {
  const { need, currency, offers } = asked;
  const found = await inThread((work) => work.choosePacks(need, currency, offers), { seconds: SECONDS });
  if (!found) {
    throw wrongAt(
      "/offers",
      offers.length === 0
        ? "Nobody offers it: name at least one offer."
        : "That comes to more than can be reckoned exactly. Check the need and the prices.",
    );
  }
  const { proved, ...choice } = found;
  if (!proved)
    throw new Refusal("too-heavy", "So many packs of so many offers can't be compared in time. Ask for less.");
  return choice;
}

/** Which of the open boxes are meant: those named, those packed until a day, or all. */
function boxesMeant(open: readonly OpenBox[], named: readonly string[] | undefined, until: string | undefined) {
  return new Set(
    open.filter((b) => (named ? named.includes(b.id) : until === undefined || b.packBy <= until)).map((b) => b.id),
  );
}

/** What boxes lack, and all that choosing packs for it goes by. */
interface Lacking {
  shares: Shares;
  lacks: Lack[];
  buying: Parameters<typeof buyList>;
}

/** What boxes lack, of all components or some. In a transaction. */
async function readLacking(
  session: Session,
  among: readonly string[] | null,
  named: readonly string[] | undefined,
  until: string | undefined,
): Promise<Lacking> {
  const shares = await readShares(session, among);
  const linear = await linearOnes(session);
  const boxes = boxesMeant(shares.boxes, named, until);
  const lacks = lacksOf(shares, (id) => linear.has(id), boxes);
  const found = await findOffered(
    session,
    lacks.map((l) => l.component),
  );
  const components = new Map(found.map((c) => [c.id, c]));
  const { currency } = await findWorkshop(session);
  const suppliers = new Map((await listRooms(session)).suppliers.map((s) => [s.id, s]));
  const terms = { today: shares.today, currency, suppliers };
  return { shares, lacks, buying: [shares.boxes, boxes, lacks, components, terms] };
}

/** What to buy for some open boxes: read at once, then chosen in a thread. */
export async function readBuyList(
  db: Database,
  boxes: string[] | undefined,
  until: string | undefined,
  signal?: AbortSignal,
): Promise<BuyList> {
  const { buying } = await atOnce(db, (session) => readLacking(session, null, boxes, until));
  return inThread((work) => work.buyList(...buying), { signal });
}

type Written = z.output<typeof WriteOrders>;

/**
 * Writes orders for what boxes lack and binds their lines to those boxes: what comes is spoken for by them.
 * @throws Refusal `stale` with the list as it is now, where a box lacks less than was seen: somebody ordered it already
 */
export async function writeOrders(db: Database, asked: Written): Promise<{ orders: Order[] }> {
  const named = [...new Set(asked.lacks.flatMap((l) => l.boxes.map((b) => b.box)))];
  try {
    return await write(db, asked, named);
  } catch (error) {
    if (!(error instanceof Refusal) || error.code !== "stale") throw error;
    // The list as it is now takes a while: it is made when nothing is held any more.
    throw new Refusal("stale", error.message, { current: await readBuyList(db, named, undefined) });
  }
}

function write(db: Database, asked: Written, named: string[]): Promise<{ orders: Order[] }> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      asked,
      async () => {
        const components = [...new Set(asked.orders.flatMap((o) => o.lines.map((l) => l.component)))];
        for (const { id } of asked.orders) await takeRecord(session, "order", id);
        await lockOrdersFor(session, components);
        await lockTotals(session, components);
        const { shares, lacks, buying } = await readLacking(session, components, named, undefined);
        const lackOf = new Map(lacks.map((l) => [l.component, new Map(l.boxes.map((b) => [b.box, b]))]));
        const less = asked.lacks.some(({ component, boxes }) =>
          boxes.some((b) => (lackOf.get(component)?.get(b.box)?.quantity ?? 0) < b.quantity),
        );
        if (less) {
          throw new Refusal("stale", "Less is lacking now than was shown: somebody ordered some. Look again.");
        }
        const known = new Map((await findComponents(session, components)).map((c) => [c.id, c]));
        const lines = await putOrders(session, asked, known, buying[4].currency);
        for (const { component, boxes } of asked.lacks) {
          const lacking = inOrder(shares.boxes).flatMap((box) => {
            const lack = boxes.some((b) => b.box === box.id) ? lackOf.get(component)?.get(box.id) : undefined;
            return lack ? [{ box, lack }] : [];
          });
          const of = known.get(component);
          if (of) await bind(session, asked.person ?? null, of, lines.get(component) ?? [], lacking);
        }
      },
      async () => {
        const orders: Order[] = [];
        for (const { id } of asked.orders) orders.push(await readOrder(session, id));
        return { orders };
      },
    ),
  );
}

/** A line just written, and what of it nobody speaks for yet. */
interface OpenLine {
  id: string;
  due: string | null;
  shelf: ReturnType<typeof sumShelf>;
}

/**
 * Writes the orders, their lines priced by the offers.
 * @returns the lines by component, the earliest due first
 * @throws Refusal `stale` with the list as it is now, where packs bring or cost something else than was seen
 */
async function putOrders(
  session: Session,
  asked: Written,
  known: ReadonlyMap<string, Component>,
  currency: string,
): Promise<Map<string, OpenLine[]>> {
  const { suppliers } = await listRooms(session);
  const written = new Map<string, OpenLine[]>();
  for (const [i, order] of asked.orders.entries()) {
    const supplier = suppliers.find((s) => s.id === order.supplier);
    if (!supplier) throw wrongAt(`/orders/${i}/supplier`, "This supplier is not in the workshop.");
    if (((await lockOrder(session, order.id)) ?? 0) > 0)
      throw wrongAt(`/orders/${i}/id`, "This order is there already.");
    const lines = order.lines.map((line, j): OrderInput["lines"][number] => {
      const at = `/orders/${i}/lines/${j}`;
      const component = known.get(line.component);
      if (!component) throw wrongAt(`${at}/component`, "There is no such component.");
      const offer = component.offers.find((o) => o.id === line.offer);
      if (offer?.supplier !== supplier.id) {
        throw wrongAt(`${at}/offer`, `${supplier.name} does not offer ${component.name} so any more. Look again.`);
      }
      if (line.packs < offer.minimum) throw wrongAt(`${at}/packs`, `At least ${offer.minimum} of ${offer.pack}.`);
      const amount = packAmount(component, offer);
      if (amount === null) throw wrongAt(`${at}/offer`, `Nobody knows how much of ${component.name} a pack holds.`);
      const lead = offer.leadDays ?? supplier.leadDays ?? null;
      const due = lead === null ? null : dayAfter(asked.placedOn, lead);
      const quantity = amountOfPacks(component, offer, line.packs);
      const price = priceOfPacks(offer, line.packs, currency);
      if (quantity !== line.amount || Number(price) !== Number(line.price)) {
        throw new Refusal(
          "stale",
          `${component.name}: ${line.packs} × ${offer.pack} bring ${quantity.toLocaleString("en")} for ${price} now, ` +
            `and were shown to bring ${line.amount.toLocaleString("en")} for ${line.price}. Nothing was ordered; ` +
            "look again.",
        );
      }
      if (!OrderLine.shape.quantity.safeParse(quantity).success) {
        throw wrongAt(`${at}/packs`, "That is more than one line of an order can hold. Order less at a time.");
      }
      const linear = component.baseUnit === "mm";
      const shelf = linear ? pieceShelf(piecesOfPacks(component, offer, line.packs)) : sumShelf(quantity);
      const others = written.get(component.id) ?? [];
      const sorted = [...others, { id: line.id, due, shelf }].sort((a, b) =>
        (a.due ?? "9999") < (b.due ?? "9999") ? -1 : 1,
      );
      written.set(component.id, sorted);
      return {
        id: line.id,
        component: component.id,
        pack: offer.pack,
        packs: line.packs,
        quantity,
        price,
        due,
        pieceMm: linear ? amount : null,
      };
    });
    const { number, note } = order;
    const { placedOn } = asked;
    await putOrder(session, order.id, { supplier: supplier.id, number, placedOn, currency, rate: "1", note, lines });
  }
  return written;
}

/** Has boxes speak for what new lines bring of a component, who is packed first before the others. */
async function bind(
  session: Session,
  person: string | null,
  component: Component,
  lines: readonly OpenLine[],
  lacking: readonly { box: OpenBox; lack: Lack["boxes"][number] }[],
) {
  for (const { box, lack } of lacking) {
    const run = await mustFindRun(session, box.id);
    const wanted: { cutMm: number | null; quantity: number }[] =
      component.baseUnit === "mm"
        ? lack.cuts.map((c) => ({ cutMm: c.mm, quantity: c.count }))
        : [{ cutMm: null, quantity: lack.quantity }];
    for (const { cutMm, quantity } of wanted) {
      let open = quantity;
      for (const line of lines) {
        if (open <= 0) break;
        const cuts = cutMm === null ? [] : [{ mm: cutMm, count: open }];
        const taken = line.shelf.take({ quantity: cutMm === null ? open : 0, cuts }).got;
        const got = cutMm === null ? taken : Math.round(taken / cutMm);
        if (!(got > 0)) continue;
        const needs =
          run.state === "planned"
            ? [await plannedNeed(session, run.id, component.id, cutMm, got)]
            : await openNeeds(session, run.id, run.packBy, component.id, cutMm, got);
        await coverNeeds(
          session,
          `${box.theme}, ${box.month}`.slice(0, 200),
          person,
          needs.map((n) => ({ ...n, component: component.id, cutMm, orderLine: line.id })),
        );
        open = exact(open - got);
      }
    }
  }
}

/** A planned box has no needs yet: it gets one for what is ordered for it, until it is committed. */
async function plannedNeed(session: Session, run: string, component: string, cutMm: number | null, quantity: number) {
  const need = randomUUID();
  await addNeeds(session, run, [{ id: need, variant: null, component, cutMm, quantity, spare: 0 }]);
  return { need, quantity };
}

/**
 * Which needs of a committed box a line is for: first what stands open of them; then what an order that comes too late
 * was to cover; then what stock was to cover that is not there any more.
 */
async function openNeeds(
  session: Session,
  run: string,
  packBy: string,
  component: string,
  cutMm: number | null,
  quantity: number,
): Promise<{ need: string; quantity: number }[]> {
  const needs = (await listNeeds(session, run, [component])).filter((n) => n.cutMm === cutMm);
  const found: { need: string; quantity: number }[] = [];
  let open = quantity;
  for (const n of needs) {
    const held = n.ordered.reduce((sum, o) => sum + o.quantity, n.held);
    const rest = Math.min(open, exact(stillOpen(n) - held));
    if (!(rest > 0)) continue;
    found.push({ need: n.id, quantity: rest });
    open = exact(open - rest);
  }
  for (const which of ["late", "stock"] as const) {
    for (const n of needs) {
      if (!(open > 0)) break;
      const got = exact(await giveUpForLine(session, n.id, open, which, packBy));
      if (got > 0) found.push({ need: n.id, quantity: got });
      open = exact(open - got);
    }
  }
  return found;
}

/** An order with the names that its letter is made of. */
async function letterOf(db: Session, id: string): Promise<Letter> {
  const order = await findOrder(db, id);
  if (!order) throw notFound("This order");
  const [{ suppliers }, { name: workshop }] = [await listRooms(db), await findWorkshop(db)];
  const found = await findComponents(
    db,
    order.lines.map((l) => l.component),
  );
  const names = new Map(found.map((c) => [c.id, c]));
  const supplier = suppliers.find((s) => s.id === order.supplier)?.name ?? "";
  return { order, workshop, supplier, nameOf: (component) => names.get(component)! };
}

export async function orderFile(db: Database, id: string): Promise<{ name: string; csv: string }> {
  const letter = await letterOf(db, id);
  return { name: `order ${letter.order.number}.csv`, csv: orderCsv(letter) };
}

export async function orderPdf(
  db: Database,
  id: string,
  paper: Paper,
  signal: AbortSignal,
): Promise<{ name: string; pdf: Uint8Array }> {
  const { nameOf, ...letter } = await letterOf(db, id);
  const names = Object.fromEntries(
    letter.order.lines.map(({ component }) => {
      const { code, name, baseUnit } = nameOf(component);
      return [component, { code, name, baseUnit }];
    }),
  );
  const pdf = await inThread((work) => work.orderSheet({ ...letter, names }, paper), { signal });
  return { name: `order ${letter.order.number}.pdf`, pdf };
}
