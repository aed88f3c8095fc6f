import { ComponentDetail, SaveComponent, SetAside, StockEntry } from "@jar-count/core/contract";
import { cutFrom } from "@jar-count/core/cut";
import { movesOf } from "@jar-count/core/stock";
import { freeOf } from "@jar-count/core/component";
import { Router } from "express";
import type { z } from "zod";
import {
  asOf,
  findByCode,
  findComponents,
  listChanged,
  listComponents,
  lockComponent,
  putComponents,
  tagOfComponents,
} from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import {
  listBalances,
  listMovements,
  openBook,
  postEntry,
  refreshPromises,
  rememberWeighing,
} from "../store/ledger.ts";
import { dueOf } from "../store/orders.ts";
import { once } from "../store/requests.ts";
import { addReservation, listReservations, releaseReservation } from "../store/reservations.ts";
import { firstPlace } from "../store/rooms.ts";
import { notFound, Refusal, stale, wrongAt } from "../refusal.ts";
import { read, readId } from "./problem.ts";
import { heldList } from "./unchanged.ts";

const PAGE = 50;
const CHANGES = 1000;

export function componentRoutes(db: Database): Router {
  const routes = Router();

  const whole = heldList(
    () => tagOfComponents(db),
    async () => {
      // Asked first: what commits while the list is read is sent again, and nothing is missed.
      const now = await asOf(db);
      return { components: await listComponents(db), asOf: now };
    },
  );
  routes.get("/", async (req, res) => {
    const { since, after } = req.query;
    if (typeof since !== "string" || !/^\d{1,19}$/.test(since)) return whole(req, res);
    const now = await asOf(db);
    const components = await listChanged(db, since, after === undefined ? null : readId(after), CHANGES);
    res.json({ components, asOf: now, next: components.length === CHANGES ? components.at(-1)!.id : null });
  });

  routes.get("/by-code/:code", async (req, res) => {
    const id = await findByCode(db, req.params.code);
    if (!id) throw notFound(`A jar with the code ${req.params.code.slice(0, 40)}`);
    res.json(await detail(db, id));
  });

  routes.get("/:id", async (req, res) => {
    res.json(await detail(db, readId(req.params.id)));
  });

  routes.get("/:id/movements", async (req, res) => {
    const { before } = req.query;
    if (typeof before !== "string" || !/^\d{1,18}$/.test(before))
      throw wrongAt("/before", "Name the movement before which to read on.");
    const movements = await listMovements(db, readId(req.params.id), before, PAGE + 1);
    res.json({ movements: movements.slice(0, PAGE), older: movements.length > PAGE });
  });

  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    const { version, component } = read(SaveComponent, req.body);
    const saved = await inTransaction(db, async (session) => {
      const known = await lockComponent(session, id);
      if ((known?.version ?? 0) !== version) throw stale("This component", known && (await detail(session, id)));
      if (known?.moved && known.baseUnit !== component.baseUnit) {
        throw wrongAt(
          "/component/baseUnit",
          `Stock has moved in ${known.baseUnit}, so the unit is fixed. Make a new component for another unit.`,
        );
      }
      await putComponents(session, [{ id, ...component }]);
      return detail(session, id);
    });
    res.status(version === 0 ? 201 : 200).json(saved);
  });

  routes.post("/:id/stock", async (req, res) => {
    const id = readId(req.params.id);
    const entry = read(StockEntry, req.body) as z.output<typeof StockEntry>;
    const answer = await inTransaction(db, (session) =>
      once(session, entry.requestKey, { id, entry }, async () => {
        await write(session, id, entry);
        return detail(session, id);
      }),
    );
    res.status(201).json(answer);
  });

  routes.post("/:id/aside", async (req, res) => {
    const id = readId(req.params.id);
    const asked = read(SetAside, req.body) as z.output<typeof SetAside>;
    const answer = await inTransaction(db, (session) =>
      once(session, asked.requestKey, { id, asked }, async () => {
        await setAside(session, id, asked);
        return detail(session, id);
      }),
    );
    res.status(201).json(answer);
  });

  routes.delete("/:id/aside/:reservation", async (req, res) => {
    const id = readId(req.params.id);
    const answer = await inTransaction(db, async (session) => {
      await openBook(session, [id]);
      const component = await releaseReservation(session, readId(req.params.reservation));
      if (component !== id) throw notFound("What was set aside");
      await refreshPromises(session, [id]);
      return detail(session, id);
    });
    res.json(answer);
  });

  return routes;
}

async function write(session: Session, id: string, entry: z.output<typeof StockEntry>) {
  const [component] = await findComponents(session, [id]);
  if (!component) throw notFound("This component");
  const { held } = await openBook(session, [id, ...(entry.kind === "made" ? entry.from.map((f) => f.component) : [])]);
  const place = entry.place ?? (await firstPlace(session));
  const found = movesOf(component, entry, held, place);
  if ("fault" in found) throw wrongAt(found.pointer, found.fault);
  await postEntry(
    session,
    { ...entry, minutes: entry.kind === "made" ? (entry.minutes ?? null) : null },
    found.moves,
    () => (entry.kind === "cut" ? "/count" : "/quantity"),
  );
  if (entry.kind === "counted")
    await rememberWeighing(
      session,
      { component: id, place, lot: entry.lot },
      entry.tareG ?? null,
      entry.unitMass ?? null,
    );
}

async function setAside(session: Session, id: string, asked: z.output<typeof SetAside>) {
  const { held } = await openBook(session, [id]);
  const [component] = await findComponents(session, [id]);
  if (!component) throw notFound("This component");
  const linear = component.baseUnit === "mm";
  if (linear !== (asked.cutMm != null))
    throw wrongAt(
      linear ? "/cutMm" : "/quantity",
      linear ? "Say how long each piece must be." : "Only what is kept by length is set aside in pieces of a length.",
    );
  if (component.baseUnit !== "g" && !Number.isInteger(asked.quantity))
    throw wrongAt("/quantity", "Write a whole number.");
  if (linear) {
    const balances = (await listBalances(session, id)).filter((b) => !b.held);
    const aside = await listReservations(session, id);
    const cuts = [
      ...aside.map((r) => ({ mm: r.cutMm!, count: r.quantity })),
      { mm: asked.cutMm!, count: asked.quantity },
    ];
    const { missing } = cutFrom(
      balances.map((b) => ({ mm: b.stretchMm ?? 0, count: b.quantity })),
      cuts,
    );
    if (missing.length > 0)
      throw wrongAt(
        "/quantity",
        "The pieces on the shelf are not long enough for that, beside what is set aside already. A sum of offcuts is no piece.",
      );
  } else if (asked.quantity > freeOf(component)) {
    throw new Refusal(
      422,
      "Not free",
      `Only ${freeOf(component).toLocaleString("en")} of ${held.size > 0 ? component.name : "it"} is free.`,
      { errors: [{ pointer: "/quantity", detail: `Only ${freeOf(component).toLocaleString("en")} is free.` }] },
    );
  }
  await addReservation(session, {
    component: id,
    purpose: asked.purpose,
    quantity: asked.quantity,
    cutMm: asked.cutMm ?? null,
    person: asked.person ?? null,
  });
  await refreshPromises(session, [id]);
}

export async function detail(db: Session, id: string): Promise<ComponentDetail> {
  const [component] = await findComponents(db, [id]);
  if (!component) throw notFound("This component");
  const movements = await listMovements(db, id, null, PAGE + 1);
  return {
    component,
    balances: await listBalances(db, id),
    movements: movements.slice(0, PAGE),
    older: movements.length > PAGE,
    setAside: await listReservations(db, id),
    due: await dueOf(db, id),
  };
}
