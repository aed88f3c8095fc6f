import { createServer, type IncomingMessage, type Server, type ServerResponse } from "node:http";
import type { AddressInfo } from "node:net";
import { Readable } from "node:stream";
import { createGzip } from "node:zlib";
import { carrierRates, quote } from "./carrier.ts";
import { type OnSale, shopCsv, shopSales } from "./shop.ts";

/** The most that may be sent to a stand-in, bytes. */
const MOST = 2_000_000;

/** How they may be, beside well. */
const MOODS = ["slow", "down", "endless", "packed"] as const;
/** How much the packed answer unpacks to, bytes. */
const PACKED = 400_000_000;

/** Rows of a table, so many bytes of them, part by part. */
function* rowsOf(bytes: number) {
  const part = Buffer.alloc(1_000_000, "a,b\n");
  for (let made = 0; made < bytes; made += part.length) yield part;
}

/** Goes on for as long as anybody listens. */
function endless(response: ServerResponse, type: string) {
  response.writeHead(200, { "content-type": type });
  const part = `${"[1,".repeat(20_000)}\n`;
  const on = () => {
    if (!response.destroyed && response.write(part)) setImmediate(on);
    else response.once("drain", on);
  };
  on();
}

async function bodyOf(request: IncomingMessage): Promise<unknown> {
  let text = "";
  for await (const part of request) {
    text += String(part);
    if (text.length > MOST) throw new Error("This is too large.");
  }
  return JSON.parse(text);
}

/**
 * The carrier and the shop that are not there, over HTTP on the loopback: `/carrier/rates`, `/carrier/quote` and
 * `/shop/sales`. With `/slow`, `/down`, `/endless` (an answer that never stops) or `/packed` (a small one that unpacks
 * to hundreds of megabytes) behind `/carrier` or `/shop` they are that, so that one can see what happens. They keep
 * nothing.
 * @returns where they are reached, and how they end
 */
export async function serveStandIns(): Promise<{ url: string; server: Server }> {
  const server = createServer((request, response) => {
    const { pathname, searchParams } = new URL(request.url ?? "/", "http://stand-ins");
    const [, who, ...rest] = pathname.split("/");
    const mood = MOODS.find((m) => m === rest[0]) ?? null;
    const what = rest[mood ? 1 : 0];
    const send = (status: number, body: string, type = "application/json") =>
      response.writeHead(status, { "content-type": type }).end(body);
    const say = async () => {
      if (who === "carrier" && what === "rates") {
        return send(200, JSON.stringify(carrierRates(searchParams.get("currency") ?? "GBP")));
      }
      if (who === "carrier" && what === "quote") {
        const found = quote(searchParams);
        return found ? send(200, JSON.stringify(found)) : send(404, `{"error":"we do not take this"}`);
      }
      if (who === "shop" && what === "sales" && request.method === "POST") {
        const { boxes, until } = (await bodyOf(request)) as { boxes: OnSale[]; until: string };
        const lines = shopSales(boxes, until);
        const csv = (request.headers.accept ?? "").includes("text/csv");
        return csv ? send(200, shopCsv(lines), "text/csv; charset=utf-8") : send(200, JSON.stringify({ lines }));
      }
      return send(404, `{"error":"nothing here"}`);
    };
    if (mood === "down") return void send(503, `{"error":"closed"}`);
    if (mood === "endless") return endless(response, who === "shop" ? "text/csv" : "application/json");
    if (mood === "packed") {
      response.writeHead(200, { "content-type": "text/csv", "content-encoding": "gzip" });
      return void Readable.from(rowsOf(PACKED)).pipe(createGzip()).pipe(response);
    }
    const answer = () => void say().catch(() => send(400, `{"error":"this can't be read"}`));
    if (mood === "slow") setTimeout(answer, 10_000).unref();
    else answer();
  });
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}`, server };
}
