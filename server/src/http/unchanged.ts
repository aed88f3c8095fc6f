import type { Request, Response } from "express";
import { constants, gzipSync } from "node:zlib";

interface Held {
  tag: string;
  plain: Buffer;
  packed: Buffer;
}

/**
 * Answers a long list that changes seldom. `tagOf` is a cheap question to the database whose answer changes with the
 * list; while it is the same, a client that has the list is told so (304), and others get the bytes made before. What
 * is held here only saves work: the database decides every time whether it still holds.
 */
export function heldList(tagOf: () => Promise<string>, make: () => Promise<unknown>) {
  let held: Held | null = null;
  return async (req: Request, res: Response) => {
    // The tag is asked first: a list made after it is at least as new, and a newer one is only sent once more.
    const tag = `"${await tagOf()}"`;
    res.set({ ETag: tag, "Cache-Control": "no-cache", Vary: "Accept-Encoding" });
    if (req.get("If-None-Match") === tag) return void res.status(304).end();
    if (held?.tag !== tag) {
      const plain = Buffer.from(JSON.stringify(await make()));
      held = { tag, plain, packed: gzipSync(plain, { level: constants.Z_BEST_SPEED }) };
    }
    const packed = req.acceptsEncodings("gzip") === "gzip";
    if (packed) res.set("Content-Encoding", "gzip");
    res.type("json").send(packed ? held.packed : held.plain);
  };
}
