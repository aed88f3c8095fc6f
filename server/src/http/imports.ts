import { Uuid } from "@jar-count/core/contract";
import { INTAKES, type Intake, intakeOf, type PlannedRow } from "@jar-count/core/intake";
import type { Move } from "@jar-count/core/stock";
import express, { type Response, Router } from "express";
import { randomUUID } from "node:crypto";
import type pg from "pg";
import { z } from "zod";
import { findComponents, listComponents, putComponents } from "../store/components.ts";
import { type Database, inTransaction } from "../store/database.ts";
import { postEntry } from "../store/ledger.ts";
import { once } from "../store/requests.ts";
import { firstPlace, listRooms } from "../store/rooms.ts";
import { Refusal } from "../refusal.ts";
import { read } from "./problem.ts";

export const ImportRequest = z.strictObject({
  requestKey: Uuid,
  person: Uuid.nullish(),
  /** What the file is called: it stands in the ledger. */
  name: z.string().max(200),
  rows: z
    .array(z.record(z.string(), z.string().max(5000)))
    .min(1, "There are no rows in it.")
    .max(50_000, "At most 50,000 rows at a time."),
});
export const Imported = z.object({ new: z.int(), changed: z.int(), same: z.int() });

const TOGETHER = 2000;

/**
 * A table of components, offers, deliveries or counts: judged again here as in its preview, then all of it or
 * nothing.
 */
export function importRoutes(db: Database): Router {
  const routes = Router();
  routes.post("/:kind", express.json({ limit: "60mb" }), async (req, res) => {
    const kind = read(z.enum(INTAKES), req.params.kind);
    const asked = read(ImportRequest, req.body);
    const answer = await inTransaction(db, (session) =>
      once(session, asked.requestKey, { kind, rows: asked.rows }, () => take(session, kind, asked, res)),
    );
    res.status(201).json(answer);
  });
  return routes;
}

type Accepted = Exclude<PlannedRow, { status: "refused" }>;

async function take(
  session: pg.PoolClient,
  kind: Intake,
  { rows, name, person, requestKey }: z.infer<typeof ImportRequest>,
  res: Response,
): Promise<z.infer<typeof Imported>> {
  // Nobody waits for the answer any more: then nothing is written.
  const goOn = async () => {
    await new Promise((next) => setImmediate(next));
    if (res.destroyed) throw new Refusal(499, "Stopped", "The import was stopped. Nothing was written.");
  };
  await session.query("lock table components in share row exclusive mode");
  const { places, suppliers } = await listRooms(session);
  const plan = intakeOf(kind, { components: await listComponents(session), places, suppliers });
  const accepted: Accepted[] = [];
  const errors: { pointer: string; detail: string }[] = [];
  for (const [i, row] of rows.entries()) {
    if (i % TOGETHER === 0) await goOn();
    const found = plan(row);
    if (found.status === "refused") errors.push(...found.faults.map((detail) => ({ pointer: `/rows/${i}`, detail })));
    else accepted.push(found);
  }
  if (errors.length > 0)
    throw new Refusal(
      422,
      "Not as agreed",
      `${errors.length} places in this table can't be accepted. Nothing was written.`,
      { errors: errors.slice(0, 1000) },
    );

  const of = <K extends Accepted["kind"]>(...kinds: K[]) =>
    accepted.filter(
      (a): a is Extract<Accepted, { kind: K }> => a.status !== "same" && (kinds as string[]).includes(a.kind),
    );
  const components = of("components");
  for (let i = 0; i < components.length; i += TOGETHER) {
    await goOn();
    await putComponents(
      session,
      components.slice(i, i + TOGETHER).map((c) => ({ ...c.component, id: c.id ?? randomUUID() })),
    );
  }
  const offers = of("offers");
  const changed = new Map((await findComponents(session, [...new Set(offers.map((o) => o.id))])).map((c) => [c.id, c]));
  for (const { id, offer } of offers) {
    const c = changed.get(id)!;
    const same = c.offers.findIndex(
      (o) => o.pack.toLowerCase() === offer.pack.toLowerCase() && (o.supplier ?? null) === (offer.supplier ?? null),
    );
    c.offers = same < 0 ? [...c.offers, offer] : c.offers.with(same, { ...offer, steps: c.offers[same]!.steps });
  }
  const together = [...changed.values()].map(
    ({ version: _v, onHand: _h, u: _u, spokenFor: _s, onTheWay: _w, averageCost: _a, lastCost: _l, moved: _m, ...c }) =>
      c,
  );
  for (let i = 0; i < together.length; i += TOGETHER) {
    await goOn();
    await putComponents(session, together.slice(i, i + TOGETHER));
  }
  const stock = of("deliveries", "counts");
  if (stock.length > 0) {
    const first = await firstPlace(session);
    const moves = stock.map((s): Move => {
      const spot = {
        component: s.id,
        place: s.place ?? first,
        lot: s.lot,
        stretchMm: s.stretchMm ?? 0,
        entered: s.note,
      };
      return s.kind === "counts"
        ? { ...spot, counted: s.quantity, u: s.u }
        : { ...spot, quantity: s.quantity, cost: s.cost };
    });
    await goOn();
    await postEntry(
      session,
      { kind: kind === "counts" ? "counted" : "received", requestKey, person, note: name.slice(0, 500) },
      moves,
      (i) => `/rows/${i}`,
    );
  }
  await goOn();
  const many = (status: string) => accepted.filter((a) => a.status === status).length;
  return { new: many("new"), changed: many("changed"), same: many("same") };
}
