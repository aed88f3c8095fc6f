import Big from "big.js";
import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { billOf } from "../src/bom/index.ts";
import { type Band, type BoxDetail, COST_STEPS, MoneyInput, type WhatIfChange } from "../src/contract/index.ts";
import { coinPlaces, costOf } from "../src/cost/index.ts";
import {
  atPrice,
  boughtBy,
  breakEven,
  changedBox,
  dearerThan,
  eatenAt,
  endingUp,
  isOfBox,
  measuredRates,
  offByOne,
  ordersOf,
  paidForBy,
  postageFor,
  priceFor,
  shareBoxes,
  stepsOf,
  type Terms,
  tried,
} from "../src/price/index.ts";
import { demoBoxes } from "./demoBoxes.ts";
import { component, id } from "./things.ts";

const CHANNEL = { id: id(1), name: "own shop", feeRate: 0.03, feeFixed: "0.20", taxRate: 0.2, discounts: [] };
const none = { feeRate: 0, feeFixed: "0", taxRate: 0 };

describe("a price", () => {
  test("for a margin and for a markup is said by their definitions", () => {
    // Margin = (price − cost) ÷ price, markup = (price − cost) ÷ cost: the usual definitions of retail
    // arithmetic.
    expect(priceFor({ ...none, cost: "12", margin: 0.4, currency: "GBP" })).toEqual({
      price: "20.00",
      net: "20.00",
      fee: "0.00",
      tax: "0.00",
      margin: 0.4,
      markup: 8 / 12,
    });
    expect(priceFor({ ...none, cost: "12", markup: 0.5, currency: "GBP" })!.price).toBe("18.00");
  });

  test("holds tax and fees: worked by hand", () => {
    // 24.00 with a fifth of tax in it is 20.00 and 4.00; 3 % and 0.20 of 24.00 is 0.92; 20 − 0.92 − 9.08 = 10.00.
    expect(atPrice("24", "9.08", CHANNEL, "GBP")).toEqual({
      price: "24.00",
      net: "19.08",
      fee: "0.92",
      tax: "4.00",
      margin: 0.5,
      markup: 10 / 9.08,
    });
    const { feeRate, feeFixed, taxRate } = CHANNEL;
    const asked = { feeRate, feeFixed, taxRate, cost: "9.08", margin: "0.5", currency: "GBP" };
    expect(priceFor(asked)!.price).toBe("24.00");
  });

  test("that nothing reaches is none", () => {
    const asked = { cost: "9", feeRate: 0.1, feeFixed: "0", taxRate: 0.2, currency: "GBP" };
    expect(priceFor({ ...asked, margin: 0.9 })).toBeNull();
    expect(priceFor({ ...asked, margin: 1 })).toBeNull();
    expect(priceFor({ ...asked, feeRate: 0.99, markup: 0.1 })).toBeNull();
  });

  test("is the least coin that earns what was asked for, in currencies of 0, 2 and 3 places (ISO 4217)", () => {
    const cents = fc.integer({ min: 1, max: 50_000_00 }).map((n) => new Big(n).div(100).toFixed(2));
    const part = (most: number) => fc.integer({ min: 0, max: most }).map((n) => n / 1000);
    const of = fc.record({ cost: cents, feeRate: part(150), fixed: part(900), taxRate: part(300), wanted: part(500) });
    fc.assert(
      fc.property(of, fc.constantFrom("JPY", "GBP", "KWD"), fc.boolean(), (x, currency, byMargin) => {
        const terms = { feeRate: x.feeRate, feeFixed: x.fixed.toFixed(3), taxRate: x.taxRate };
        const said = byMargin ? { margin: x.wanted } : { markup: x.wanted };
        const found = priceFor({ ...terms, cost: x.cost, ...said, currency })!;
        const price = new Big(found.price);
        // Tax in and out: what is left of the price times 1 + rate is the price; and all parts of it add up.
        expect(
          Math.abs(
            Number(
              price
                .minus(found.tax)
                .times(1 + x.taxRate)
                .minus(price),
            ),
          ),
        ).toBeLessThan(1e-6);
        expect(Math.abs(Number(price.minus(found.net).minus(found.fee).minus(found.tax)))).toBeLessThan(1e-6);
        const reached = (p: Big) => {
          const now = atPrice(p.toFixed(4), x.cost, terms, currency);
          return (byMargin ? now.margin : now.markup!) - x.wanted;
        };
        expect(reached(price)).toBeGreaterThan(-1e-9);
        const coin = new Big(10).pow(-coinPlaces(currency));
        expect(reached(price.minus(coin))).toBeLessThan(1e-9);
        // markup = margin ÷ (1 − margin), where neither tax nor fees stand between them.
        const plain = atPrice(found.price, x.cost, none, currency);
        if (plain.margin < 1) expect(plain.markup).toBeCloseTo(plain.margin / (1 - plain.margin), 6);
      }),
    );
  });

  test("ends as the workshop likes, never lower", () => {
    expect(endingUp("23.10", ".50", "GBP")).toBe("23.50");
    expect(endingUp("23.51", ".50", "GBP")).toBe("24.50");
    expect(endingUp("23.10", "", "GBP")).toBe("23.10");
    expect(endingUp("2310", ".50", "JPY")).toBe("2310");
    expect(endingUp("2.3101", ".950", "KWD")).toBe("2.950");
  });

  test("breaks even at the first whole box", () => {
    expect(breakEven("1000", "8")).toBe(125);
    expect(breakEven("1001", "8")).toBe(126);
    expect(breakEven("10", "0")).toBeNull();
  });
});

describe("orders", () => {
  const ladder = { ...CHANNEL, feeRate: 0, feeFixed: "0", taxRate: 0 };
  test("a ladder of discounts takes the whole order's part, and a gift what it costs with its postage", () => {
    const channel = {
      ...ladder,
      discounts: [
        { from: "40", rate: 0.05 },
        { from: "60", rate: 0.1 },
      ],
      gift: { from: "60", name: "mini box", cost: "1.50", massG: 30 },
    };
    const orders = ordersOf("20", "12", channel, "GBP", 4, "0.75");
    expect(orders.map((o) => [o.worth, o.paid, o.gift, o.earned])).toEqual([
      ["20.00", "20.00", false, "8.00"],
      ["40.00", "38.00", false, "14.00"],
      ["60.00", "54.00", true, "15.75"],
      ["80.00", "72.00", true, "21.75"],
    ]);
    expect(eatenAt(orders)).toBeNull();
  });

  test("that earn less than smaller ones are named with their size", () => {
    const steep = { ...ladder, discounts: [{ from: "60", rate: 0.3 }] };
    // 2 × (20 − 12) = 16; 3 × (14 − 12) = 6.
    expect(eatenAt(ordersOf("20", "12", steep, "GBP", 5))).toEqual({
      boxes: 3,
      worth: "60.00",
      earned: "6.00",
      before: "16.00",
      loses: false,
      by: "discount",
    });
    const gift = { ...ladder, gift: { from: "20", name: "mini box", cost: "9", massG: 0 } };
    expect(eatenAt(ordersOf("20", "12", gift, "GBP", 5))).toMatchObject({ boxes: 1, by: "gift", loses: true });
  });
});

describe("postage", () => {
  const band = (maxG: number, price: string, more: Partial<Band> = {}): Band => ({
    service: "letter",
    zone: "home",
    maxG,
    maxThickMm: 25,
    price,
    ...more,
  });
  const BANDS = [
    band(100, "1.55"),
    band(250, "2.00"),
    band(750, "2.70"),
    band(2000, "3.60", { service: "parcel", maxThickMm: null }),
    band(100, "4.10", { zone: "away" }),
  ];
  const parcel = (g: number, thickMm = 20) => ({ g, thickMm, longMm: 220, wideMm: 160 });

  test.each([
    [99.9, "1.55"],
    [100, "1.55"],
    [100.1, "2.00"],
    [249.9, "2.00"],
    [250, "2.00"],
    [250.1, "2.70"],
    [750, "2.70"],
    [750.1, "3.60"],
    [2000, "3.60"],
  ])("of %s g is %s", (g, price) => expect(postageFor(BANDS, parcel(g)).band?.price).toBe(price));

  test("goes by thickness and size as well, and none where nothing takes it", () => {
    expect(postageFor(BANDS, parcel(90, 25)).band?.price).toBe("1.55");
    expect(postageFor(BANDS, parcel(90, 25.1)).band?.price).toBe("3.60");
    expect(postageFor(BANDS, parcel(2000.1)).band).toBeNull();
    expect(postageFor([band(100, "1", { maxLongMm: 200 })], parcel(50)).band).toBeNull();
    expect(postageFor(BANDS, parcel(90), "away").band?.price).toBe("4.10");
    expect(postageFor(BANDS, parcel(90), "home", "parcel").band?.price).toBe("3.60");
  });

  test("names the band that it just misses, and what it might be by its ±", () => {
    const { missed, atWorst } = postageFor(BANDS, { ...parcel(264), plusMinus: 500 });
    expect(missed).toMatchObject({ byG: 14, byMm: 0 });
    expect(missed!.saves).toBeCloseTo(0.7);
    expect(atWorst?.price).toBe("3.60");
    expect(postageFor(BANDS, parcel(90, 27)).missed).toMatchObject({ byG: 0, byMm: 2 });
    expect(postageFor(BANDS, parcel(99)).missed).toBeNull();
  });
});

describe("a box's steps", () => {
  const [first] = demoBoxes();
  const terms = (more: Partial<Terms["money"]> = {}, currency = "GBP"): Terms => ({
    currency,
    money: {
      ...MoneyInput.parse({ wage: "14.40", overhead: "0.35", zone: "home", channels: [CHANNEL], ...more }),
      made: {},
    },
    bands: [
      { service: "large letter", zone: "home", maxG: 750, maxThickMm: 25, price: "2.70" },
      { service: "parcel", zone: "home", maxG: 20_000, maxThickMm: null, price: "3.60" },
    ],
  });
  const priced = (detail: BoxDetail): BoxDetail => ({
    ...detail,
    box: { ...detail.box, prices: [{ channel: CHANNEL.id, single: "24", subscription: "22" }] },
  });

  test("of random boxes, lines add up to steps and steps to costs, in currencies of 0, 2 and 3 places", () => {
    const boxes = demoBoxes().map(priced);
    const numbers = fc.array(fc.integer({ min: 0, max: 400 }), { minLength: 8, maxLength: 8 });
    const any = fc.record({
      at: fc.nat(boxes.length - 1),
      numbers,
      currency: fc.constantFrom("JPY", "GBP", "KWD"),
      wage: fc.integer({ min: 0, max: 90_00 }),
      basis: fc.constantFrom("average" as const, "last" as const, "replacement" as const),
    });
    fc.assert(
      fc.property(any, ({ at, numbers, currency, wage, basis }) => {
        const detail = boxes[at]!;
        const variants = detail.box.variants.map((v, i) => ({ ...v, boxes: numbers[i % 8]! }));
        const now = { ...detail, box: { ...detail.box, variants } };
        const bill = billOf(now);
        const places = coinPlaces(currency);
        const found = stepsOf(now, bill, terms({ wage: (wage / 100).toFixed(2), basis }, currency));
        const add = (list: readonly (string | null)[]) =>
          list.reduce((sum, x) => sum.plus(x ?? 0), new Big(0)).toFixed(places);
        const material = costOf(bill, places, basis);
        for (const [i, v] of found.variants.entries()) {
          expect(v.steps.map((s) => s.step)).toEqual(COST_STEPS);
          for (const s of v.steps) expect(s.run).toBe(add(v.lines.filter((l) => l.step === s.step).map((l) => l.cost)));
          expect(v.run).toBe(add(v.steps.map((s) => s.run)));
          // What materials cost is the same as in the bill, however it is shared out to steps.
          expect(add(v.lines.filter((l) => l.component && !l.work).map((l) => l.cost))).toBe(material.variants[i]!.run);
          if (v.boxes === 0) {
            expect(v.perBox).toBeNull();
            continue;
          }
          expect(v.perBox).toBe(new Big(v.run).div(v.boxes).toFixed(places));
          expect(add(v.steps.map((s) => s.perBox))).toBe(v.perBox);
          // No step is off by a coin or more from its own part.
          const coin = 10 ** -places;
          for (const s of v.steps) {
            expect(Math.abs(Number(s.perBox) - Number(s.run) / v.boxes)).toBeLessThanOrEqual(coin);
          }
          const { price, tax, margin } = v.sold!;
          expect(new Big(margin).plus(tax).plus(v.perBox!).toFixed(places)).toBe(price);
        }
        expect(found.run).toBe(add(found.variants.map((v) => v.run)));
      }),
      { numRuns: 25 },
    );
  });

  test("labour is the work × its rates × the wage, the set-up once a run", () => {
    const detail = priced(first!);
    const bill = billOf(detail);
    const found = stepsOf(detail, bill, terms());
    const boxes = found.boxes;
    const setUps = found.variants.flatMap((v) => v.lines.filter((l) => l.work === "set-up"));
    // Half an hour at 14.40 an hour, whichever variants share it.
    expect(setUps.reduce((sum, l) => sum.plus(l.cost!), new Big(0)).toFixed(2)).toBe("7.20");
    const label = found.variants[0]!.lines.find((l) => l.work === "label")!;
    expect(label.seconds).toBe(label.many * 6);
    expect(label.cost).toBe(((label.many * 6 * 14.4) / 3600).toFixed(2));
    const twice = stepsOf(detail, bill, terms({ wage: "28.80" }));
    const labour = (x: typeof found) => x.variants.map((v) => Number(v.steps.find((s) => s.step === "labour")!.run));
    labour(twice).forEach((run, i) => expect(run).toBeCloseTo(2 * labour(found)[i]!, 1));
    expect(boxes).toBeGreaterThan(0);
  });

  test("what is made in the shop costs its minutes as well, by the ledger", () => {
    const detail = priced(first!);
    const bill = billOf(detail);
    const { component, run } = bill.variants[0]!.needs[0]!;
    // A minute and a half apiece at 14.40 an hour: 0.36 each.
    const made = { ...terms(), money: { ...terms().money, made: { [component.id]: 90 } } };
    const line = stepsOf(detail, bill, made).variants[0]!.lines.find((l) => l.work === "made")!;
    expect(line).toMatchObject({ step: "labour", many: run, seconds: 90 * run, cost: (0.36 * run).toFixed(2) });
  });

  test("fees stand in it once, by the price paid with its tax", () => {
    const found = stepsOf(priced(first!), billOf(first!), terms());
    // 3 % of 24.00 and 0.20.
    for (const v of found.variants) expect(v.steps.find((s) => s.step === "fees")!.perBox).toBe("0.92");
    const without = stepsOf(first!, billOf(first!), terms());
    expect(without.variants[0]!.sold).toBeNull();
    expect(without.variants[0]!.steps.find((s) => s.step === "fees")!.run).toBe("0.00");
  });

  test("one too many costs what it cost less what it brings, one too few what is left; worked by hand", () => {
    const step = (name: (typeof COST_STEPS)[number], perBox: string) => ({ step: name, perBox, run: "0.00" });
    const variant = (boxes: number, margin: string, material: string) => ({
      boxes,
      sold: { price: "24.00", tax: "4.00", margin, part: 0 },
      steps: [step("material", material), step("labour", "2.00"), step("postage", "3.00"), step("fees", "1.00")],
    });
    const steps = { boxes: 4, variants: [variant(3, "8.00", "6.00"), variant(1, "4.00", "10.00")] } as never;
    // Parts are 7 on average and work is 2. A quarter is taken apart, 1.75; the rest sell at half of 20, less 3 and 1.
    const found = offByOne(steps, { takenApart: 0.25, sellsAt: 0.5 });
    expect(found).toEqual({ cost: 9, worth: 0.25 * 7 + 0.75 * 6, over: 9 - 6.25, under: 7 });
    expect(offByOne(steps, { takenApart: 0, sellsAt: 0.1 }).worth).toBe(0);
  });

  test("a run is paid for by the box whose share of it is the last, its own postage and fees taken off", () => {
    const found = stepsOf(priced(first!), billOf(first!), terms());
    const runs = (names: string[]) =>
      found.variants.flatMap((v) => v.steps.filter((s) => names.includes(s.step)).map((s) => Number(s.run)));
    const sum = (list: number[]) => list.reduce((a, b) => a + b, 0);
    const spent = sum(runs(["material", "spares", "contents", "packaging", "labour", "overhead"]));
    // 24.00 is 20.00 without tax; 3 % and 0.20 are 0.92.
    const each = 20 - 0.92 - sum(runs(["postage"])) / found.boxes;
    const n = paidForBy(found, "24", CHANNEL, "GBP")!;
    expect(n * each).toBeGreaterThanOrEqual(spent - 1e-6);
    expect((n - 1) * each).toBeLessThan(spent);
    expect(paidForBy(found, "1", CHANNEL, "GBP")).toBeNull();
  });

  test("a dearer colourway names what makes it so", () => {
    const detail = priced(demoBoxes()[3]!);
    const found = stepsOf(detail, billOf(detail), terms());
    const sorted = [...found.variants].sort((a, b) => Number(a.perBox) - Number(b.perBox));
    const dearer = dearerThan(sorted.at(-1)!, sorted[0]!, "GBP")!;
    expect(dearer.more).toBe(new Big(sorted.at(-1)!.perBox!).minus(sorted[0]!.perBox!).toFixed(2));
    expect(Number(dearer.by!.more)).toBeGreaterThan(0);
    expect(dearerThan(sorted[0]!, sorted.at(-1)!, "GBP")).toBeNull();
  });

  test("a what-if changes what it names, and nothing else", () => {
    const detail = priced(first!);
    const before = { detail, terms: terms() };
    const known = new Map(detail.components.map((c) => [c.id, c]));
    const of = ({ detail, terms }: typeof before) => stepsOf(detail, billOf(detail), terms);
    const same = tried(before, [], known);
    expect(same.detail).toBe(detail);
    expect(same.terms).toBe(before.terms);

    const dearer = of(tried(before, [{ what: "price", channel: CHANNEL.id, single: "30" }], known));
    expect(dearer.variants[0]!.sold!.price).toBe("30.00");
    const more = of(tried(before, [{ what: "boxes", boxes: 777 }], known));
    expect(more.boxes).toBe(777);
    const slow = of(tried(before, [{ what: "rate", step: "count", seconds: 100 }], known));
    expect(slow.variants[0]!.seconds).toBeGreaterThan(of(before).variants[0]!.seconds);
    const spare = of(tried(before, [{ what: "spare", rule: "one", add: 9 }], known));
    const sparesOf = (x: typeof spare) => Number(x.variants[0]!.steps.find((s) => s.step === "spares")!.run);
    expect(sparesOf(spare)).toBeGreaterThan(sparesOf(of(before)));
    const pick = detail.box.picks[0]!.component;
    const other = detail.components.find((c) => c.id !== pick && c.baseUnit === known.get(pick)!.baseUnit)!.id;
    const swapped = tried(before, [{ what: "component", component: pick, with: other }], known);
    expect(swapped.detail.box.picks.some((p) => p.component === pick)).toBe(false);
    const sold = known.get(pick)!;
    const offer = { ...sold.offers[0]!, id: id(77), price: "9999" };
    const two = {
      ...detail,
      components: detail.components.map((c) => (c === sold ? { ...c, offers: [...c.offers, offer] } : c)),
    };
    const bought = of(
      tried({ ...before, detail: two }, [{ what: "pack", component: sold.id, offer: offer.id }], known),
    );
    expect(Number(bought.run)).toBeGreaterThan(Number(of(before).run));
  });
});

describe("what is tried", () => {
  const [, apiary] = demoBoxes();
  const box = apiary!.box;
  const channel = id(7);

  test("boxes are shared out as they are now, and come to just so many", () => {
    const numbers = fc.array(fc.nat(300), { minLength: 1, maxLength: 9 });
    fc.assert(
      fc.property(numbers, fc.nat(5000), (boxes, wanted) => {
        const shared = shareBoxes(
          boxes.map((n) => ({ boxes: n })),
          wanted,
        );
        expect(shared.reduce((n, v) => n + v.boxes, 0)).toBe(wanted);
        const all = boxes.reduce((a, b) => a + b, 0);
        if (all > 0)
          shared.forEach((v, i) => expect(Math.abs(v.boxes - (wanted * boxes[i]!) / all)).toBeLessThan(1.01));
      }),
    );
  });

  test("only what is of the box changes it, and twice is once", () => {
    const changes: WhatIfChange[] = [
      { what: "price", channel, single: "31" },
      { what: "boxes", boxes: 99 },
      { what: "component", component: box.contents[0]!.component, with: id(8) },
      { what: "wage", wage: "40" },
      { what: "rate", step: "bag", seconds: 1 },
      { what: "spare", rule: "one", add: 3 },
    ];
    const once = changedBox(box, changes);
    expect(changedBox(once, changes)).toEqual(once);
    expect(once.prices).toContainEqual({ channel, single: "31", subscription: null });
    expect(once.contents[0]!.component).toBe(id(8));
    expect(
      changedBox(
        box,
        changes.filter((c) => !isOfBox(c)),
      ),
    ).toBe(box);
    expect(box.prices.some((p) => p.channel === channel)).toBe(false);
  });

  test("another pack costs what it costs new, whatever was paid before", () => {
    const offer = (n: number, price: string, amount: number) =>
      ({ id: id(n), pack: `pack ${n}`, amount, unit: "piece" as const, price, steps: [], minimum: 1 }) as const;
    const of = component(1, {
      averageCost: "0.09",
      lastCost: "0.08",
      offers: [offer(20, "5", 50), offer(21, "8", 100)] as never,
    });
    const bought = boughtBy(of, id(21));
    expect([bought.averageCost, bought.lastCost, bought.offers[0]!.id]).toEqual(["0.08000000", "0.08000000", id(21)]);
    expect(boughtBy(of, id(99))).toBe(of);
  });
});

test("times at the bench become rates: all steps there by the same factor", () => {
  const work = [
    { step: "count" as const, many: 100 },
    { step: "bag" as const, many: 2 },
    { step: "cut" as const, many: 9 },
  ];
  const rates = MoneyInput.parse({}).rates;
  // By the rates 100 × 1.5 + 2 × 20 = 190 s, cuts not being done there; it took 209 and 171 and 190, so a factor of
  // 1.
  const same = measuredRates(
    [209, 171, 190].map((seconds) => ({ seconds, work })),
    rates,
  )!;
  expect(same.rates.find((r) => r.step === "count")).toMatchObject({ seconds: 1.5, n: 3, from: "measured" });
  expect(same.spread).toBeCloseTo(19);
  const half = measuredRates([{ seconds: 95, work }], rates)!;
  expect(half.rates.find((r) => r.step === "bag")!.seconds).toBe(10);
  expect(measuredRates([], rates)).toBeNull();
});
