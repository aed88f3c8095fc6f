import { randomUUID } from "node:crypto";
import type { ErrorBody } from "@jar-count/core/contract";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { startServer, type TestServer } from "./harness.ts";

let server: TestServer;
beforeAll(async () => {
  server = await startServer();
});
afterAll(() => server.stop());

const id = () => randomUUID();
const component = {
  code: "R6",
  name: "6 mm round",
  kind: "bead",
  colour: "#aa5533",
  finish: "matt",
  baseUnit: "piece",
};
const order = {
  supplier: id(),
  number: "1",
  placedOn: "2027-02-01",
  currency: "GBP",
  rate: "1",
  note: "",
  lines: [{ id: id(), component: id(), pack: "p", packs: 1, quantity: 1, price: "1" }],
};

/** A body that is wrong in one way, where it says so, and what it says. */
const WRONG: [what: string, method: string, path: () => string, body: object, pointer: string, says: RegExp][] = [
  [
    "a component's code with a space",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, code: "R 6" } },
    "/component/code",
    /letters, digits/,
  ],
  [
    "a colour by name",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, colour: "honey" } },
    "/component/colour",
    /#rrggbb/,
  ],
  [
    "a kind nobody knows",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, kind: "gadget" } },
    "/component/kind",
    /^Write one of: bead, focal/,
  ],
  [
    "a length as text",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, holeMm: "wide" } },
    "/component/holeMm",
    /^Write a number/,
  ],
  [
    "a name that is missing",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, name: undefined } },
    "/component/name",
    /^This is missing/,
  ],
  [
    "a field nobody knows",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, weight: 3 } },
    "/component",
    /no field called weight/,
  ],
  [
    "half a piece in a pack",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, offers: [{ pack: "p", amount: 2.5, unit: "piece", price: "1" }] } },
    "/component/offers/0/amount",
    /whole number/,
  ],
  [
    "a price with a sign",
    "PUT",
    () => `/api/components/${id()}`,
    { version: 0, component: { ...component, offers: [{ pack: "p", amount: 2, unit: "piece", price: "£1" }] } },
    "/component/offers/0/price",
    /such as 4 or 4\.20/,
  ],
  [
    "steps from many to few",
    "PUT",
    () => `/api/components/${id()}`,
    {
      version: 0,
      component: {
        ...component,
        offers: [
          {
            pack: "p",
            amount: 2,
            unit: "piece",
            price: "1",
            steps: [
              { from: 9, price: "1" },
              { from: 5, price: "1" },
            ],
          },
        ],
      },
    },
    "/component/offers/0/steps",
    /few packs to many/,
  ],
  [
    "nothing used",
    "POST",
    () => `/api/components/${id()}/stock`,
    { requestKey: id(), kind: "used", quantity: 0 },
    "/quantity",
    /More than 0/,
  ],
  [
    "a reason nobody knows",
    "POST",
    () => `/api/components/${id()}/stock`,
    { requestKey: id(), kind: "vanished", quantity: 1 },
    "/kind",
    /./,
  ],
  [
    "a count below nothing",
    "POST",
    () => `/api/components/${id()}/stock`,
    { requestKey: id(), kind: "counted", quantity: -1 },
    "/quantity",
    /Not below 0/,
  ],
  [
    "something made of nothing",
    "POST",
    () => `/api/components/${id()}/stock`,
    { requestKey: id(), kind: "made", quantity: 1, from: [] },
    "/from",
    /what it was made of/,
  ],
  [
    "a request without its key",
    "POST",
    () => `/api/components/${id()}/stock`,
    { kind: "used", quantity: 1 },
    "/requestKey",
    /not an id/,
  ],
  [
    "set aside for nobody",
    "POST",
    () => `/api/components/${id()}/aside`,
    { requestKey: id(), purpose: " ", quantity: 1 },
    "/purpose",
    /Give it a name/,
  ],
  [
    "a currency of four letters",
    "PUT",
    () => `/api/orders/${id()}`,
    { version: 0, order: { ...order, currency: "POUN" } },
    "/order/currency",
    /Three capital letters/,
  ],
  [
    "a date of another kind",
    "PUT",
    () => `/api/orders/${id()}`,
    { version: 0, order: { ...order, placedOn: "1 Feb" } },
    "/order/placedOn",
    /2027-04-01/,
  ],
  [
    "an order of nothing",
    "PUT",
    () => `/api/orders/${id()}`,
    { version: 0, order: { ...order, lines: [] } },
    "/order/lines",
    /at least one line/,
  ],
  [
    "half a pack",
    "PUT",
    () => `/api/orders/${id()}`,
    { version: 0, order: { ...order, lines: [{ ...order.lines[0], packs: 0.5 }] } },
    "/order/lines/0/packs",
    /whole number/,
  ],
  [
    "no places at all",
    "PUT",
    () => "/api/rooms",
    { version: 1, rooms: { people: [], suppliers: [], places: [] } },
    "/rooms/places",
    /at least one place/,
  ],
  [
    "an address that is none",
    "PUT",
    () => "/api/workshop",
    { version: 1, workshop: { name: "W", currency: "GBP", publicAddress: "my shed" } },
    "/workshop/publicAddress",
    /http:\/\/192/,
  ],
  [
    "a table of nothing",
    "POST",
    () => "/api/imports/components",
    { requestKey: id(), name: "x.csv", rows: [] },
    "/rows",
    /no rows/,
  ],
  [
    "labels for no jar",
    "POST",
    () => "/api/labels",
    { components: [], paper: "a4" },
    "/components",
    /at least one jar/,
  ],
  [
    "paper nobody sells",
    "POST",
    () => "/api/labels",
    { components: [id()], paper: "a7" },
    "/paper",
    /^Write one of: a4, letter/,
  ],
  [
    "a month of 13",
    "PUT",
    () => `/api/boxes/${id()}`,
    {
      version: 0,
      box: {
        month: "2027-13",
        theme: "x",
        lines: [],
        colourways: [],
        seconds: [],
        variants: [],
        roles: [],
        bindings: [],
        picks: [],
      },
    },
    "/box/month",
    /2027-04/,
  ],
  [
    "a design without parts",
    "PUT",
    () => `/api/designs/${id()}`,
    { revision: 0, design: { format: "jar-count/design", version: 1, name: "x", key: [] } },
    "/design/parts",
    /missing/,
  ],
];

describe("what is wrong is said in its place, in plain words, with what to write instead", () => {
  test.each(WRONG)("%s", async (_, method, path, body, pointer, says) => {
    const answer = await server.send<ErrorBody>(method, path(), body);
    expect(answer.status).toBe(422);
    const found = answer.body.errors!.find((e) => e.pointer === pointer);
    expect(found?.detail, JSON.stringify(answer.body.errors)).toMatch(says);
    for (const e of answer.body.errors!) {
      expect(e.detail).not.toMatch(/invalid input|expected (string|number|array|object)|received|zod|regex|pattern/i);
      expect(e.detail).toMatch(/[.…]$/);
    }
    expect(answer.body.detail).toMatch(/[Nn]othing was|mend/);
  });
  test("and nothing of it was written", async () => {
    for (const table of ["components", "entries", "movements", "orders", "designs", "boxes", "reservations"]) {
      expect((await server.db.query(`select count(*)::int as n from ${table}`)).rows[0], table).toEqual({ n: 0 });
    }
  });
});
