import type { RequestHandler } from "express";
import { networkInterfaces } from "node:os";
import { Refusal } from "../refusal/index.ts";

/** Names by which a machine reaches itself. */
const LOOPBACK = ["localhost", "127.0.0.1", "::1"];
/** Addresses to listen on that stand for every one that the machine has. */
const EVERYWHERE = ["0.0.0.0", "::"];

/** A host with its port, and nothing else (RFC 9110, 7.2). */
const HOST = /^([\w.-]+|\[[0-9a-f:.]+\])(:\d{1,5})?$/i;

const hostOf = (url: string): string | null => {
  try {
    return new URL(url).hostname.replace(/^\[|\]$/g, "").toLowerCase();
  } catch {
    return null;
  }
};

function listenedTo(listen: string): string[] {
  if (!EVERYWHERE.includes(listen)) return [listen.toLowerCase()];
  return Object.values(networkInterfaces()).flatMap((list) => (list ?? []).map((face) => face.address.toLowerCase()));
}

/**
 * Keeps out what other sites send through a visitor's browser. A name that somebody else points at this machine is not
 * served, so that no page of theirs is taken for ours (DNS rebinding); and a write that a browser says comes from
 * elsewhere is refused (Fetch Metadata, W3C; Origin, RFC 6454). Programs that are no browsers send neither.
 * @param listen the address that the server listens on
 * @param publicAddress where others reach the workshop, as it is configured now; empty where nobody does
 */
export function keepDoor(listen: string, publicAddress: () => Promise<string>): RequestHandler {
  const own = new Set([...LOOPBACK, ...listenedTo(listen)]);
  const isOurs = async (host: string) => own.has(host) || host === hostOf(await publicAddress());

  return async (req, _res, next) => {
    // Who names two could be let in by the one and be meant for the other (RFC 9112, 3.2).
    if (req.rawHeaders.filter((word, i) => i % 2 === 0 && word.toLowerCase() === "host").length > 1) {
      throw new Refusal("unreadable", "This names two hosts. Send one Host header.");
    }
    const said = req.get("host") ?? "";
    const host = HOST.test(said) ? hostOf(`http://${said}`) : null;
    if (host === null || !(await isOurs(host))) {
      throw new Refusal(
        "not-ours",
        "The workshop does not answer to this address. Open it by the address that the start script prints, and " +
          "write there under Workshop the address by which others reach it.",
      );
    }
    if (req.method !== "GET" && req.method !== "HEAD") {
      const origin = req.get("origin");
      const site = req.get("sec-fetch-site");
      const foreign =
        (origin !== undefined && !(await isSame(origin, req.get("host")!, publicAddress))) ||
        (site !== undefined && site !== "same-origin" && site !== "none");
      if (foreign) throw new Refusal("foreign", "A page of another site may not change anything here.");
    }
    next();
  };
}

/** Whether a page's origin is the one that it writes to: by host and port, or the configured public one. */
async function isSame(origin: string, host: string, publicAddress: () => Promise<string>): Promise<boolean> {
  try {
    const from = new URL(origin);
    if (from.host === new URL(`${from.protocol}//${host}`).host) return true;
    const configured = await publicAddress();
    return configured !== "" && new URL(configured).origin === from.origin;
  } catch {
    return false; // "null", as from a sandboxed frame, or no address at all
  }
}
