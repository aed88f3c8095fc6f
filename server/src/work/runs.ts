import { sharingFor } from "@jar-count/core/ahead";
import { notBefore } from "@jar-count/core/day";
import type { BoxBill, CommitBox, CommitPlan, Run, TakeBack } from "@jar-count/core/contract";
import { amountOf, cover, type Line, type NeedOf, needsOfBill, totalsOfBill } from "@jar-count/core/run";
import { digestOf, exact, MOST_IN_ALL } from "@jar-count/core/units";
import { randomUUID } from "node:crypto";
import { isDeepStrictEqual } from "node:util";
import type { z } from "zod";
import { notFound, Refusal, stale } from "../refusal/index.ts";
import { lockBox } from "../store/boxes.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { takeRecord } from "../store/ids.ts";
import { lockTotals } from "../store/ledger.ts";
import { lockOrdersFor } from "../store/orders.ts";
import { writeOnce } from "../store/requests.ts";
import {
  addBill,
  addNeeds,
  componentsOfRun,
  coverNeeds,
  deleteNeeds,
  findBill,
  linesOfRun,
  listClaims,
  listPools,
  listSupplies,
  lockRun,
  needsOfRun,
  type RunHead,
  setState,
} from "../store/runs.ts";
import { today } from "../store/workshop.ts";
import { counted } from "../threads/counted.ts";
import { mustFindRun, readShares } from "./ahead.ts";
import { readBox } from "./boxes.ts";
import { findTerms } from "./money.ts";

/** How far a box is, and what nothing covers now. In a transaction. */
export async function readRun(db: Session, box: string): Promise<Run> {
  const run = await mustFindRun(db, box);
  const bill = run.state === "planned" || run.state === "sent" ? undefined : await findBill(db, run.id);
  if (!bill) return { ...run, lacking: [] };
  const shares = await readShares(
    db,
    bill.components.map((c) => c.id),
  );
  const sharing = sharingFor(shares, { id: box, packBy: run.packBy, month: bill.month });
  const late = new Map(
    (await linesOfRun(db, run.id))
      .filter((l) => l.due === null || notBefore(l.due, shares.today) > notBefore(run.packBy, shares.today))
      .map((l) => [l.component, { order: l.order, due: l.due }]),
  );
  const lacking = totalsOfBill(bill).flatMap((total) => {
    const { short } = sharing(total)!;
    const { id } = total.component;
    return short > 0 ? [{ component: id, quantity: short, late: late.get(id) ?? null }] : [];
  });
  return { ...run, lacking };
}

type Need = NeedOf & { id: string };

/** All that committing a box writes, and what is told of it before. */
interface Commitment {
  run: RunHead;
  bill: BoxBill;
  needs: Need[];
  covered: ReturnType<typeof cover<Need>>["covered"];
  plan: CommitPlan;
}

/**
 * Works out how a box's needs are covered, as if it spoke for nothing yet.
 * @param lock keeps orders and components as they are for the rest of the transaction, in the order in which every
 *   write locks them
 */
async function workOut(db: Session, id: string, lock: boolean): Promise<Commitment> {
  const run = await mustFindRun(db, id);
  const detail = await readBox(db, id);
  const terms = await findTerms(db);
  const { bill, problems } = counted("billToFreeze", detail, terms);
  const frozen = run.bill ? await findBill(db, run.id) : undefined;
  // A need that was there before stays the same one: what was put in its place by then stays with it.
  const before = await needsOfRun(db, run.id);
  const keyOf = (n: { variant: string | null; component: string; cutMm: number | null }) =>
    `${n.variant} ${n.component} ${n.cutMm}`;
  const known = new Map(before.map((n) => [keyOf(n), n]));
  const needs = needsOfBill(bill).map((need) => ({ ...need, id: known.get(keyOf(need))?.id ?? randomUUID() }));
  const doneOf = new Map(before.map((n) => [n.id, exact(n.used + n.swapped)]));
  const open = needs.map((need) => ({
    ...need,
    quantity: exact(Math.max(0, need.quantity - (doneOf.get(need.id) ?? 0))),
  }));
  const quantityOf = new Map(needs.map((n) => [n.id, n.quantity]));
  const forgotten = before.filter((n) => (doneOf.get(n.id) ?? 0) > (quantityOf.get(n.id) ?? 0));
  const components = [...new Set([...needs.map((n) => n.component), ...(await componentsOfRun(db, run.id))])];
  if (lock) {
    await lockOrdersFor(db, components);
    await lockTotals(db, components);
  }
  const all = await listClaims(db, components);
  const claims = all.filter((c) => c.box !== id);
  const mine = new Set(all.flatMap((c) => (c.box === id && c.from !== null ? [c.from] : [])));
  const spoken = new Map<string, { quantity: number; cuts: (typeof claims)[number]["cuts"] }>();
  for (const { from, component, quantity, cuts } of claims) {
    if (from === null || from === "used") continue;
    const key = from === "stock" ? component : from;
    const known = spoken.get(key) ?? { quantity: 0, cuts: [] };
    spoken.set(key, { quantity: known.quantity + quantity, cuts: [...known.cuts, ...cuts] });
  }
  const day = await today(db);
  const deadline = notBefore(bill.packBy, day);
  const isLate = (due: string | null) => due === null || due > deadline;
  const lines = (await listSupplies(db, components)).flatMap((s): Line[] => {
    const due = s.due === null ? null : notBefore(s.due, day);
    // What it spoke for before it became late is still better than nothing.
    if (isLate(due) && !mine.has(s.line)) return [];
    return [{ ...s, due, spoken: spoken.get(s.line) ?? { quantity: 0, cuts: [] } }];
  });
  const { covered, lacking } = cover(
    open.filter((n) => n.quantity > 0),
    await listPools(db, components),
    spoken,
    lines,
  );
  return { run, bill, needs, covered, plan: planOf() };

  function planOf(): CommitPlan {
    const plan = { ...planned(), seen: "" };
    return { ...plan, seen: digestOf(JSON.stringify(plan)) };
  }

  function planned(): Omit<CommitPlan, "seen"> {
    const nameOf = (component: string) =>
      [...bill.components, ...(frozen?.components ?? [])].find((c) => c.id === component)?.name;
    const lineOf = new Map(lines.map((l) => [l.line, l]));
    const fromLines = sumBy(
      covered.filter((c) => c.orderLine !== null),
      (c) => c.orderLine!,
    );
    const short = sumBy(lacking, (c) => c.need.component);
    const ordered = new Set([...fromLines.keys()].map((line) => lineOf.get(line)!.component));
    const whole = new Set(needs.map((n) => n.component).filter((c) => !short.has(c)));
    return {
      version: detail.box.version,
      state: run.state,
      covered: {
        stock: [...whole].filter((c) => !ordered.has(c)).length,
        orders: [...whole].filter((c) => ordered.has(c)).length,
      },
      fromOrders: [...fromLines].map(([line, quantity]) => {
        const { component, order, due } = lineOf.get(line)!;
        return { component, order, line, due, late: isLate(due), quantity };
      }),
      lacking: [...short].map(([component, quantity]) => ({ component, quantity })),
      changes: frozen ? changesOf(frozen, bill) : [],
      open: [
        ...problems,
        ...forgotten.map(
          (n) =>
            `Something was put in in the place of ${nameOf(n.component) ?? "it"} while packing. Take that back first.`,
        ),
        ...(needs.some((n) => n.quantity * (n.cutMm ?? 1) > MOST_IN_ALL)
          ? ["It takes more of something than can be counted exactly. Make fewer boxes."]
          : []),
        ...(bill.variants.every((v) => v.boxes === 0) ? ["It has no boxes yet: say how many of each colourway."] : []),
        ...[...new Set(bill.variants.flatMap((v) => (v.boxes > 0 ? v.gaps.map((g) => g.name) : [])))].map(
          (name) => `${name} is not chosen in every colourway.`,
        ),
      ],
    };
  }
}

function sumBy<C extends Parameters<typeof amountOf>[0]>(list: readonly C[], keyOf: (c: C) => string) {
  const sums = new Map<string, number>();
  for (const c of list) sums.set(keyOf(c), exact((sums.get(keyOf(c)) ?? 0) + amountOf(c)));
  return sums;
}

function changesOf(before: BoxBill, after: BoxBill): CommitPlan["changes"] {
  const runs = (bill: BoxBill) => new Map(totalsOfBill(bill).map((t) => [t.component.id, t.run]));
  const [was, is] = [runs(before), runs(after)];
  return [...new Set([...was.keys(), ...is.keys()])].flatMap((component) => {
    const change = { component, before: was.get(component) ?? 0, after: is.get(component) ?? 0 };
    return change.before === change.after ? [] : [change];
  });
}

/** What committing a box, or taking its changes over, would do. */
export const planCommit = (db: Database, id: string): Promise<CommitPlan> =>
  inTransaction(db, async (session) => (await workOut(session, id, false)).plan, "repeatable read, read only");

/**
 * Commits a box: freezes its bill and speaks for what it needs, in stock or on orders that come in time. On a committed
 * box, swaps what it spoke for with what it needs now.
 * @throws Refusal `stale` with what it would do now, where the box changed, or more is lacking than one knew of
 */
export function commitBox(db: Database, id: string, asked: z.output<typeof CommitBox>): Promise<Run> {
  return inTransaction(db, (session) => {
    let made: Run | null = null;
    return writeOnce(
      session,
      asked.requestKey,
      { id, asked },
      async () => {
        await takeRecord(session, "box", id);
        const version = await lockBox(session, id);
        if (version === undefined) throw notFound("This box");
        await lockRun(session, id);
        const { run, bill, needs, covered, plan } = await workOut(session, id, true);
        if (version !== asked.version) throw stale("This box", plan);
        if (run.state === "packing" || run.state === "sent") {
          throw new Refusal("is-committed", `This box is ${run.state} already: its bill stays as it is.`);
        }
        if (plan.open.length > 0) {
          throw new Refusal("invalid", "Something is still open in this box. Nothing was committed.", {
            errors: plan.open.map((detail) => ({ pointer: "/version", detail })),
          });
        }
        if (asked.seen != null && asked.seen !== plan.seen) {
          throw new Refusal("stale", "Committing would do something else now than was shown. Look again.", {
            current: plan,
          });
        }
        const known = new Map(asked.lacking.map((l) => [l.component, l.quantity]));
        if (plan.lacking.some((l) => l.quantity > (known.get(l.component) ?? 0))) {
          throw new Refusal("stale", "Less of it can be covered now than was shown: others took some. Look again.", {
            current: plan,
          });
        }
        await deleteNeeds(session, run.id);
        await addNeeds(session, run.id, needs);
        await coverNeeds(
          session,
          `${bill.theme}, ${bill.month}`.slice(0, 200),
          asked.person ?? null,
          covered.map((c) => ({
            need: c.need.id,
            component: c.need.component,
            cutMm: c.need.cutMm,
            quantity: c.quantity,
            orderLine: c.orderLine,
          })),
        );
        // The same bill again only covers what was still open.
        const before = run.bill ? await findBill(session, run.id) : undefined;
        // What it costs to make is frozen with a bill; by itself it makes no other one of it.
        const parts = ({ costs: _costs, ...rest }: BoxBill) => rest;
        if (!before || !isDeepStrictEqual(parts(before), JSON.parse(JSON.stringify(parts(bill))))) {
          await addBill(session, run.id, bill, { person: asked.person });
        }
        await setState(session, run.id, "committed");
        made = await runAsCommitted(session, id, plan);
      },
      async () => made ?? readRun(session, id),
    );
  });
}

/** A run just committed: what it lacks is known from how it was covered. */
async function runAsCommitted(db: Session, id: string, { lacking, fromOrders }: CommitPlan): Promise<Run> {
  const late = fromOrders.filter((o) => o.late);
  const sums = new Map(lacking.map((l) => [l.component, l.quantity]));
  for (const { component, quantity } of late) sums.set(component, (sums.get(component) ?? 0) + quantity);
  return {
    ...(await mustFindRun(db, id)),
    lacking: [...sums].map(([component, quantity]) => {
      const by = late.find((l) => l.component === component);
      return { component, quantity: exact(quantity), late: by ? { order: by.order, due: by.due } : null };
    }),
  };
}

/** Takes a committed box back: all that it spoke for is free again. Its bills stay, by their numbers. */
export function takeBack(db: Database, id: string, asked: z.output<typeof TakeBack>): Promise<Run> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      { id, asked },
      async () => {
        await takeRecord(session, "box", id);
        if ((await lockBox(session, id)) === undefined) throw notFound("This box");
        await lockRun(session, id);
        const run = await mustFindRun(session, id);
        if (run.state === "packing" || run.packed > 0) {
          throw new Refusal(
            "is-packed",
            "Boxes of it are packed already. Stop with those, and the rest is given back.",
          );
        }
        if (run.state === "sent" || (run.state === "planned" && run.ahead === 0)) {
          throw new Refusal(
            "not-committed",
            run.state === "planned" ? "This box is not committed." : "This box is sent already.",
          );
        }
        if ((await needsOfRun(session, run.id)).some((n) => n.swapped > 0 || n.used > 0)) {
          throw new Refusal(
            "is-packed",
            "Something was put in in the place of what this box takes. Take that back where it is packed; then the " +
              "box can be taken back.",
          );
        }
        const components = await componentsOfRun(session, run.id);
        await lockOrdersFor(session, components);
        await lockTotals(session, components);
        await deleteNeeds(session, run.id);
        await setState(session, run.id, "planned");
      },
      () => readRun(session, id),
    ),
  );
}
