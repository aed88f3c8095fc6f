import { randomUUID } from "node:crypto";
import { EMPTY_BOX } from "@jar-count/core/box";
import {
  type BillAnswer,
  type BoxInput,
  type CommitPlan,
  type ComponentDetail,
  type ErrorBody,
  type Order,
  type Run,
  type SavedBox,
  workshopInputOf,
} from "@jar-count/core/contract";
import { expect } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { putRooms, startServer, type TestServer } from "./harness.ts";
import { later } from "../../core/test/demoDay.ts";

export type Shop = Awaited<ReturnType<typeof openShop>>;

/** A workshop of one supplier and two places, with the moves that tests of boxes and stock are made of. */
export async function openShop() {
  const server: TestServer = await startServer();
  const [SUPPLIER, A, B] = [randomUUID(), randomUUID(), randomUUID()];
  const WREN = randomUUID();
  await putRooms(server, {
    people: [{ id: WREN, name: "Wren" }],
    suppliers: [{ id: SUPPLIER, name: "Lowfold", leadDays: 10 }],
    places: [
      { id: A, code: "A", name: "Drawers" },
      { id: B, code: "B", name: "Shelf" },
    ],
  });
  // What is put in to spare is not the question here.
  const found = await server.call("readWorkshop");
  const workshop = { ...workshopInputOf(found), spares: [], ruler: "mm" as const };
  await server.call("saveWorkshop", { body: { version: found.version, workshop } });

  let made = 0;
  async function component(more: object = {}): Promise<string> {
    const id = randomUUID();
    made++;
    await server.call("saveComponent", {
      params: { id },
      body: {
        version: 0,
        component: {
          code: `R${made}`,
          name: `thing ${made}`,
          kind: "bead",
          colour: "#335577",
          finish: "matt",
          baseUnit: "piece",
          ...more,
        },
      },
    });
    return id;
  }
  const stock = (id: string, kind: "received" | "broken", quantity: number, more: object = {}) =>
    server.call("moveStock", {
      params: { id },
      body: { requestKey: randomUUID(), kind, place: A, quantity, ...more },
    });
  const jar = (id: string): Promise<ComponentDetail> => server.call("readComponent", { params: { id } });

  /** A box that holds so many of a component, in one colourway. */
  async function box(
    component: string,
    quantity: number,
    boxes: number,
    more: Partial<BoxInput> = {},
  ): Promise<string> {
    const [id, colourway] = [randomUUID(), randomUUID()];
    const saved = await server.send<SavedBox>("PUT", `/api/boxes/${id}`, {
      version: 0,
      box: {
        ...EMPTY_BOX,
        month: later("2030-05"),
        theme: `Box ${id.slice(0, 4)}`,
        colourways: [{ id: colourway, name: "Moss" }],
        variants: [{ first: colourway, second: null, boxes }],
        contents: [{ id: randomUUID(), component, first: null, quantity, pack: null }],
        ...more,
      },
    });
    expect(saved.status).toBe(201);
    return id;
  }
  const plan = (id: string): Promise<CommitPlan> => server.call("planCommit", { params: { id } });
  const commit = async (id: string, of?: CommitPlan) => {
    const { version, lacking } = of ?? (await plan(id));
    return server.send<Run & ErrorBody>("POST", `/api/boxes/${id}/commit`, {
      requestKey: randomUUID(),
      version,
      lacking,
    });
  };
  const takeBack = (id: string) =>
    server.send<Run & ErrorBody>("POST", `/api/boxes/${id}/take-back`, { requestKey: randomUUID() });
  const bill = async (id: string) =>
    (await server.call("readBill", { params: { id } })).variants[0]!.lines[0] as BillAnswer["variants"][0]["lines"][0];
  const change = async (id: string, edit: (b: BoxInput) => BoxInput) => {
    const { id: _id, version, ...now } = (await server.call("readBox", { params: { id } })).box;
    const { status } = await server.send("PUT", `/api/boxes/${id}`, { version, box: edit(now) });
    expect(status).toBe(200);
  };
  const order = async (component: string, quantity: number, due: string | null, more: object = {}): Promise<Order> =>
    server.call("saveOrder", {
      params: { id: randomUUID() },
      body: {
        version: 0,
        order: {
          supplier: SUPPLIER,
          number: `L-${randomUUID().slice(0, 4)}`,
          placedOn: later("2030-01-01"),
          currency: "GBP",
          rate: "1",
          lines: [{ id: randomUUID(), component, pack: "pack", packs: 1, quantity, price: "5", due, ...more }],
        },
      },
    });
  const receive = (of: Order, quantity: number) =>
    server.send<Order>("POST", `/api/orders/${of.id}/receive`, {
      requestKey: randomUUID(),
      place: A,
      lines: [{ line: of.lines[0]!.id, quantity }],
    });
  const right = async () => expect(await balancesThatDiffer(server.owner)).toEqual([]);

  return {
    server,
    SUPPLIER,
    A,
    B,
    WREN,
    component,
    stock,
    jar,
    box,
    plan,
    commit,
    takeBack,
    bill,
    change,
    order,
    receive,
    right,
    stop: () => server.stop(),
  };
}
