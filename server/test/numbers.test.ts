/** Every number that more than one place tells, for every box and variant of the demo: each is told the same. */
import { randomUUID } from "node:crypto";
import { sharingFor, sharingNow } from "@jar-count/core/ahead";
import { billOf, linkOf, makeable, totalsOf } from "@jar-count/core/bom";
import type { BoxDetail, BoxSummary } from "@jar-count/core/contract";
import { coinPlaces, costOf } from "@jar-count/core/cost";
import { measuredCut, sumOf } from "@jar-count/core/cut";
import { cutList, packableNow, pickList } from "@jar-count/core/pack";
import { stepsOf } from "@jar-count/core/price";
import { contentsOf, totalsOfBill } from "@jar-count/core/run";
import { exact } from "@jar-count/core/units";
import Big from "big.js";
import Papa from "papaparse";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { postageWith, startServer, type TestServer } from "./harness.ts";

let server: TestServer;
let boxes: BoxSummary[];
beforeAll(async () => {
  server = await startServer({ demo: true });
  boxes = await server.call("listBoxes");
});
afterAll(() => server.stop());

const at = (id: string) => ({ params: { id } });
const sum = (list: readonly number[]) => exact(list.reduce((a, b) => a + b, 0));
const money = (list: readonly string[]) => list.reduce((a, b) => a.plus(b || 0), new Big(0)).toFixed(2);

/** A box as its pages hold it: the bill with what there is for it, worked out in the page. */
async function onPage(id: string) {
  const detail = await server.call("readBox", at(id));
  const shares = await server.call("readShares", at(id));
  const run = await server.call("readRun", at(id));
  const own = { id, packBy: run.packBy, month: detail.box.month };
  return { detail, shares, run, own, bill: billOf(detail, sharingFor(shares, own)) };
}

test("counts, bill, list and shortage of a box are those of its page, in every variant", async () => {
  for (const box of boxes) {
    const { detail, bill } = await onPage(box.id);
    const answer = await server.call("readBill", at(box.id));
    const totals = new Map(bill.totals.map((t) => [t.component.id, t]));
    expect(answer.variants.map((v) => v.boxes)).toEqual(bill.variants.map((v) => v.boxes));
    for (const [i, v] of answer.variants.entries()) {
      const needs = bill.variants[i]!.needs;
      expect(v.lines.map(({ shortBecause: _, ...line }) => line)).toEqual(
        needs.map(({ component, perBox, spare, rule, run, pieces }) => {
          const { left, short } = totals.get(component.id)!;
          return { component: component.id, perBox, spare, rule, run, pieces, left, short };
        }),
      );
    }
    const text = await (await fetch(`${server.url}/api/boxes/${box.id}/bill.csv`)).text();
    const rows = Papa.parse<Record<string, string>>(text, { header: true, skipEmptyLines: true }).data;
    const lines = rows.filter((r) => r.code);
    expect(lines.map((r) => [r.code, r["the run"], r["left for it"], r["short in all"]].join())).toEqual(
      bill.variants.flatMap((v) =>
        v.needs.map(({ component, run }) => {
          const { left, short } = totals.get(component.id)!;
          return [component.code, ...[run, left, short].map((n) => String(exact(n)))].join();
        }),
      ),
    );
    const cost = costOf(bill, coinPlaces("GBP"), (await server.call("readMoney")).basis);
    expect(money(lines.map((r) => r.cost ?? ""))).toBe(cost.run);
    expect(detail.box.variants).toHaveLength(answer.variants.length);
  }
});

test("a cut is as long in bill, list, plan and stock, and what is left is what was there less that", async () => {
  for (const box of boxes) {
    const { detail, bill } = await onPage(box.id);
    for (const variant of bill.variants)
      for (const need of variant.needs.filter((n) => n.component.baseUnit === "mm")) {
        for (const { mm } of need.pieces) expect(exact(mm)).toBe(measuredAlike(detail, need.component.id, mm));
        expect(exact(need.perBox + need.spare)).toBe(sumOf(need.pieces));
        expect(need.run).toBe(exact(sumOf(need.pieces) * variant.boxes));
      }
  }
  for (const box of boxes.filter((b) => b.state === "committed" || b.state === "packing")) {
    const packing = await server.call("readPacking", at(box.id));
    for (const { steps } of cutList(packing))
      for (const { fromMm, cuts, leftMm } of steps) expect(exact(fromMm - sumOf(cuts))).toBe(leftMm);
    for (const need of packing.needs.filter((n) => n.cutMm !== null))
      expect(packing.of.variants.flatMap((v) => v.lines.flatMap((l) => l.pieces.map((p) => p.mm)))).toContain(
        need.cutMm,
      );
  }
});

/** A cut is one that a ruler's mark, or a whole link, measures: measured again it is as long. */
function measuredAlike(detail: BoxDetail, component: string, mm: number): number {
  const of = detail.components.find((c) => c.id === component)!;
  const links = detail.designs.flatMap(({ design }) =>
    design.key.flatMap((e) => (e.kind === "stringing" ? [linkOf(of, design, e.key) ?? null] : [])),
  );
  const ways = [null, of.linkMm ?? null, ...links].map((link) => measuredCut(mm, detail.ruler, link));
  return ways.find((x) => x === exact(mm)) ?? ways[0]!;
}

test("a run's costs are its variants', a component's is rounded once, and the bill has the same", async () => {
  const { version: _version, ...terms } = await server.call("readMoney");
  const { bands } = await postageWith(server, null);
  for (const box of boxes) {
    const { detail, bill } = await onPage(box.id);
    const steps = stepsOf(detail, bill, { currency: "GBP", money: terms, bands });
    const cost = costOf(bill, 2, terms.basis);
    const found = await server.call("readCost", at(box.id));
    expect(found.variants.map((v) => v.cost)).toEqual(steps.variants.map((v) => v.perBox));
    expect(money(cost.variants.map((v) => v.run))).toBe(cost.run);
    expect(money(steps.variants.map((v) => v.run))).toBe(steps.run);
    for (const [i, v] of steps.variants.entries()) {
      expect(found.variants[i]!.steps.map((s) => [s.step, s.cost])).toEqual(v.steps.map((s) => [s.step, s.perBox]));
      expect(money(v.steps.map((s) => s.perBox ?? "0"))).toBe(v.perBox ?? "0.00");
      expect(money(v.steps.map((s) => s.run))).toBe(v.run);
      const material = v.lines.filter((l) => l.component && !l.work).map((l) => l.cost ?? "0");
      expect(money(material)).toBe(cost.variants[i]!.run);
    }
    for (const { id } of detail.components) {
      const lines = cost.variants.flatMap((v, i) =>
        v.lines.flatMap((l, n) =>
          l.component.id === id && l.cost !== null ? [{ ...l, run: bill.variants[i]!.needs[n]!.run }] : [],
        ),
      );
      if (lines.length === 0) continue;
      const run = lines.reduce((all, l) => all.plus(l.run), new Big(0));
      expect(money(lines.map((l) => l.cost!))).toBe(run.times(lines[0]!.unitCost!).toFixed(2));
    }
  }
});

test("how many can be made now is how many can be packed, and what is ordered is told apart", async () => {
  for (const box of boxes.filter((b) => b.state === "committed")) {
    const { shares, own, bill } = await onPage(box.id);
    const now = makeable(bill.variants, totalsOf(bill.variants, sharingNow(shares, own)));
    expect(now.boxes).toBe(packableNow(await server.call("readPacking", at(box.id))));
    const byDay = makeable(bill.variants, bill.totals);
    expect(byDay.boxes).toBeGreaterThanOrEqual(now.boxes);
    // What limits most allows no more than can be made, and nothing allows fewer.
    for (const { boxes: allowed } of now.limitedBy) expect(allowed).toBeGreaterThanOrEqual(now.boxes);
  }
});

test("what is short is what to buy, by when, and what runs out ahead", async () => {
  const list = await server.call("readBuyList");
  const ahead = (await server.call("readAhead")).components;
  const short = new Map<string, number>();
  for (const box of boxes.filter((b) => b.state !== "sent")) {
    const { variants } = await server.call("readBill", at(box.id));
    const own = new Map(variants.flatMap((v) => v.lines.map((l) => [l.component, l.short] as const)));
    for (const [component, n] of own) if (n > 0) short.set(component, exact((short.get(component) ?? 0) + n));
  }
  expect(new Map(list.lines.map((l) => [l.component, l.need]))).toEqual(short);
  const out = new Map(ahead.filter((a) => a.runsOutOn !== null).map((a) => [a.component, a]));
  expect([...out.keys()].sort()).toEqual([...short.keys()].sort());
  const orders = await server.call("listOrders");
  for (const line of list.lines) {
    expect(line.by).toBe(out.get(line.component)!.runsOutOn);
    expect(sum(line.boxes.map((b) => b.quantity))).toBe(line.need);
    for (const late of line.late) {
      const of = orders.find((o) => o.id === late.order)!.lines.find((l) => l.id === late.line)!;
      expect(late.quantity).toBeLessThanOrEqual(of.quantity);
      expect(late.due === null || late.due > line.by).toBe(true);
    }
  }
  // The one order that comes too late is told where it would be bought a second time.
  expect(list.lines.flatMap((l) => l.late.map((o) => [o.quantity, l.need]))).toEqual([[800, 580]]);
});

test("jars hold what boxes speak for", async () => {
  const held = new Map<string, number>();
  for (const { id, state } of boxes) {
    if (state === "planned" || state === "sent") continue;
    for (const need of (await server.call("readPacking", at(id))).needs)
      held.set(need.component, exact((held.get(need.component) ?? 0) + need.held * (need.cutMm ?? 1)));
  }
  for (const [id, quantity] of held) {
    const jar = await server.call("readComponent", at(id));
    const own = jar.spokenBy.filter((s) => s.order === null).map((s) => s.quantity);
    expect(sum(own)).toBeCloseTo(quantity, 6);
    expect(jar.component.spokenFor).toBeGreaterThanOrEqual(quantity - 1e-6);
  }
});

describe("lists of a frozen bill", () => {
  test("bags, contents and what is to be picked hold what the bill has", async () => {
    for (const box of boxes.filter((b) => b.state !== "planned")) {
      const frozen = await server.call("readFrozenBill", at(box.id));
      const totals = new Map(totalsOfBill(frozen).map((t) => [t.component.id, t.run]));
      for (const [component, run] of totals) {
        const { baseUnit } = frozen.components.find((c) => c.id === component)!;
        const amounts = frozen.variants.flatMap((v) =>
          contentsOf(frozen, v).bags.flatMap((bag) =>
            bag.items.flatMap((i) => (i.component.id === component ? [i.amount * v.boxes] : [])),
          ),
        );
        const many = frozen.variants.reduce((n, v) => n + v.boxes, 0);
        // Grams are rounded to a thousandth in each bag, for the run once.
        expect(Math.abs(sum(amounts) - run)).toBeLessThanOrEqual(baseUnit === "g" ? 0.001 * many : 1e-6);
      }
      if (box.state !== "committed") continue;
      const packing = await server.call("readPacking", at(box.id));
      const picked = new Map<string, number>();
      for (const row of pickList(packing).rows)
        if ("quantity" in row) picked.set(row.component, exact((picked.get(row.component) ?? 0) + row.quantity));
      for (const [component, n] of picked) expect(n).toBeLessThanOrEqual(totals.get(component)! + 1e-6);
    }
  });
});

test("a design with an error in it is saved, and no box with it can be committed", async () => {
  const box = boxes.find((b) => b.state === "committed")!;
  const { box: before, designs } = await server.call("readBox", at(box.id));
  const [line] = before.lines;
  const { design } = designs.find((d) => d.designId === line!.designId)!;
  const parts = design.parts.map((p) => ({ ...p, steps: `${p.steps ?? ""} (` }));
  const saved = await server.send("PUT", `/api/designs/${line!.designId}`, {
    revision: line!.revision,
    design: { ...design, parts },
  });
  expect(saved.status).toBe(200);
  const changes = { lines: { put: [{ ...line!, revision: line!.revision + 1 }] } };
  await server.call("changeBox", { ...at(box.id), body: { version: before.version, changes } });
  const plan = await server.call("planCommit", at(box.id));
  expect(plan.open.join()).toContain("This bracket is never closed");
  const refused = await server.send("POST", `/api/boxes/${box.id}/commit`, {
    requestKey: randomUUID(),
    version: plan.version,
    lacking: plan.lacking,
    seen: plan.seen,
  });
  expect(refused).toMatchObject({ status: 422, body: { code: "invalid" } });
});
