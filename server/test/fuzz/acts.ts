import { randomUUID } from "node:crypto";
import {
  addressOf,
  API,
  type BuyList,
  type CommitPlan,
  type Order,
  type Packing,
  ROUTE_NAMES,
  type RouteSpec,
  type Stocktake,
  type Workshop,
  workshopInputOf,
} from "@jar-count/core/contract";
import { EMPTY_BOX } from "@jar-count/core/box";
import { Dice, madeBy, NUMBERS } from "./byContract.ts";
import type { World } from "./world.ts";
import { later } from "../../../core/test/demoDay.ts";

type Act = (w: World, d: Dice) => Promise<unknown>;

const id = (w: World, d: Dice, what: string) => d.one(w.ids[what] ?? [""]) || randomUUID();
const key = () => randomUUID();
const UNITS = ["piece", "mm", "g"] as const;
const amount = (d: Dice) => d.one(NUMBERS.filter((n) => n > 0 && n <= 1e9));
const usual = (d: Dice) => d.one([1, 2, 3, 5, 10, 40, 100, 14.4, 14.3, 0.001, 2.5, 600, 1000]);
const long = (d: Dice) => d.one([1000, 333.333, 333.3333, 600, 9144, 25.4, 0.1, 100_000, 1e8]);
const CODES = ["A1", "a1", "ΑΣ", "ας", "ﬁ", "fi", "B-2", "C_3", "ß", "SS", "R6", "R7", "R8", "R9"];

async function component(w: World, d: Dice) {
  const known = d.often(3) ? id(w, d, "components") : randomUUID();
  const read = await w.send(0, "GET", `/api/components/${known}`);
  const version = read.status === 200 ? (read.body as { component: { version: number } }).component.version : 0;
  const baseUnit = d.one(UNITS);
  const body = {
    requestKey: key(),
    version,
    component: {
      code: d.often(3) ? d.one(CODES) : `T${known.slice(0, 8)}`,
      name: "a thing",
      kind: baseUnit === "mm" ? "stringing" : "bead",
      colour: "#335577",
      finish: "matt",
      baseUnit,
      perGram: d.often(3) ? d.one([115, 0.3]) : null,
      offers: [
        {
          id: version > 0 && d.often(2) ? undefined : randomUUID(),
          supplier: id(w, d, "suppliers"),
          pack: d.one(["pack", "hank"]),
          amount: baseUnit === "piece" ? d.one([10, 50, 1000]) : d.one([100, 14.4, 333.333, 9144, 1000]),
          unit: baseUnit,
          price: d.one(["4.00", "1.25", "0", "999999999"]),
          steps: d.often(3) ? [{ from: 3, price: "3.20" }] : [],
          minimum: d.one([1, 2]),
          leadDays: d.one([null, 5, 60]),
        },
      ].slice(0, d.below(2) + (w.ids.suppliers ? 0 : -1)),
    },
  };
  const { status } = await w.write(d.below(2), "PUT", `/api/components/${known}`, body);
  if (status === 201) w.know("components", known);
}

async function stock(w: World, d: Dice) {
  const of = id(w, d, "components");
  const kind = d.one(["received", "received", "received", "used", "broken", "returned", "counted", "counted"]);
  const more =
    kind === "counted"
      ? { quantity: d.often(4) ? 0 : amount(d), u: d.one([0, 0, 1.5]) }
      : { quantity: d.often(3) ? amount(d) : usual(d), cost: d.one([null, "4.20", "999999999.9999", "0"]) };
  const sent = await w.write(d.below(2), "POST", `/api/components/${of}/stock`, {
    requestKey: key(),
    kind,
    place: d.often(5) ? null : id(w, d, "places"),
    lot: d.one(["", "", "7"]),
    stretchMm: d.often(2) ? long(d) : null,
    ...more,
  });
  if (sent.status === 201) {
    const { movements } = sent.body as { movements: { entry: string }[] };
    if (movements[0]) w.know("entries", movements[0].entry);
  }
}

const across: Act = (w, d) => {
  const of = id(w, d, "components");
  const where = { place: id(w, d, "places"), lot: d.one(["", "7"]), stretchMm: d.often(2) ? long(d) : null };
  const body = d.one<object>([
    { kind: d.one(["moved", "held back"]), to: id(w, d, "places"), quantity: usual(d) },
    { kind: "cut", cutMm: d.one([333.333, 0.1, 100, 600, 25.4]), count: d.one([1, 3, 100_000]) },
    { kind: "made", quantity: usual(d), minutes: 5, from: [{ component: id(w, d, "components"), quantity: usual(d) }] },
  ]);
  return w.write(d.below(2), "POST", `/api/components/${of}/stock`, { requestKey: key(), ...where, ...body });
};

const reverse: Act = (w, d) =>
  w.write(d.below(2), "POST", `/api/entries/${d.one(w.ids.entries ?? ["1"])}/reverse`, { requestKey: key() });

const aside: Act = async (w, d) => {
  const of = id(w, d, "components");
  const cutMm = d.often(2) ? d.one([100, 333.333, 600]) : null;
  const asked = { requestKey: key(), purpose: "a class", quantity: usual(d), cutMm };
  const { status, body } = await w.write(d.below(2), "POST", `/api/components/${of}/aside`, asked);
  const held = status === 201 ? (body as { setAside: { id: string }[] }).setAside : [];
  if (held[0] && d.often(2))
    await w.write(d.below(2), "DELETE", `/api/components/${of}/aside/${held[0].id}`, undefined);
};

async function rooms(w: World, d: Dice) {
  const { body } = await w.send(0, "GET", "/api/rooms");
  const { version, ...now } = body as { version: number; people: Item[]; suppliers: Item[]; places: Item[] };
  interface Item {
    id: string;
    name: string;
    code?: string;
    held?: boolean;
  }
  const grown = {
    people: [...now.people, ...(now.people.length < 3 ? [{ id: randomUUID(), name: "Wren" }] : [])],
    suppliers: [...now.suppliers, ...(now.suppliers.length < 2 ? [{ id: randomUUID(), name: "Lowfold" }] : [])],
    places: [
      ...now.places,
      ...(now.places.length < 4
        ? [{ id: randomUUID(), code: `P${now.places.length}`, name: "A", held: d.often(3) }]
        : []),
    ],
  };
  // Two places swap their codes; somebody is there twice; somebody goes.
  if (d.often(3) && grown.places.length > 1) {
    const [a, b] = grown.places as [Item, Item];
    grown.places = [{ ...a, code: b.code! }, { ...b, code: a.code! }, ...grown.places.slice(2)];
  }
  if (d.often(6)) grown.people = [...grown.people, grown.people[0]!];
  if (d.often(6)) grown.people = grown.people.slice(1);
  if (d.often(8)) grown.suppliers = grown.suppliers.slice(1);
  if (d.often(8)) grown.places = grown.places.slice(1);
  const { status } = await w.write(d.below(2), "PUT", "/api/rooms", { requestKey: key(), version, rooms: grown });
  if (status !== 200) return;
  for (const what of ["people", "suppliers", "places"] as const) w.ids[what] = grown[what].map((x) => x.id);
}

async function workshop(w: World, d: Dice) {
  const { body } = await w.send(0, "GET", "/api/workshop");
  const { version } = body as Workshop;
  const now = workshopInputOf(body as Workshop);
  const change = d.one<object>([{ currency: d.one(["GBP", "JPY", "EUR"]) }, { name: "Another" }, { spares: [] }]);
  await w.write(d.below(2), "PUT", "/api/workshop", { requestKey: key(), version, workshop: { ...now, ...change } });
}

async function money(w: World, d: Dice) {
  const { body } = await w.send(0, "GET", "/api/money");
  const { version, made: _made, ...now } = body as { version: number; made: object; channels: { id: string }[] };
  const channel = { id: randomUUID(), name: "Web", feeRate: 0.1, feeFixed: "0.20", taxRate: 0.2, discounts: [] };
  const channels = d.often(3) ? [] : now.channels.length > 0 ? now.channels : [channel];
  const asked = { ...now, wage: d.one(["0", "15.00"]), channels };
  const { status } = await w.write(d.below(2), "PUT", "/api/money", { requestKey: key(), version, money: asked });
  if (status === 200) w.ids.channel = channels.map((c) => c.id);
}

async function order(w: World, d: Dice) {
  const known = d.often(3) ? id(w, d, "orders") : randomUUID();
  const read = await w.send(0, "GET", `/api/orders/${known}`);
  const before = read.status === 200 ? (read.body as Order) : null;
  const lines = (before?.lines ?? []).map((l) => ({ ...l, ...(d.often(3) ? { quantity: usual(d) } : {}) }));
  if (d.often(2) || lines.length === 0) {
    const quantity = d.often(4) ? amount(d) : usual(d);
    lines.push({
      id: randomUUID(),
      component: id(w, d, "components"),
      pack: "pack",
      packs: d.one([1, 3, 7]),
      quantity,
      price: d.one(["5.00", "999999999.9999"]),
      due: d.one([null, "2026-01-31", later("2030-05-01")]),
      pieceMm: d.often(3) ? long(d) : null,
    });
  }
  if (d.often(8)) lines.shift();
  const { status } = await w.write(d.below(2), "PUT", `/api/orders/${known}`, {
    requestKey: key(),
    version: before?.version ?? 0,
    order: {
      supplier: before?.supplier ?? id(w, d, "suppliers"),
      number: "L-1",
      placedOn: later("2030-01-01"),
      currency: d.one(["GBP", "JPY"]),
      rate: d.one(["1", "0.0052"]),
      lines,
    },
  });
  if (status === 201) w.know("orders", known);
}

async function receive(w: World, d: Dice) {
  const of = id(w, d, "orders");
  const read = await w.send(0, "GET", `/api/orders/${of}`);
  if (read.status !== 200) return;
  const { lines, received, version } = read.body as Order;
  const came = lines.flatMap((l) => {
    const open = l.quantity - (received[l.id] ?? 0);
    const quantity = d.one([open, open / 2, l.quantity, usual(d)]);
    return quantity > 0
      ? [{ line: l.id, quantity: Math.round(quantity * 1000) / 1000 || 1, lot: d.one(["", "9"]) }]
      : [];
  });
  if (came.length === 0) return;
  const sent = await w.write(d.below(2), "POST", `/api/orders/${of}/receive`, {
    requestKey: key(),
    version: d.often(3) ? version : null,
    lines: came,
    freight: d.one(["0", "3.33"]),
  });
  if (sent.status !== 201) return;
  const jar = await w.send(0, "GET", `/api/components/${lines[0]!.component}`);
  const { movements } = jar.body as { movements: { entry: string; kind: string }[] };
  const last = movements.find((m) => m.kind === "received");
  if (last) w.know("entries", last.entry);
}

async function buy(w: World, d: Dice) {
  const { status, body } = await w.send(d.below(2), "GET", "/api/buy");
  if (status !== 200) return;
  const { lines, today } = body as BuyList;
  const wanted = lines.filter((l) => l.chosen.some((c) => c.supplier)).slice(0, 4);
  const supplier = wanted[0]?.chosen.find((c) => c.supplier)?.supplier;
  if (!supplier) return;
  const orderId = randomUUID();
  const sent = await w.write(d.below(2), "POST", "/api/orders", {
    requestKey: key(),
    placedOn: today,
    orders: [
      {
        id: orderId,
        supplier,
        number: "B-1",
        lines: wanted.flatMap((l) =>
          l.chosen
            .filter((c) => c.supplier === supplier)
            .map(({ offer, packs, amount: brings, price }) => ({
              ...{ id: randomUUID(), component: l.component, offer, packs, price },
              amount: brings,
            })),
        ),
      },
    ],
    lacks: wanted.map((l) => ({
      component: l.component,
      boxes: l.boxes.map(({ box, quantity }) => ({ box, quantity })),
    })),
  });
  if (sent.status === 201) w.know("orders", orderId);
}

async function box(w: World, d: Dice) {
  const known = d.often(3) ? id(w, d, "boxes") : randomUUID();
  const read = await w.send(0, "GET", `/api/boxes/${known}`);
  const before = read.status === 200 ? (read.body as { box: typeof EMPTY_BOX & { version: number } }).box : null;
  const {
    id: _id,
    version = 0,
    ...now
  } = (before ?? { ...EMPTY_BOX, version: 0 }) as typeof EMPTY_BOX & {
    id?: string;
    version: number;
  };
  const colourways =
    now.colourways.length > 0 ? [...now.colourways] : [1, 2].map((n) => ({ id: randomUUID(), name: `C${n}` }));
  if (d.often(5)) colourways.shift();
  const first = colourways.map((c) => c.id);
  const contents = [...now.contents.filter((c) => !c.first || first.includes(c.first))];
  if (d.often(2) || contents.length === 0) {
    const quantity = d.often(6) ? amount(d) : usual(d);
    contents.push({
      id: randomUUID(),
      component: id(w, d, "components"),
      first: null,
      quantity,
      pack: null,
      spare: null,
    });
  }
  if (d.often(5)) contents.shift();
  const next = {
    ...now,
    month: d.often(5) ? later("2031-12") : now.month || later("2030-05"),
    theme: now.theme || "Glaze Shelf",
    packBy: d.one([null, later("2030-02-20"), "2026-01-31"]),
    colourways,
    contents,
    variants: first.map((f) => ({
      ...now.variants.find((v) => v.first === f),
      ...{ first: f, second: null },
      boxes: d.one([0, 1, 2, 3, 5, 1_000_000]),
    })),
    prices: (w.ids.channel ?? []).map((channel) => ({ channel, single: "24.00", subscription: null })),
  };
  const sent = await w.write(d.below(2), "PUT", `/api/boxes/${known}`, { requestKey: key(), version, box: next });
  if (sent.status === 201) w.know("boxes", known);
}

async function takeOutBox(w: World, d: Dice) {
  const of = id(w, d, "boxes");
  const read = await w.send(0, "GET", `/api/boxes/${of}`);
  if (read.status !== 200) return;
  const { version } = (read.body as { box: { version: number } }).box;
  await w.write(d.below(2), "DELETE", `/api/boxes/${of}?version=${version}`, undefined);
}

async function commit(w: World, d: Dice) {
  const of = id(w, d, "boxes");
  if (d.often(5)) return w.write(d.below(2), "POST", `/api/boxes/${of}/take-back`, { requestKey: key() });
  const read = await w.send(d.below(2), "GET", `/api/boxes/${of}/commit`);
  if (read.status !== 200) return;
  const { version, lacking, seen } = read.body as CommitPlan;
  return w.write(d.below(2), "POST", `/api/boxes/${of}/commit`, {
    ...{ requestKey: key(), version, lacking },
    seen: d.often(3) ? null : seen,
  });
}

async function packing(w: World, d: Dice) {
  const of = id(w, d, "boxes");
  const read = await w.send(d.below(2), "GET", `/api/boxes/${of}/packing`);
  if (read.status !== 200) return commit(w, d);
  const { of: bill, needs, stands, told } = read.body as Packing;
  const variant = d.one(bill.variants.filter((v) => v.boxes > 0));
  if (!variant) return;
  const need = d.one(needs.filter((n) => n.variant === variant.id));
  const post = (path: string, body: object) =>
    w.write(d.below(2), "POST", `/api/boxes/${of}/${path}`, { requestKey: key(), ...body });
  const what = d.below(13);
  const no = 1 + d.below(Math.min(6, variant.boxes));
  if (what < 5) {
    const tap = () => post("packed", { variant: variant.id, no, packed: true });
    return d.often(3) ? Promise.all([tap(), tap()]) : tap();
  }
  if (what === 5) return post("packed", { variant: variant.id, no, packed: false });
  if (what === 6) return d.often(4) ? post("stop", {}) : post("close", {});
  if (what === 7 && told[0]) return post(`told/${d.one(told).entry}/take-back`, {});
  if (!need) return;
  const { component: c, cutMm } = need;
  const quantity = usual(d);
  if (what === 8)
    return post("told", { kind: d.one(["broken", "lost"]), variant: variant.id, component: c, cutMm, quantity });
  if (what < 11) {
    const instead = id(w, d, "components");
    return post("told", { kind: "swapped", variant: variant.id, component: c, cutMm, quantity: 1, with: instead });
  }
  const stand = d.one(stands.filter((s) => s.component === c));
  if (!stand) return;
  const at = { component: c, place: stand.place, lot: stand.lot };
  if (what === 11 && cutMm !== null) {
    return post("cuts", { ...at, fromMm: stand.stretchMm, cuts: [{ mm: cutMm, count: d.one([1, 2]) }] });
  }
  return post("told", { kind: "counted", ...at, stretchMm: d.often(3) ? long(d) : stand.stretchMm || null, quantity });
}

async function stocktake(w: World, d: Dice) {
  const known = d.often(2) ? id(w, d, "stocktakes") : randomUUID();
  const begun = await w.write(d.below(2), "PUT", `/api/stocktakes/${known}`, undefined);
  if (begun.status !== 201) return;
  if (!w.ids.stocktakes?.includes(known)) w.know("stocktakes", known);
  const line = {
    component: id(w, d, "components"),
    place: id(w, d, "places"),
    lot: d.one(["", "7"]),
    stretchMm: d.often(2) ? long(d) : null,
    how: d.one(["counted", "weighed", "skipped"]),
    counted: d.often(3) ? 0 : amount(d),
    u: 0,
  };
  await w.write(d.below(2), "PUT", `/api/stocktakes/${known}/line`, line);
  const read = await w.send(0, "GET", `/api/stocktakes/${known}`);
  const lines = (read.body as Stocktake).lines
    .filter((l) => !l.posted && l.how !== "skipped")
    .map(({ component: c, place, lot, stretchMm, counted }) => ({ component: c, place, lot, stretchMm, counted }));
  if (lines.length === 0) return;
  await w.write(d.below(2), "POST", `/api/stocktakes/${known}/post`, { requestKey: key(), lines });
}

async function table(w: World, d: Dice) {
  const kind = d.one(["components", "deliveries", "counts", "sales", "offers"]);
  const { body } = await w.send(0, "GET", "/api/components");
  const codes = (body as { components: { code: string }[] }).components.map((c) => c.code);
  const boxes = (await w.send(0, "GET", "/api/boxes")).body as {
    theme: string;
    month: string;
    colourways: { name: string }[];
  }[];
  const rows = Array.from({ length: 1 + d.below(5) }, (_, i): Record<string, string> => {
    const code = d.one([...codes, "NEW", "ΑΣ", "ας"]);
    const quantity = d.one(["1", "14.4", "0.0004", "1000000000", "3"]);
    if (kind === "components") return { code: `${code}`, name: "by table", unit: d.one(["piece", "g", "mm", ""]) };
    if (kind === "offers") return { code, pack: "pack", "pack holds": "10", price: "2.50" };
    if (kind === "sales") {
      const of = d.one(boxes);
      const colourway = of ? (d.one(of.colourways)?.name ?? "") : "";
      return {
        order: `Q${d.below(5)}`,
        line: String(i),
        day: later("2030-03-02"),
        box: of?.theme ?? "Salt",
        month: of?.month ?? later("2030-05"),
        colourway,
        quantity: d.one(["1", "-1", "2"]),
        paid: "24.00",
      };
    }
    return { code, quantity, "piece length": d.often(2) ? "333.333mm" : "" };
  });
  await w.write(d.below(2), "POST", `/api/imports/${kind}`, { requestKey: key(), name: "t.csv", decimal: ".", rows });
}

const DESIGN = {
  format: "jar-count/design",
  version: 1,
  name: "Strand",
  key: [{ key: "A", name: "round", kind: "bead", alongMm: 6 }],
  parts: [{ id: "p1", name: "Strand", makes: 1, steps: "12A" }],
};
async function design(w: World, d: Dice) {
  const known = d.often(2) ? id(w, d, "designs") : randomUUID();
  const read = await w.send(0, "GET", `/api/designs/${known}`);
  const revision = read.status === 200 ? (read.body as { revision: number }).revision : 0;
  const steps = d.one(["12A", "(3A) x4", "7A"]);
  const asked = { ...DESIGN, parts: [{ ...DESIGN.parts[0]!, steps }] };
  const { status } = await w.write(d.below(2), "PUT", `/api/designs/${known}`, {
    ...{ requestKey: key(), revision, reason: "" },
    design: asked,
  });
  if (status === 201) w.know("designs", known);
  if (d.often(4)) await w.write(0, "PUT", `/api/designs/${known}/archived`, { archived: d.often(2) });
}

/** Any write of the table, made by its contract alone. */
const BY_CONTRACT = ROUTE_NAMES.filter((name) => {
  const spec: RouteSpec = API[name];
  return spec.method !== "get" && typeof spec.body !== "string" && !spec.raw && name !== "seeInvented";
});
const anything: Act = (w, d) => {
  const name = d.one(BY_CONTRACT);
  const spec: RouteSpec = API[name];
  const idOf = (field: string) => {
    const kinds: Record<string, string> = {
      component: "components",
      with: "components",
      place: "places",
      to: "places",
    };
    const more: Record<string, string> = { person: "people", supplier: "suppliers", box: "boxes", designId: "designs" };
    const kind = kinds[field] ?? more[field];
    return kind && !d.often(8) ? id(w, d, kind) : randomUUID();
  };
  const params = Object.fromEntries(
    Object.keys(spec.params ?? {}).map((p) => [
      p,
      p === "id" ? id(w, d, spec.path.split("/")[1]!) : p === "entry" ? "1" : randomUUID(),
    ]),
  );
  const body = spec.body ? madeBy(spec.body as never, d, idOf) : undefined;
  const query = spec.query ? { version: 1 } : {};
  return w.write(d.below(2), spec.method.toUpperCase(), addressOf(name, params, query), body);
};

/** Something heavy is asked for, and nobody waits for it. */
const gone: Act = (w, d) => {
  const of = id(w, d, "boxes");
  const ms = d.one([1, 5, 20, 60]);
  const [method, path, body] = d.one<[string, string, unknown?]>([
    ["GET", `/api/boxes/${of}/commit`],
    ["GET", `/api/boxes/${of}/contents.pdf`],
    ["GET", `/api/boxes/${of}/cost`],
    ["GET", "/api/archive"],
    ["GET", "/api/ahead"],
    ["POST", "/api/fit", { design: DESIGN }],
    ["POST", "/api/count", { design: DESIGN }],
  ]);
  return w.abort(d.below(2), ms, method, path, body);
};

/** A write is sent again as it was: what was done is done, and nothing is done twice. */
const again: Act = async (w, d) => {
  const before = d.one(w.kept);
  if (before) await w.send(d.below(2), before.method, before.path, before.body);
};

const together: Act = (w, d) => {
  const clients = Array.from({ length: 2 + d.below(3) }, () => [1, 2, 3, 4, 5, 6, 7, 8].map(() => d.below(10_000)));
  return Promise.all(clients.map((rolls) => act(w, new Dice(rolls), false)));
};

/** What is done, each so often. */
const ACTS: readonly [often: number, act: Act][] = [
  [8, component],
  [16, stock],
  [7, across],
  [5, reverse],
  [3, aside],
  [4, rooms],
  [2, workshop],
  [2, money],
  [7, order],
  [6, receive],
  [3, buy],
  [9, box],
  [1, takeOutBox],
  [9, commit],
  [16, packing],
  [4, stocktake],
  [3, table],
  [2, design],
  [8, anything],
  [2, gone],
  [4, again],
  [1, (w) => w.cut()],
];
const ALL = ACTS.reduce((sum, [often]) => sum + often, 0);

/** One thing that happens, as the dice say. */
export async function act(w: World, d: Dice, alone = true): Promise<void> {
  if (alone && d.often(6)) return void (await together(w, d));
  let at = d.below(ALL);
  for (const [often, what] of ACTS) {
    at -= often;
    if (at < 0) return void (await what(w, d));
  }
}

/** What every workshop begins with: otherwise most of what follows names nothing. */
export async function begin(w: World): Promise<void> {
  for (const roll of [0, 1, 2]) await rooms(w, new Dice([roll * 7 + 1, 5, 5, 5, 5, 5]));
  for (const rolls of [
    [1, 4, 2, 3],
    [2, 5, 1, 7],
    [5, 3, 4, 1],
    [7, 1, 9, 2],
  ])
    await component(w, new Dice(rolls));
}
