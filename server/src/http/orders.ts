import { Delivery, SaveOrder } from "@jar-count/core/contract";
import { convert } from "@jar-count/core/component";
import { type Move, shareCharge } from "@jar-count/core/stock";
import Big from "big.js";
import { Router } from "express";
import type { z } from "zod";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { openBook, postEntry, refreshPromises } from "../store/ledger.ts";
import { addReceived, findOrder, listOrders, lockOrder, putOrder } from "../store/orders.ts";
import { once } from "../store/requests.ts";
import { firstPlace } from "../store/rooms.ts";
import { notFound, stale, wrongAt } from "../refusal.ts";
import { read, readId } from "./problem.ts";

export function orderRoutes(db: Database): Router {
  const routes = Router();
  routes.get("/", async (_req, res) => {
    res.json(await listOrders(db));
  });
  routes.get("/:id", async (req, res) => {
    const found = await findOrder(db, readId(req.params.id));
    if (!found) throw notFound("This order");
    res.json(found);
  });
  routes.put("/:id", async (req, res) => {
    const id = readId(req.params.id);
    const { version, order } = read(SaveOrder, req.body) as z.output<typeof SaveOrder>;
    const saved = await inTransaction(db, async (session) => {
      const known = (await lockOrder(session, id)) ?? 0;
      const before = known > 0 ? await findOrder(session, id) : undefined;
      if (known !== version) throw stale("This order", before);
      for (const line of before?.lines ?? []) {
        const received = before!.received[line.id] ?? 0;
        const now = order.lines.find((l) => l.id === line.id);
        if (received > 0 && now?.component !== line.component)
          throw wrongAt(
            "/order/lines",
            "A line of which something came can't be taken out or become another component.",
          );
      }
      await openBook(session, [
        ...order.lines.map((l) => l.component),
        ...(before?.lines.map((l) => l.component) ?? []),
      ]);
      await putOrder(session, id, order);
      await refreshPromises(session, [
        ...order.lines.map((l) => l.component),
        ...(before?.lines.map((l) => l.component) ?? []),
      ]);
      return findOrder(session, id);
    });
    res.status(version === 0 ? 201 : 200).json(saved);
  });
  routes.post("/:id/receive", async (req, res) => {
    const id = readId(req.params.id);
    const delivery = read(Delivery, req.body) as z.output<typeof Delivery>;
    const answer = await inTransaction(db, (session) =>
      once(session, delivery.requestKey, { id, delivery }, async () => {
        if (!(await lockOrder(session, id))) throw notFound("This order");
        await receive(session, id, delivery);
        return findOrder(session, id);
      }),
    );
    res.status(201).json(answer);
  });
  return routes;
}

async function receive(session: Session, id: string, delivery: z.output<typeof Delivery>) {
  const order = (await findOrder(session, id))!;
  const lines = delivery.lines.map((d, i) => {
    const line = order.lines.find((l) => l.id === d.line);
    if (!line) throw wrongAt(`/lines/${i}/line`, "There is no such line in this order.");
    return { ...d, of: line };
  });
  const components = new Map(
    (
      await findComponents(
        session,
        lines.map((l) => l.of.component),
      )
    ).map((c) => [c.id, c]),
  );
  const inHome = (amount: Big) => amount.times(order.rate);
  const goods = lines.map((l) => inHome(new Big(l.of.price).times(l.quantity).div(l.of.quantity)));
  const mass = (l: (typeof lines)[number]) => {
    const c = components.get(l.of.component)!;
    return c.baseUnit === "mm" ? 0 : (convert(l.quantity, c.baseUnit, "g", c)?.n ?? 0);
  };
  const charge = inHome(new Big(delivery.freight).plus(delivery.duty)).toFixed(2);
  const shares = shareCharge(charge, delivery.shareBy === "mass" ? lines.map(mass) : goods.map(Number));
  const place = delivery.place ?? (await firstPlace(session));
  await openBook(
    session,
    lines.map((l) => l.of.component),
  );
  const moves = lines.map((l, i): Move => {
    const linear = components.get(l.of.component)!.baseUnit === "mm";
    // Spools come whole: as many pieces as packs came, each as long as a pack.
    const pack = l.of.quantity / l.of.packs;
    const pieces =
      linear && Math.abs(l.quantity / pack - Math.round(l.quantity / pack)) < 1e-6 ? Math.round(l.quantity / pack) : 1;
    return {
      component: l.of.component,
      place,
      lot: l.lot,
      stretchMm: linear ? Math.round((l.quantity / pieces) * 1000) / 1000 : 0,
      quantity: linear ? pieces : l.quantity,
      cost: goods[i]!.plus(shares[i]!).toFixed(4),
    };
  });
  await postEntry(
    session,
    {
      kind: "received",
      requestKey: delivery.requestKey,
      person: delivery.person,
      note: delivery.note || `Order ${order.number}`,
    },
    moves,
    (i) => `/lines/${i}/quantity`,
  );
  await addReceived(session, id, delivery.lines);
  await refreshPromises(
    session,
    lines.map((l) => l.of.component),
  );
}
