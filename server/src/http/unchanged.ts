import type { Request, Response } from "express";
import { constants, gzipSync } from "node:zlib";

interface Held {
  tag: string;
  plain: Buffer;
  packed: Buffer;
}

/** So many answers of one address are held: each box has its own. */
const MOST_HELD = 50;

/**
 * Answers something long that changes seldom. `tagOf` is a cheap question to the database whose answer changes with it;
 * while it is the same, a client that has it is told so (304), and others get the bytes made before. What is held here
 * only saves work: the database decides every time whether it still holds.
 */
export function heldList(tagOf: (req: Request) => Promise<string>, make: (req: Request) => Promise<unknown>) {
  const kept = new Map<string, Held>();
  return async (req: Request, res: Response) => {
    // The tag is asked first: what is made after it is at least as new, and a newer one is only sent once more.
    const tag = `"${await tagOf(req)}"`;
    res.set({ ETag: tag, "Cache-Control": "no-cache", Vary: "Accept-Encoding" });
    if (req.get("If-None-Match") === tag) return void res.status(304).end();
    let held = kept.get(req.path);
    if (held?.tag !== tag) {
      const plain = Buffer.from(JSON.stringify(await make(req)));
      held = { tag, plain, packed: gzipSync(plain, { level: constants.Z_BEST_SPEED }) };
      if (kept.size >= MOST_HELD) kept.delete(kept.keys().next().value!);
      kept.set(req.path, held);
    }
    const packed = req.acceptsEncodings("gzip") === "gzip";
    if (packed) res.set("Content-Encoding", "gzip");
    res.type("json").send(packed ? held.packed : held.plain);
  };
}
