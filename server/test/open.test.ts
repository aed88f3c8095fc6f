import { randomUUID } from "node:crypto";
import { emptyArchive, readArchive, writeArchive } from "@jar-count/core/archive";
import { API, type Archive, type ComponentList, ROUTE_NAMES } from "@jar-count/core/contract";
import { Validator } from "@seriousme/openapi-schema-validator";
import { Ajv } from "ajv";
import { parse } from "csv-parse/sync";
import { strFromU8, strToU8, unzipSync, zipSync } from "fflate";
import { afterAll, beforeAll, describe, expect, test } from "vitest";
import { balancesThatDiffer } from "../src/store/ledger.ts";
import { startServer, type TestServer } from "./harness.ts";

let demo: TestServer;
let empty: TestServer;
beforeAll(async () => {
  [demo, empty] = await Promise.all([startServer({ demo: true }), startServer()]);
});
afterAll(() => Promise.all([demo.stop(), empty.stop()]));

const download = async (server: TestServer) =>
  new Uint8Array(await (await fetch(`${server.url}/api/archive`)).arrayBuffer());
const upload = async (server: TestServer, zip: Uint8Array | string, type = "application/zip") => {
  const res = await fetch(`${server.url}/api/archive`, {
    method: "POST",
    headers: { "content-type": type },
    body: typeof zip === "string" ? zip : Buffer.from(zip),
  });
  return {
    status: res.status,
    body: (await res.json()) as { detail: string; code: string; errors?: { pointer: string; detail: string }[] },
  };
};
const texts = (zip: Uint8Array) =>
  Object.fromEntries(Object.entries(unzipSync(zip)).map(([name, data]) => [name, strFromU8(data)]));

describe("the whole workshop as an archive", () => {
  test("out, in, and out again gives identical files", async () => {
    const first = await download(demo);
    const files = texts(first);
    expect(Object.keys(files).filter((f) => f.startsWith("designs/"))).toHaveLength(16);
    expect(Object.keys(files).filter((f) => f.startsWith("boxes/"))).toHaveLength(5);

    // Checked before anything is written: a fault anywhere refuses all of it.
    const broken = {
      ...files,
      "components.csv": files["components.csv"]!.replace("S11-CELA", "S11-TENM").replace(",piece,", ",pound,"),
    };
    const zip = (f: Record<string, string>) =>
      zipSync(Object.fromEntries(Object.entries(f).map(([n, t]) => [n, strToU8(t)])));
    const refused = await upload(empty, zip(broken));
    expect(refused.status).toBe(422);
    expect(refused.body.errors!.every((e) => e.pointer === "/components.csv")).toBe(true);
    expect((await empty.send<ComponentList>("GET", "/api/components")).body.components).toEqual([]);

    expect(await upload(empty, first)).toMatchObject({ status: 201, body: { components: 122, designs: 16, boxes: 5 } });
    expect(texts(await download(empty))).toEqual(files);
    expect(Buffer.from(await download(empty)).equals(Buffer.from(first))).toBe(true);
    expect(await balancesThatDiffer(empty.db)).toEqual([]);

    const again = await upload(empty, first);
    expect(again.status).toBe(409);
    expect(again.body.code).toBe("not-empty");
  });

  test("what is not an archive, or names what is not in it, is refused with the place", async () => {
    expect(await upload(demo, strToU8("PK not a zip"))).toMatchObject({ status: 422 });
    expect(await upload(demo, "{}", "application/json")).toMatchObject({ status: 415 });
    const files = texts(await download(demo));
    const [box] = Object.keys(files).filter((f) => f.startsWith("boxes/"));
    const archive = (change: Record<string, string>) => readArchive({ ...files, ...change });
    const faults = (found: ReturnType<typeof readArchive>) =>
      "faults" in found ? found.faults.map((f) => `${f.file}: ${f.detail}`).join("\n") : "";
    expect(faults(archive({ "workshop.json": "{}" }))).toContain("not a Jar Count workshop");
    expect(faults(archive({ "jars.csv": "component\r\n" }))).toContain("column place, tare_g is missing");
    expect(faults(archive({ [box!]: files[box!]!.replace(/"revision": 1/, '"revision": 9') }))).toContain(
      "no revision 9",
    );
    expect(
      faults(
        archive({
          "offers.csv": files["offers.csv"]!.replace(/,([0-9a-f-]{36}),([0-9a-f-]{36}),/, `,$1,${randomUUID()},`),
        }),
      ),
    ).toContain("there is no supplier");
    expect(
      faults(archive({ "ledger.csv": files["ledger.csv"]!.replace(/,,,[0-9a-f-]{36},/, `,,,${randomUUID()},`) })),
    ).toContain("line 2: there is no component");
    expect(faults(archive({ "jars.csv": files["jars.csv"]!.replace(/,[0-9.]+\r\n/, ",heavy\r\n") }))).toContain(
      "jars.csv: line 2, tareG",
    );
  });

  test("strange names survive CSV: quotes, commas, line ends, signs (RFC 4180), read by a second library", () => {
    // The cases of RFC 4180, section 2: quoted fields, doubled quotes, commas and line breaks inside; and signs some
    // programs take for formulas
    const names = [
      '6 mm "round"',
      "a, b",
      "two\nlines",
      "two\r\nlines",
      "=1+1",
      "-dash",
      "'single",
      " spaced ".trim(),
      "ünï 🫙",
    ];
    const workshop: Archive = {
      ...emptyArchive(
        {
          name: "W",
          currency: "EUR",
          publicAddress: "",
          locale: "",
          ruler: "in",
          timeZone: "",
          spares: [],
          saved: 1,
          roomsSaved: 1,
        },
        [{ id: randomUUID(), code: "A", name: 'a, "b"', held: false }],
      ),
      components: names.map((name, i) => ({
        id: randomUUID(),
        version: 1,
        code: `C${i}`,
        name,
        kind: "bead",
        colour: "#112233",
        finish: "opaque",
        baseUnit: "piece",
        cautions: [],
        notes: name,
        offers: [{ id: randomUUID(), pack: name, amount: 1, unit: "piece", price: "1.00", steps: [], minimum: 1 }],
      })),
    };
    const files = writeArchive(workshop);
    const rows: Record<string, string>[] = parse(files["components.csv"]!, { columns: true, record_delimiter: "\r\n" });
    expect(rows.map((r) => r.name)).toEqual(names);
    expect(rows.map((r) => r.notes)).toEqual(names);
    expect(
      (parse(files["offers.csv"]!, { columns: true, record_delimiter: "\r\n" }) as Record<string, string>[]).map(
        (r) => r.pack,
      ),
    ).toEqual(names);
    const again = readArchive(files);
    expect("archive" in again && writeArchive(again.archive)).toEqual(files);
  });
});

describe("the API's own description", () => {
  test("is valid OpenAPI 3.1, by a general validator", async () => {
    const { status, body } = await demo.send<object>("GET", "/api/openapi.json");
    expect(status).toBe(200);
    const result = await new Validator().validate(body as Record<string, unknown>);
    expect(result.errors ?? []).toEqual([]);
    expect(result.valid).toBe(true);
  });
  test("names every route of the table with its parameters, and only those", async () => {
    const { body } = await demo.send<{ paths: Record<string, Record<string, { operationId: string }>> }>(
      "GET",
      "/api/openapi.json",
    );
    const described = Object.entries(body.paths).flatMap(([path, methods]) =>
      Object.entries(methods).map(([method, { operationId }]) => `${operationId}: ${method} ${path}`),
    );
    const table = ROUTE_NAMES.map((name) => `${name}: ${API[name].method} /api${API[name].path}`);
    expect(described.sort()).toEqual(table.sort());
  });
  test("every refusal is problem details by the schema of RFC 9457, appendix A (from memory)", async () => {
    const schema = {
      $schema: "http://json-schema.org/draft-07/schema#",
      type: "object",
      properties: {
        type: { type: "string" },
        title: { type: "string" },
        status: { type: "integer", minimum: 100, maximum: 599 },
        detail: { type: "string" },
        instance: { type: "string" },
      },
      required: ["type", "title", "status", "detail"],
    };
    const valid = new Ajv().compile(schema);
    for (const [method, path, body] of [
      ["GET", "/api/none", undefined],
      ["POST", "/api/count", "{"],
      ["POST", "/api/count", {}],
      ["PUT", `/api/designs/${randomUUID()}`, { revision: 5 }],
      ["GET", `/api/boxes/${randomUUID()}`, undefined],
    ] as const) {
      const answer = await demo.send(method, path, body);
      expect(answer.status).toBeGreaterThanOrEqual(400);
      expect(answer.headers.get("content-type")).toMatch(/^application\/problem\+json/);
      expect(valid(answer.body), JSON.stringify(valid.errors)).toBe(true);
      expect((answer.body as { status: number }).status).toBe(answer.status);
    }
  });
});
