import type {
  BoxBill,
  CutPiece,
  EndRun,
  PackedAnswer,
  Packing,
  PackNeed,
  Run,
  SetPacked,
  Stand,
  TakeBackTold,
  TellPacking,
} from "@jar-count/core/contract";
import { type CutStep, planCuts } from "@jar-count/core/cut";
import { assignLots, isWhole, piecesOf, stillOpen, takenNext } from "@jar-count/core/pack";
import type { Move } from "@jar-count/core/stock";
import { exact, timesInto } from "@jar-count/core/units";
import Big from "big.js";
import { randomUUID } from "node:crypto";
import type { z } from "zod";
import { notFound, Refusal, wrongAt } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { linesOfEntry, lockTotals } from "../store/ledger.ts";
import { lockOrdersFor } from "../store/orders.ts";
import {
  closeBy,
  closedBy,
  countPacked,
  entryOf,
  findTold,
  lastTaken,
  listFree,
  listNeeds,
  listPacked,
  listPlaces,
  listStands,
  listTold,
  markPacked,
  releaseRun,
  stopAt,
  trimReserved,
  useReserved,
} from "../store/packing.ts";
import { writeOnce } from "../store/requests.ts";
import { componentsOfRun, coverNeeds, findBill, lockRun, type RunHead, setState } from "../store/runs.ts";
import { mustFindRun } from "./ahead.ts";
import { postEntry, reverseEntry } from "./book.ts";
import { readRun } from "./runs.ts";

/** All that packing a committed box needs, and what a sent one was packed with. */
export function readPacking(db: Database, box: string): Promise<Packing> {
  return inTransaction(
    db,
    async (session) => {
      const run = await mustFindRun(session, box);
      const of = run.bill && (await findBill(session, run.id));
      if (!of) throw new Refusal("not-committed", "This box is not committed yet: its bill must be frozen first.");
      const { id, state, packBy, bill, stoppedAt } = run;
      const told = await listTold(session, id);
      const components = [...new Set([...of.components.map((c) => c.id), ...told.map((t) => t.component)])];
      return {
        box,
        state,
        packBy,
        bill,
        stoppedAt,
        closed: await closedBy(session, id),
        of,
        places: await listPlaces(session),
        stands: await listStands(session, components),
        free: Object.fromEntries(await listFree(session, components)),
        needs: await listNeeds(session, id),
        packed: await listPacked(session, id),
        told,
      };
    },
    "repeatable read, read only",
  );
}

/** A run that is being packed, locked: everything that packing writes waits for each other here. */
async function lockPacking(session: Session, box: string): Promise<{ run: RunHead; bill: BoxBill }> {
  await lockRun(session, box);
  const run = await mustFindRun(session, box);
  const bill = run.bill && (await findBill(session, run.id));
  if (!bill || run.state === "planned") {
    throw new Refusal("not-committed", "This box is not committed any more, so it can't be packed. Commit it first.");
  }
  if (run.state === "sent") throw new Refusal("is-committed", "This box is sent: nothing more is packed of it.");
  return { run, bill };
}

const wasStopped = () =>
  new Refusal("is-packed", "Packing was stopped: the rest of it was given back, and nothing more is packed.");

/** When a tap was made: as it says, unless that lies ahead. */
function madeAt(at: string | null | undefined): string {
  const now = new Date().toISOString();
  return at && at < now ? at : now;
}

/** Marks one box as packed, or takes it out again, and posts the difference that makes. */
export function setPacked(
  db: Database,
  box: string,
  asked: z.output<typeof SetPacked>,
): Promise<z.output<typeof PackedAnswer>> {
  const { requestKey, variant: id, no, packed } = asked;
  const person = asked.person ?? null;
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { box, asked },
      async () => {
        const { run, bill } = await lockPacking(session, box);
        const variant = bill.variants.find((v) => v.id === id);
        if (!variant) throw wrongAt("/variant", "There is no such colourway in the frozen bill of this box.");
        if (no > variant.boxes) throw wrongAt("/no", `There are only ${variant.boxes} boxes of ${variant.name}.`);
        if (run.stoppedAt !== null) {
          throw wasStopped();
        }
        const at = madeAt(asked.at);
        if (!(await markPacked(session, run.id, { variant: id, no, packed, at, person }))) return;
        const count = await countPacked(session, run.id, id);
        const note = `${bill.theme}, ${variant.name}: box ${no}${packed ? "" : " taken out again"}`;
        const entry = { requestKey, person, at, run: run.id, note: note.slice(0, 500) };
        const all = await listNeeds(session, run.id);
        const needs = all.filter((n) => n.variant === id);
        await lockTotals(
          session,
          needs.map((n) => n.component),
        );
        const differences = needs.flatMap((need) => {
          const n = takenNext(need, count.of, variant.boxes, isWhole(bill, need));
          // A swap that was told before its box was packed is made up for by the boxes that follow.
          return (packed ? n > 0 : n < 0) ? [{ need, n: Math.abs(n) }] : [];
        });
        if (packed) await take(session, bill, all, differences, entry);
        else await giveBack(session, bill, differences, entry);
        await setState(session, run.id, count.all > 0 ? "packing" : "committed");
      },
      async () => {
        const run = await mustFindRun(session, box);
        return { state: run.state, variant: id, packed: (await countPacked(session, run.id, id)).of };
      },
    ),
  );
}

interface PackEntry {
  requestKey: string;
  person: string | null;
  at: string;
  run: string;
  note: string;
}
interface Difference {
  need: PackNeed;
  /** More than 0: base units, or pieces of the length. */
  n: number;
}

const nameIn = (bill: BoxBill, component: string) => bill.components.find((c) => c.id === component)?.name ?? "it";

/** Takes what a box uses out of the jars, and off what its needs speak for. */
async function take(
  session: Session,
  bill: BoxBill,
  all: readonly PackNeed[],
  list: readonly Difference[],
  entry: PackEntry,
) {
  if (list.length === 0) return;
  const components = [...new Set(list.map((d) => d.need.component))];
  const [stands, places, free] = [
    await listStands(session, components),
    (await listPlaces(session)).map((p) => p.id),
    await listFree(session, components),
  ];
  const moves: Move[] = [];
  const lacking: { component: string; detail: string; holds: number }[] = [];
  const taken: { component: string; detail: string }[] = [];
  for (const { need, n } of list) {
    const found = takeFrom(stands, all, need, n, places);
    const name = nameIn(bill, need.component);
    if (!found) {
      const each = need.cutMm ?? 1;
      const holds = exact(
        stands.reduce((sum, s) => (s.component === need.component ? sum + s.quantity * (s.stretchMm || 1) : sum), 0),
      );
      const wants = need.cutMm === null ? n.toLocaleString("en") : `${n} of ${need.cutMm.toLocaleString("en")} mm`;
      lacking.push({
        component: need.component,
        holds,
        detail: `The box takes ${wants} of ${name}, and by the book ${
          each === 1 ? `only ${holds.toLocaleString("en")} is there` : "no piece is long enough"
        }. Count the jar.`,
      });
      continue;
    }
    moves.push(...found.map((m) => ({ ...m, need: need.id })));
    // What it does not speak for must be free: nobody else's is taken.
    const own = await useReserved(session, need.id, n);
    const rest = exact((n - own) * (need.cutMm ?? 1));
    const there = free.get(need.component) ?? 0;
    if (rest > Math.max(0, there)) {
      const order = need.ordered[0];
      const over = exact(rest - Math.max(0, there)).toLocaleString("en");
      const way = order ? `Order ${order.number} brings it: receive it first.` : "Buy more, or take another box back.";
      taken.push({
        component: need.component,
        detail: `${name}: ${over} of what the box takes is spoken for by others. ${way}`,
      });
    }
    free.set(need.component, exact(there - rest));
    await trimReserved(session, need.id, exact(stillOpen(need) - n));
  }
  if (lacking.length > 0) {
    throw new Refusal("not-in-jar", lacking[0]!.detail, {
      errors: lacking.map((l) => ({ pointer: `/components/${l.component}`, detail: l.detail })),
      holds: lacking[0]!.holds,
    });
  }
  if (taken.length > 0) {
    throw new Refusal("not-free", taken[0]!.detail, {
      errors: taken.map((l) => ({ pointer: `/components/${l.component}`, detail: l.detail })),
    });
  }
  await postEntry(session, { ...entry, kind: "used" }, moves, () => "/no");
}

/**
 * Takes so much of a need from where the pick list and the cut list say; the stands are lessened by it.
 * @returns null where there is not so much
 */
function takeFrom(
  stands: Stand[],
  all: readonly PackNeed[],
  need: PackNeed,
  n: number,
  places: readonly string[],
): Move[] | null {
  const { component, cutMm } = need;
  const at = (place: string, lot: string, stretchMm: number) =>
    stands.find((s) => s.component === component && s.place === place && s.lot === lot && s.stretchMm === stretchMm);
  const others = all.filter((o) => o.component === component);
  if (cutMm === null) {
    const here = stands.filter((s) => s.component === component);
    const together = assignLots(
      here,
      others.map((o) => ({ ...o, quantity: stillOpen(o) })),
      places,
    );
    let picks = together.picks.filter((p) => p.need === need.id);
    if (picks.reduce((sum, p) => exact(sum + p.quantity), 0) < n) {
      const alone = assignLots(here, [{ ...need, quantity: n }], places);
      if (alone.missing.length > 0) return null;
      picks = alone.picks;
    }
    let open = n;
    return picks.flatMap(({ place, lot, quantity }): Move[] => {
      const q = exact(Math.min(open, quantity));
      if (!(q > 0)) return [];
      open = exact(open - q);
      const stand = at(place, lot, 0)!;
      stand.quantity = exact(stand.quantity - q);
      return [{ component, place, lot, stretchMm: 0, quantity: -q }];
    });
  }
  const pieces = piecesOf(stands, component);
  const cuts = others.flatMap((o) => (o.cutMm === null ? [] : [{ mm: o.cutMm, count: stillOpen(o) }]));
  const mine = (steps: readonly CutStep[]) =>
    steps
      .flatMap((step) => {
        const count = step.cuts.reduce((sum, c) => (c.mm === cutMm ? sum + c.count : sum), 0);
        return count > 0 ? [{ ...step, count }] : [];
      })
      // Pieces that were cut to the length already come first.
      .sort((a, b) => Number(b.fromMm === cutMm) - Number(a.fromMm === cutMm));
  let steps = mine(planCuts(pieces, cuts).steps);
  if (steps.reduce((sum, s) => sum + s.count * s.pieces, 0) < n) {
    const alone = planCuts(pieces, [{ mm: cutMm, count: n }]);
    if (alone.missing.length > 0) return null;
    steps = mine(alone.steps);
  }
  let open = n;
  /** Takes so many cuts from each of so many pieces. */
  const takeCuts = ({ place, lot, fromMm }: CutStep, pieces: number, cuts: number): Move[] => {
    if (pieces === 0 || cuts === 0) return [];
    open -= pieces * cuts;
    const keeps = exact(fromMm - cuts * cutMm);
    at(place, lot, fromMm)!.quantity -= pieces;
    if (keeps > 0) {
      const stand = at(place, lot, keeps);
      if (stand) stand.quantity += pieces;
      else stands.push({ component, place, lot, stretchMm: keeps, quantity: pieces, unitMass: null });
    }
    // What is kept comes in first: the worth of a piece is then the average of what was there.
    return [
      ...(keeps > 0 ? [{ component, place, lot, stretchMm: keeps, quantity: pieces }] : []),
      { component, place, lot, stretchMm: fromMm, quantity: -pieces },
    ];
  };
  return steps.flatMap((step) => {
    const whole = Math.min(step.pieces, Math.floor(open / step.count));
    const moves = takeCuts(step, whole, step.count);
    return whole < step.pieces ? [...moves, ...takeCuts(step, 1, open)] : moves;
  });
}

/** Puts back what a box had used, where it was taken from last and at its worth; its need speaks for it again. */
async function giveBack(session: Session, bill: BoxBill, list: readonly Difference[], entry: PackEntry) {
  if (list.length === 0) return;
  const moves: Move[] = [];
  for (const { need, n } of list) {
    const last = await lastTaken(session, need.id);
    if (!last) throw wrongAt("/no", `Nobody knows where ${nameIn(bill, need.component)} was taken from.`);
    const { place, lot, unitValue } = last;
    const value = new Big(unitValue).times(exact(n * (need.cutMm ?? 1))).toFixed(8);
    moves.push({
      component: need.component,
      place,
      lot,
      stretchMm: need.cutMm ?? 0,
      quantity: n,
      value,
      need: need.id,
    });
  }
  await postEntry(session, { ...entry, kind: "returned" }, moves, () => "/no");
  const purpose = `${bill.theme}, ${bill.month}`.slice(0, 200);
  const covered = list.map(({ need, n }) => ({
    need: need.id,
    component: need.component,
    cutMm: need.cutMm,
    quantity: n,
    orderLine: null,
  }));
  await coverNeeds(session, purpose, entry.person, covered);
}

/** Posts what broke, was lost, was swapped or counted while packing. */
export function tellPacking(
  db: Database,
  box: string,
  asked: z.output<typeof TellPacking>,
): Promise<{ entry: string }> {
  const { requestKey } = asked;
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { box, asked },
      async () => {
        const { run, bill } = await lockPacking(session, box);
        const entry = { requestKey, person: asked.person ?? null, at: madeAt(asked.at), run: run.id };
        if (run.stoppedAt !== null && asked.kind === "swapped") throw wasStopped();
        if (asked.kind === "counted") await tellCount(session, asked, entry);
        else if (asked.kind === "swapped") await tellSwap(session, bill, asked, entry);
        else await tellBroken(session, bill, asked, entry);
      },
      async () => ({ entry: await entryOf(session, requestKey) }),
    ),
  );
}

type Tell<K extends string> = Extract<z.output<typeof TellPacking>, { kind: K }>;
type TellEntry = Omit<PackEntry, "note">;

async function tellCount(session: Session, asked: Tell<"counted">, entry: TellEntry) {
  const { component, place, lot, quantity } = asked;
  await lockTotals(session, [component]);
  const move: Move = {
    component,
    place,
    lot,
    stretchMm: asked.stretchMm ?? 0,
    counted: quantity,
    u: 0,
    entered: "counted while packing",
  };
  await postEntry(session, { ...entry, kind: "counted", note: "Counted while packing" }, [move], () => "/quantity");
}

/** The need of a variant that something happened to. */
async function needOf(session: Session, run: string, asked: Tell<"broken" | "lost" | "swapped">): Promise<PackNeed> {
  const needs = await listNeeds(session, run, [asked.component]);
  const need = needs.find((n) => n.variant === asked.variant && (n.cutMm ?? null) === (asked.cutMm ?? null));
  if (!need) throw wrongAt("/component", "The boxes of this colourway take none of it.");
  return need;
}

async function tellBroken(session: Session, bill: BoxBill, asked: Tell<"broken" | "lost">, entry: TellEntry) {
  await lockTotals(session, [asked.component]);
  const need = await needOf(session, entry.run, asked);
  const all = await listNeeds(session, entry.run, [asked.component]);
  const stands = await listStands(session, [asked.component]);
  const places = (await listPlaces(session)).map((p) => p.id);
  const moves = takeFrom(stands, all, need, asked.quantity, places);
  if (!moves) throw notThere(bill, asked.component);
  const note = `${asked.kind === "lost" ? "Lost" : "Broken"} while packing ${bill.theme}`.slice(0, 500);
  await postEntry(session, { ...entry, kind: "broken", note }, moves, () => "/quantity");
}

const notThere = (bill: BoxBill, component: string) =>
  new Refusal("not-in-jar", `By the book there is not so much of ${nameIn(bill, component)}. Count the jar.`, {
    errors: [{ pointer: `/components/${component}`, detail: "Count the jar." }],
  });

async function tellSwap(session: Session, bill: BoxBill, asked: Tell<"swapped">, entry: TellEntry) {
  await lockTotals(session, [asked.component, asked.with]);
  const need = await needOf(session, entry.run, asked);
  const [instead] = await findComponents(session, [asked.with]);
  const known = bill.components.find((c) => c.id === asked.component)!;
  if (!instead) throw wrongAt("/with", "There is no such component.");
  if (instead.id === asked.component) throw wrongAt("/with", "That is the same one.");
  if (instead.baseUnit !== known.baseUnit) {
    throw wrongAt("/with", `${instead.name} is not kept in the same unit as ${known.name}.`);
  }
  if (asked.quantity > stillOpen(need)) {
    throw wrongAt(
      "/quantity",
      "All boxes of this colourway have theirs already. Take one out of what is packed first.",
    );
  }
  const stands = await listStands(session, [instead.id]);
  const places = (await listPlaces(session)).map((p) => p.id);
  const other = { ...need, component: instead.id, lot: null };
  const moves = takeFrom(
    stands,
    [{ ...other, quantity: asked.quantity, used: 0, swapped: 0 }],
    other,
    asked.quantity,
    places,
  );
  if (!moves) throw notThere({ ...bill, components: [{ ...known, id: instead.id, name: instead.name }] }, instead.id);
  const free = (await listFree(session, [instead.id])).get(instead.id) ?? 0;
  if (exact(asked.quantity * (need.cutMm ?? 1)) > free) {
    throw new Refusal("not-free", `What there is of ${instead.name} is spoken for by others.`, {
      errors: [{ pointer: `/components/${instead.id}`, detail: "Spoken for by others." }],
    });
  }
  await useReserved(session, need.id, asked.quantity);
  await trimReserved(session, need.id, exact(stillOpen(need) - asked.quantity));
  const note = `${instead.name} in place of ${known.name}`.slice(0, 500);
  await postEntry(
    session,
    { ...entry, kind: "used", note },
    moves.map((m) => ({ ...m, need: need.id })),
    () => "/quantity",
  );
}

/** Takes back something told while packing, by another entry. */
export function takeBackTold(
  db: Database,
  box: string,
  entry: string,
  asked: z.output<typeof TakeBackTold>,
): Promise<{ entry: string }> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      { box, entry, asked },
      async () => {
        const { run, bill } = await lockPacking(session, box);
        const told = await findTold(session, run.id, entry);
        if (!told) throw notFound("What was told");
        const by = { requestKey: asked.requestKey, person: asked.person ?? null };
        const touched = (await linesOfEntry(session, entry)).map((l) => l.component);
        await lockTotals(session, [...touched, ...(told.component ? [told.component] : [])]);
        await reverseEntry(session, entry, by, true);
        if (told.need === null || told.component === null) return;
        await makeUpFor(session, bill, told.need, { ...by, run: run.id });
        if (run.stoppedAt !== null) return;
        const need = (await listNeeds(session, run.id, [told.component])).find((n) => n.id === told.need);
        // What it stood in for is needed again: spoken for as far as it is free.
        const free = (await listFree(session, [told.component])).get(told.component) ?? 0;
        const each = need?.cutMm ?? 1;
        const held = (need?.held ?? 0) + (need?.ordered ?? []).reduce((sum, o) => sum + o.quantity, 0);
        const open = need ? Math.min(told.quantity, exact(stillOpen(need) - held)) : 0;
        const quantity =
          need?.cutMm === null ? Math.min(open, free) : Math.min(open, timesInto(Math.max(0, free), each));
        if (!need || !(quantity > 0)) return;
        const cover = { need: need.id, component: need.component, cutMm: need.cutMm, quantity, orderLine: null };
        await coverNeeds(session, `${bill.theme}, ${bill.month}`.slice(0, 200), by.person, [cover]);
      },
      async () => ({ entry: await entryOf(session, asked.requestKey) }),
    ),
  );
}

/** Boxes that are packed took what a swap that is taken back stood in for: it is taken from the jar now. */
async function makeUpFor(session: Session, bill: BoxBill, id: string, by: { person: string | null; run: string }) {
  const all = await listNeeds(session, by.run);
  const need = all.find((n) => n.id === id);
  const variant = bill.variants.find((v) => v.id === need?.variant);
  if (!need || !variant) return;
  const { of: packed } = await countPacked(session, by.run, need.variant);
  const n = takenNext(need, packed, variant.boxes, isWhole(bill, need));
  if (n <= 0) return;
  const note = `${bill.theme}, ${variant.name}: in place of a swap that was taken back`.slice(0, 500);
  const at = new Date().toISOString();
  await take(session, bill, all, [{ need, n }], { ...by, requestKey: randomUUID(), at, note });
}

/** Cuts one piece into lengths: they, and what is left of it, are in stock from here on. */
export function cutPiece(db: Database, box: string, asked: z.output<typeof CutPiece>): Promise<{ entry: string }> {
  const { requestKey, component, place, lot, fromMm, cuts } = asked;
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      requestKey,
      { box, asked },
      async () => {
        const { run, bill } = await lockPacking(session, box);
        const known = bill.components.find((c) => c.id === component);
        if (known?.baseUnit !== "mm") throw wrongAt("/component", "Nothing of it is cut for this box.");
        const left = exact(cuts.reduce((rest, c) => rest - c.mm * c.count, fromMm));
        if (left < 0) throw wrongAt("/cuts", "The piece is not long enough for that.");
        await lockTotals(session, [component]);
        const stand = (await listStands(session, [component])).find(
          (s) => s.place === place && s.lot === lot && s.stretchMm === exact(fromMm) && s.quantity >= 1,
        );
        if (!stand) {
          throw new Refusal("not-in-jar", `There is no such piece of ${known.name} any more. Look at the list again.`, {
            errors: [{ pointer: "/fromMm", detail: "There is no such piece there any more." }],
          });
        }
        const moves: Move[] = [
          ...cuts.map((c): Move => ({ component, place, lot, stretchMm: c.mm, quantity: c.count })),
          ...(left > 0 ? [{ component, place, lot, stretchMm: left, quantity: 1 }] : []),
          { component, place, lot, stretchMm: stand.stretchMm, quantity: -1 },
        ];
        const entry = { requestKey, person: asked.person ?? null, at: madeAt(asked.at), run: run.id };
        await postEntry(
          session,
          { ...entry, kind: "cut", note: `Cut for ${bill.theme}`.slice(0, 500) },
          moves,
          () => "/cuts",
        );
      },
      async () => ({ entry: await entryOf(session, requestKey) }),
    ),
  );
}

/** Stops with the boxes that are packed: all that the others spoke for is free again. */
export const stopRun = (db: Database, box: string, asked: z.output<typeof EndRun>): Promise<Run> =>
  endRun(db, box, asked, async (session, run) => {
    if (run.packed === 0) throw new Refusal("not-packed", "Nothing of it is packed: take the box back instead.");
    if (run.stoppedAt !== null) return;
    await stopAt(session, run.id);
  });

/** The box goes out: what it still spoke for is given back, its frozen bill stays for good. */
export const closeRun = (db: Database, box: string, asked: z.output<typeof EndRun>): Promise<Run> =>
  endRun(db, box, asked, async (session, run) => {
    if (run.packed === 0) throw new Refusal("not-packed", "Nothing of it is packed yet.");
    if (run.stoppedAt === null && run.packed < run.boxes) {
      const open = run.boxes - run.packed;
      throw new Refusal(
        "not-packed",
        `${open === 1 ? "One box is" : `${open} boxes are`} not packed yet. Pack them, or stop with those that are.`,
      );
    }
    await closeBy(session, run.id, asked.person ?? null);
  });

function endRun(
  db: Database,
  box: string,
  asked: z.output<typeof EndRun>,
  end: (session: Session, run: RunHead) => Promise<void>,
): Promise<Run> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      { box, asked },
      async () => {
        const { run } = await lockPacking(session, box);
        const components = await componentsOfRun(session, run.id);
        await lockOrdersFor(session, components);
        await lockTotals(session, components);
        await end(session, run);
        await releaseRun(session, run.id);
      },
      () => readRun(session, box),
    ),
  );
}
