import { freeOf } from "@jar-count/core/component";
import type { Component, ComponentDetail, Reverse, SetAside, StockEntry } from "@jar-count/core/contract";
import { cutFrom } from "@jar-count/core/cut";
import { movesOf } from "@jar-count/core/stock";
import type { z } from "zod";
import { notFound, Refusal, wrongAt } from "../refusal/index.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { listBalances, rememberWeighing } from "../store/ledger.ts";
import { doOnce, writeOnce } from "../store/requests.ts";
import { addReservation, listReservations, releaseReservation } from "../store/reservations.ts";
import { firstPlace } from "../store/rooms.ts";
import { listClaims } from "../store/runs.ts";
import { openBook, postEntry, reverseEntry } from "./book.ts";
import { readJar } from "./components.ts";

/** Writes down what came, went, was counted, cut, moved or made of a component. */
export function moveStock(db: Database, id: string, entry: z.output<typeof StockEntry>): Promise<ComponentDetail> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      entry.requestKey,
      { id, entry },
      async () => {
        const made = entry.kind === "made";
        const { spots } = await openBook(session, [id, ...(made ? entry.from.map((f) => f.component) : [])]);
        // Read once nobody else can change its unit.
        const component = await mustFind(session, id);
        const place = entry.place ?? (await firstPlace(session));
        const found = movesOf(component, entry, spots, place);
        if ("fault" in found) throw wrongAt(found.pointer, found.fault);
        const pointer = entry.kind === "cut" ? "/count" : "/quantity";
        const minutes = made ? (entry.minutes ?? null) : null;
        await postEntry(session, { ...entry, minutes }, found.moves, () => pointer);
        if (entry.kind === "counted") {
          const at = { component: id, place, lot: entry.lot };
          await rememberWeighing(session, at, entry.tareG ?? null, entry.unitMass ?? null);
        }
      },
      () => readJar(session, id),
    ),
  );
}

/** Sets stock aside for a purpose: an amount that is free, or pieces that are long enough. */
export function setAside(db: Database, id: string, asked: z.output<typeof SetAside>): Promise<ComponentDetail> {
  return inTransaction(db, (session) =>
    writeOnce(
      session,
      asked.requestKey,
      { id, asked },
      async () => {
        await openBook(session, [id]);
        const component = await mustFind(session, id);
        await checkFree(session, component, asked.quantity, asked.cutMm ?? null);
        await addReservation(session, {
          component: id,
          purpose: asked.purpose,
          quantity: asked.quantity,
          cutMm: asked.cutMm ?? null,
          person: asked.person ?? null,
        });
      },
      () => readJar(session, id),
    ),
  );
}

async function checkFree(session: Session, component: Component, quantity: number, cutMm: number | null) {
  const linear = component.baseUnit === "mm";
  if (linear && cutMm === null) throw wrongAt("/cutMm", "Say how long each piece must be.");
  if (!linear && cutMm !== null) {
    throw wrongAt("/quantity", "Only what is kept by length is set aside in pieces of a length.");
  }
  if (component.baseUnit !== "g" && !Number.isInteger(quantity)) throw wrongAt("/quantity", "Write a whole number.");
  if (cutMm !== null) {
    const pieces = (await listBalances(session, component.id)).filter((b) => !b.held);
    const aside = await listReservations(session, component.id);
    const claimed = (await listClaims(session, [component.id])).filter((c) => c.from === "stock");
    const { missing } = cutFrom(
      pieces.map((b) => ({ mm: b.stretchMm ?? 0, count: b.quantity })),
      [
        ...aside.map((r) => ({ mm: r.cutMm!, count: r.quantity })),
        ...claimed.flatMap((c) => c.cuts),
        { mm: cutMm, count: quantity },
      ],
    );
    if (missing.length > 0) {
      throw wrongAt(
        "/quantity",
        "The pieces on the shelf are not long enough for that, beside what is set aside already. " +
          "A sum of offcuts is no piece.",
      );
    }
    return;
  }
  const free = freeOf(component);
  if (quantity > free) {
    throw new Refusal("not-free", `Only ${free.toLocaleString("en")} of ${component.name} is free.`, {
      errors: [{ pointer: "/quantity", detail: `Only ${free.toLocaleString("en")} is free.` }],
    });
  }
}

/** Gives what was set aside free again. */
export function release(db: Database, id: string, reservation: string): Promise<ComponentDetail> {
  return inTransaction(db, async (session) => {
    await openBook(session, [id]);
    if ((await releaseReservation(session, reservation)) !== id) throw notFound("What was set aside");
    return readJar(session, id);
  });
}

/** Undoes an entry of the ledger by another one. */
export async function reverse(db: Database, entry: string, by: z.output<typeof Reverse>) {
  const components = await inTransaction(db, (session) =>
    doOnce(session, by.requestKey, { id: entry, by }, () => reverseEntry(session, entry, by)),
  );
  return { components };
}

async function mustFind(session: Session, id: string): Promise<Component> {
  const [component] = await findComponents(session, [id]);
  if (!component) throw notFound("This component");
  return component;
}
