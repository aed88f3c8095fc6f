import { aheadOf, sharingFor, without } from "@jar-count/core/ahead";
import type { Ahead, BillAnswer, BoxBill, Claim, Shares } from "@jar-count/core/contract";
import { totalsOfBill } from "@jar-count/core/run";
import { exact } from "@jar-count/core/units";
import { notFound } from "../refusal/index.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import {
  findBill,
  findRun,
  linearOnes,
  listClaims,
  listOpenBoxes,
  listPools,
  listSupplies,
  type RunHead,
} from "../store/runs.ts";
import { today } from "../store/workshop.ts";
import { counted } from "../threads/counted.ts";
import { readBox } from "./boxes.ts";
import { plannedClaims } from "./plans.ts";

/** One view of everything that it reads, whatever is written meanwhile. */
export const atOnce = <T>(db: Database, read: (session: Session) => Promise<T>) =>
  inTransaction(db, read, "repeatable read, read only");

/** What boxes share, of every component or of some; without what `except`, a box that is planned, takes itself. */
export async function readShares(
  db: Session,
  components: readonly string[] | null,
  except: string | null = null,
): Promise<Shares> {
  const [boxes, committed, planned, supplies, pools] = [
    await listOpenBoxes(db),
    await listClaims(db, components),
    await plannedClaims(db, except),
    await listSupplies(db, components),
    await listPools(db, components),
  ];
  const among = components && new Set(components);
  const claims = [
    ...committed,
    ...beyond(
      planned.filter((c) => among?.has(c.component) ?? true),
      committed,
    ),
  ];
  return { today: await today(db), boxes, claims, supplies, pools };
}

/** What planned boxes take beyond what orders or the shelf hold for them already. */
function beyond(planned: readonly Claim[], held: readonly Claim[]): Claim[] {
  const heldBy = new Map<string, Claim[]>();
  for (const c of held) {
    const key = `${c.box} ${c.component}`;
    heldBy.set(key, [...(heldBy.get(key) ?? []), c]);
  }
  return planned.flatMap((c) => {
    const known = heldBy.get(`${c.box} ${c.component}`);
    if (!known) return [c];
    const quantity = exact(known.reduce((left, h) => left - h.quantity, c.quantity));
    const cuts = known.reduce((left, h) => without(left, h.cuts), c.cuts);
    return quantity > 0 ? [{ ...c, quantity, cuts }] : [];
  });
}

/** Every component's stock from day to day, from today and without end where nothing is said. */
export function ahead(db: Database, from: string | undefined, until: string | undefined): Promise<Ahead> {
  return atOnce(db, async (session) => {
    const shares = await readShares(session, null);
    const linear = await linearOnes(session);
    return aheadOf(shares, (id) => linear.has(id), from ?? shares.today, until ?? "9999-12-31");
  });
}

/** What there is of a box's components, what is to come, and which boxes want it. */
export const sharesOfBox = (db: Database, id: string): Promise<Shares> =>
  atOnce(db, (session) => sharesInside(session, id));

/** The same inside a transaction. */
export async function sharesInside(session: Session, id: string): Promise<Shares> {
  const { box } = await readBox(session, id);
  const run = await mustFindRun(session, id);
  const frozen = run.bill ? await findBill(session, run.id) : undefined;
  const components = [
    ...box.picks.map((p) => p.component),
    ...box.contents.map((c) => c.component),
    ...(frozen?.components.map((c) => c.id) ?? []),
  ];
  return readShares(session, [...new Set(components)], id);
}

export async function mustFindRun(db: Session, box: string): Promise<RunHead> {
  const run = await findRun(db, box);
  if (!run) throw notFound("This box");
  return run;
}

/** The bill that holds: the frozen one of a committed box, else the box as it is planned now. In a transaction. */
export async function billThatHolds(db: Session, id: string, run: RunHead): Promise<BoxBill> {
  const frozen = run.bill && (await findBill(db, run.id));
  if (frozen) return frozen;
  const detail = await readBox(db, id);
  return counted("boxBill", detail);
}

/** A box's bill with what is left of each component for it. */
export function readBill(db: Database, id: string): Promise<BillAnswer> {
  return atOnce(db, async (session) => {
    const run = await mustFindRun(session, id);
    const bill = await billThatHolds(session, id, run);
    const shares = await readShares(
      session,
      bill.components.map((c) => c.id),
    );
    const sharing = sharingFor(shares, { id, packBy: run.packBy, month: bill.month });
    const shared = new Map(totalsOfBill(bill).map((t) => [t.component.id, sharing(t)!]));
    return {
      variants: bill.variants.map(({ first, second, boxes, lines }) => ({
        first,
        second,
        boxes,
        lines: lines.map(({ component, perBox, spare, rule, run, pieces }) => {
          const { left, short, because } = shared.get(component)!;
          return { component, perBox, spare, rule, run, pieces, left, short, shortBecause: because };
        }),
      })),
    };
  });
}

export async function frozenBill(db: Session, id: string): Promise<BoxBill> {
  const run = await mustFindRun(db, id);
  const bill = run.bill && (await findBill(db, run.id));
  if (!bill) throw notFound("A frozen bill of this box");
  return bill;
}
