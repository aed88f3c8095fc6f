import { randomUUID } from "node:crypto";
import { createServer, request } from "node:http";
import type { AddressInfo } from "node:net";
import { EMPTY_BOX } from "@jar-count/core/box";
import type { ErrorBody } from "@jar-count/core/contract";
import { strToU8, zipSync } from "fflate";
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from "node:fs";
import { tmpdir } from "node:os";
import { join } from "node:path";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { makeApp } from "../src/http/app.ts";
import { TooHeavy } from "../src/queue/index.ts";
import { inReader } from "../src/readers/pool.ts";
import { putRooms, startServer, type TestServer } from "./harness.ts";

/** Who is let in, and what one request can do to the others. */
let server: TestServer;
let site: { url: string; stop: () => void };
const web = mkdtempSync(join(tmpdir(), "jar-count-web-"));
beforeAll(async () => {
  server = await startServer();
  mkdirSync(join(web, "assets"));
  writeFileSync(join(web, "index.html"), "<!doctype html><title>Jar Count</title>");
  const whole = createServer(makeApp(server.databases, web));
  await new Promise<void>((up) => whole.listen(0, "127.0.0.1", up));
  site = { url: `http://127.0.0.1:${(whole.address() as AddressInfo).port}`, stop: () => whole.close() };
});
afterAll(async () => {
  site.stop();
  await server.stop();
  rmSync(web, { recursive: true });
});

interface Answer {
  status: number;
  headers: Record<string, string | string[] | undefined>;
  body: string;
}
/** As any client may ask, with whatever headers: fetch would set some itself. */
const ask = (method: string, path: string, headers: Record<string, string> = {}, body?: string, url = site.url) =>
  new Promise<Answer>((done, fail) => {
    const asked = request(`${url}${path}`, { method, headers }, (res) => {
      let text = "";
      res.setEncoding("utf8").on("data", (part: string) => (text += part));
      res.on("end", () => done({ status: res.statusCode!, headers: res.headers, body: text }));
    });
    asked.on("error", fail);
    asked.end(body);
  });
const codeOf = (answer: Answer) => (JSON.parse(answer.body) as ErrorBody).code;
const JSON_TYPE = { "content-type": "application/json" };
const workshop = (version: number, over: object = {}) =>
  JSON.stringify({ version, workshop: { name: "W", currency: "GBP", publicAddress: "", ...over } });

describe("other sites", () => {
  test("a name that somebody points at this machine is not served, page or data; its own names are", async () => {
    for (const path of ["/", "/api/workshop", "/assets/x.js"]) {
      const answer = await ask("GET", path, { host: "evil.example" });
      expect([path, answer.status, codeOf(answer)]).toEqual([path, 421, "not-ours"]);
    }
    for (const host of ["localhost", "localhost:80", "127.0.0.1:4321", "[::1]:99"])
      expect((await ask("GET", "/api/workshop", { host })).status, host).toBe(200);
    for (const host of ["127.0.0.1.evil.example", "localhost.evil.example", "@127.0.0.1/"])
      expect((await ask("GET", "/api/workshop", { host })).status, host).toBe(421);
  });

  test("a write of another site's page is refused; one of our own page, and of a program, is not", async () => {
    const put = async (headers: Record<string, string>) => {
      const { version } = await server.call("readWorkshop");
      return ask("PUT", "/api/workshop", { ...JSON_TYPE, ...headers }, workshop(version));
    };
    const own = new URL(site.url).host;
    expect((await put({})).status).toBe(200);
    expect((await put({ origin: site.url, "sec-fetch-site": "same-origin" })).status).toBe(200);
    expect((await put({ "sec-fetch-site": "none" })).status).toBe(200);
    for (const headers of [
      { origin: "http://evil.example" },
      { origin: "null" },
      { origin: `http://evil.example/${own}` },
      { "sec-fetch-site": "cross-site" },
      { "sec-fetch-site": "same-site", origin: site.url },
    ]) {
      const answer = await put(headers as Record<string, string>);
      expect([headers, answer.status, codeOf(answer)]).toEqual([headers, 403, "foreign"]);
    }
  });

  test("the address by which others reach the workshop is served from when it is written down", async () => {
    const host = "beads.quarry-lane.example";
    expect((await ask("GET", "/api/workshop", { host })).status).toBe(421);
    const { version } = await server.call("readWorkshop");
    await ask("PUT", "/api/workshop", JSON_TYPE, workshop(version, { publicAddress: `https://${host}` }));
    expect((await ask("GET", "/api/workshop", { host })).status).toBe(200);
    const origin = { ...JSON_TYPE, host, origin: `https://${host}` };
    expect((await ask("PUT", "/api/workshop", origin, workshop(version + 1))).status).toBe(200);
  });

  test("pages are told where they may send forms, and that their base is their own (CSP, level 3)", async () => {
    const policy = String((await ask("GET", "/")).headers["content-security-policy"]);
    for (const rule of ["base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'", "default-src 'self'"])
      expect(policy).toContain(rule);
  });
});

test("what is not there is 404 and what is not done so is 405, in the one error shape", async () => {
  for (const path of ["/assets/none.js", "/favicon-2.png", "/api/none"]) {
    const answer = await ask("GET", path);
    expect([path, answer.status, codeOf(answer)]).toEqual([path, 404, "not-found"]);
    expect(answer.headers["content-type"]).toMatch(/problem\+json/);
  }
  const wrong = await ask("DELETE", "/api/workshop");
  expect([wrong.status, codeOf(wrong), wrong.headers.allow]).toEqual([405, "wrong-method", "GET, PUT"]);
  const posted = await ask("POST", "/designs");
  expect([posted.status, codeOf(posted), posted.headers.allow]).toEqual([405, "wrong-method", "GET, HEAD"]);
  // Addresses of the interface are its one page; a jar's code may have a dot in it.
  for (const path of ["/jars", "/j/R6.5"]) expect((await ask("GET", path)).body, path).toContain("<title>");
});

describe("what can't be kept is refused in its place", () => {
  const input = (over: object) => ({
    version: 0,
    component: { code: "X", name: "x", kind: "bead", colour: "#112233", finish: "matt", baseUnit: "piece", ...over },
  });
  const component = (over: object) => () =>
    server.send<ErrorBody>("PUT", `/api/components/${randomUUID()}`, input(over));
  const order = (over: object) => () =>
    server.send<ErrorBody>("PUT", `/api/orders/${randomUUID()}`, {
      version: 0,
      order: {
        supplier: randomUUID(),
        number: "1",
        placedOn: "2027-02-01",
        currency: "GBP",
        rate: "1",
        lines: [],
        ...over,
      },
    });
  const shop = (over: object) => () => server.send<ErrorBody>("PUT", "/api/workshop", JSON.parse(workshop(1, over)));
  const box = (month: string) => () =>
    server.send<ErrorBody>("PUT", `/api/boxes/${randomUUID()}`, {
      version: 0,
      box: { ...EMPTY_BOX, month, theme: "T" },
    });
  test.each<[string, () => Promise<{ status: number; body: ErrorBody }>, string, RegExp]>([
    ["a NUL sign", component({ name: "a\0b" }), "/component/name", /NUL/],
    ["half of a sign", component({ notes: "a\ud800b" }), "/component/notes", /half of a sign/],
    ["a NUL sign in a field's name", component({ "a\0": 1 }), "/component", /NUL/],
    ["a name without width", component({ name: "\u200b\u2060\ufeff" }), "/component/name", /can be seen/],
    ["a name that only fills", component({ name: "\u3164" }), "/component/name", /can be seen/],
    ["a number without width", order({ number: "\u200b" }), "/order/number", /can be seen/],
    ["a rate of nothing", order({ rate: "0.0000" }), "/order/rate", /more than 0/],
    ["a day of no year", order({ placedOn: "0000-01-01" }), "/order/placedOn", /1900 to 2199/],
    ["a month of no year", box("0000-01"), "/box/month", /1900 to 2199/],
    ["a currency that is none", shop({ currency: "QQQ" }), "/workshop/currency", /no such currency/],
    ["a name of 100 kB", shop({ name: "x".repeat(100_000) }), "/workshop/name", /200 characters/],
    ["a name of 100 kB of spaces", shop({ name: `x${" ".repeat(100_000)}` }), "/workshop/name", /200 characters/],
  ])("%s", async (_what, sent, pointer, detail) => {
    const { status, body } = await sent();
    expect(status).toBe(422);
    expect(body.errors?.find((e) => e.pointer === pointer)?.detail, JSON.stringify(body.errors)).toMatch(detail);
  });
  test("in an address it is the address of nothing, and in what is asked beside it a refusal", async () => {
    expect((await server.send("GET", "/api/components/by-code/a%00b")).status).toBe(404);
    expect((await server.send("GET", "/api/components?since=1%00")).status).toBe(422);
  });
  test("a workshop without a place for what is free is refused, in the lists too", async () => {
    const held = { id: randomUUID(), code: "H", name: "Held", held: true };
    const answer = await putRooms(server, { people: [], suppliers: [], places: [held] });
    expect(answer.body).toMatchObject({ errors: [{ pointer: "/rooms/places" }] });
  });
});

describe("heavy requests", () => {
  /** Asks something while `heavy` is under way: it must be answered first. */
  async function meanwhile(heavy: Promise<{ status: number }>) {
    let over = false;
    const first = heavy.then((answer) => ((over = true), answer));
    const early: boolean[] = [];
    while (!over) {
      await server.call("readWorkshop");
      early.push(!over);
    }
    return { answer: await first, answered: early.filter(Boolean).length };
  }
  const post = async (path: string, body: string | Buffer<ArrayBuffer>, type = "application/json") => {
    const res = await fetch(`${server.url}${path}`, { method: "POST", headers: { "content-type": type }, body });
    return { status: res.status, body: (await res.json()) as ErrorBody };
  };

  test("millions of empty values are counted from their bytes and refused before they are read", async () => {
    const rows = `{"requestKey":"${randomUUID()}","name":"x","rows":[${"{},".repeat(3_000_000)}{}]}`;
    const answer = await post("/api/imports/components", rows);
    expect([answer.status, answer.body.code]).toEqual([413, "too-heavy"]);
    const design = `{"design":{"format":"jar-count/design","version":1,"name":"D","key":[${"0,".repeat(60_000)}0]}}`;
    expect((await post("/api/count", design)).body.code).toBe("too-heavy");
    expect((await post("/api/count", `"${"x".repeat(600_000)}"`)).body.code).toBe("too-large");
  });

  test("a small archive of millions of tiny things is refused before they are read", async () => {
    const tiny = zipSync({
      "workshop.json": strToU8("{}"),
      "boxes/a.json": strToU8(`{"a":[${"{},".repeat(20_000_000)}{}]}`),
    });
    expect(tiny.length).toBeLessThan(300_000);
    const { answer, answered } = await meanwhile(post("/api/archive", Buffer.from(tiny), "application/zip"));
    expect([answer.status, (answer as unknown as { body: ErrorBody }).body.code]).toEqual([413, "too-heavy"]);
    expect(answered).toBeGreaterThan(0);
  });

  test("a count that takes long, and a table of many rows, keep nobody else waiting", async () => {
    const rows = Array.from({ length: 900 }, (_, i) => `${i + 1}A (2A 3A) x9`).join("\n");
    const design = {
      format: "jar-count/design",
      version: 1,
      name: "D",
      key: [{ key: "A", name: "a", kind: "bead", alongMm: 6 }],
      parts: Array.from({ length: 20 }, (_, i) => ({ id: `p${i}`, name: `P${i}`, makes: 1, steps: rows })),
    };
    const counted = await meanwhile(post("/api/count", JSON.stringify({ design })));
    expect(counted.answer.status, JSON.stringify(counted.answer)).toBe(200);
    expect(counted.answered).toBeGreaterThan(0);
    const things = Array.from({ length: 20_000 }, (_, i) => ({ code: `T${i}`, name: `thing ${i}`, kind: "none" }));
    const table = await meanwhile(
      post("/api/imports/components", JSON.stringify({ requestKey: randomUUID(), name: "x", rows: things })),
    );
    expect(table.answer.status).toBe(422);
    expect(table.answered).toBeGreaterThan(0);
  });

  test("work that takes too long is ended, and the next is done", async () => {
    const millions = Buffer.from(`[${"{},".repeat(3_000_000)}{}]`);
    await expect(
      inReader<unknown>((reader) => reader.readTable("components", millions), { seconds: 0.05 }),
    ).rejects.toThrow(TooHeavy);
    expect(await inReader((reader) => reader.ready(), { seconds: 30 })).toBe(true);
  });

  test("labels say how far they are, and stop when nobody waits for them any more", async () => {
    const ids: string[] = [];
    const rows = Array.from({ length: 1900 }, (_, i) => ({
      code: `L${i}`,
      name: `label ${i}`,
      kind: "bead",
      colour: "#112233",
      finish: "matt",
      "base unit": "piece",
    }));
    const key = randomUUID();
    expect((await post("/api/imports/components", JSON.stringify({ requestKey: key, name: "l", rows }))).status).toBe(
      201,
    );
    for (const c of (await server.call("listComponents")).components) ids.push(c.id);
    ids.splice(2000);
    const requestKey = randomUUID();
    const body = JSON.stringify({ requestKey, components: ids, paper: "a4" });
    const stop = new AbortController();
    let ended = "";
    const sheet = fetch(`${server.url}/api/labels`, { method: "POST", headers: JSON_TYPE, body, signal: stop.signal });
    sheet.then(
      (answer) => (ended = `it ended with ${answer.status} before it was seen`),
      () => undefined,
    );
    const seen: { done: number; of: number }[] = [];
    const progress = () => server.send<{ done: number; of: number }>("GET", `/api/labels/${requestKey}`);
    while (!ended && !seen.some((p) => p.done > 0)) {
      const { status, body: now } = await progress();
      if (status === 200) seen.push(now);
    }
    expect(ended).toBe("");
    expect(seen.at(-1)!.of).toBe(ids.length);
    expect(seen.at(-1)!.done).toBeLessThan(ids.length);
    stop.abort();
    await expect(sheet).rejects.toThrow(/abort/);
    while ((await progress()).status !== 404);
  });
});
