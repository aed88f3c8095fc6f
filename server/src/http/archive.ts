import { type Files, readArchive, writeArchive } from "@jar-count/core/archive";
import express, { Router } from "express";
import { strFromU8, strToU8, unzipSync, type Zippable, zipSync } from "fflate";
import { exportWorkshop, importWorkshop } from "../store/archive.ts";
import { type Database, inTransaction } from "../store/database.ts";
import { Refusal } from "../refusal.ts";

const MOST_BYTES = 200_000_000;

/** The whole workshop as one zip of open files, out and in again. */
export function archiveRoutes(db: Database): Router {
  const routes = Router();

  routes.get("/", async (_req, res) => {
    // One consistent view of everything, however long it takes.
    const archive = await inTransaction(db, async (session) => {
      await session.query("set transaction isolation level repeatable read, read only");
      return exportWorkshop(session);
    });
    const zip: Zippable = {};
    for (const [path, text] of Object.entries(writeArchive(archive))) zip[path] = strToU8(text);
    // A fixed time in it, so that the same workshop gives the same bytes.
    const bytes = zipSync(zip, { mtime: new Date(2000, 0, 1), level: 6 });
    res.attachment(`${archive.workshop.name}.jarcount.zip`).type("application/zip").send(Buffer.from(bytes));
  });

  routes.post("/", express.raw({ type: "application/zip", limit: "50mb" }), async (req, res) => {
    if (!Buffer.isBuffer(req.body)) throw new Refusal(415, "Not an archive", "Send the archive as application/zip.");
    const found = readArchive(unpack(req.body));
    if ("faults" in found) {
      throw new Refusal(
        422,
        "Not as agreed",
        "This archive can't be taken in; each place says why. Nothing was written.",
        {
          errors: found.faults.slice(0, 100).map(({ file, detail }) => ({ pointer: `/${file}`, detail })),
        },
      );
    }
    await inTransaction(db, (session) => importWorkshop(session, found.archive));
    const { components, designs, boxes, ledger } = found.archive;
    res
      .status(201)
      .json({ components: components.length, designs: designs.length, boxes: boxes.length, movements: ledger.length });
  });

  return routes;
}

function unpack(zip: Buffer): Files {
  const files: Files = {};
  let bytes = 0;
  try {
    const found = unzipSync(zip, {
      filter: ({ name, originalSize }) => {
        bytes += originalSize;
        if (bytes > MOST_BYTES) throw new Error("too large");
        return /\.(json|csv)$/.test(name);
      },
    });
    for (const [name, data] of Object.entries(found)) files[name] = strFromU8(data);
  } catch {
    const why =
      bytes > MOST_BYTES ? "It would unpack to more than 200 MB." : "It is not a zip file, or it was cut short.";
    throw new Refusal(422, "Not an archive", `This archive can't be opened. ${why} Nothing was written.`);
  }
  return files;
}
