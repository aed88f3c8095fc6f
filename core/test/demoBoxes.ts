import { readdirSync, readFileSync } from "node:fs";
import { readArchive } from "../src/archive/index.ts";
import type { Archive, BoxDetail } from "../src/contract/index.ts";

/** The invented workshop, read from its files. */
export function demoArchive(): Archive {
  const root = new URL("../../demo/", import.meta.url);
  const files: Record<string, string> = {};
  for (const path of readdirSync(root, { recursive: true }) as string[])
    if (/\.(json|csv)$/.test(path)) files[path] = readFileSync(new URL(path, root), "utf8");
  const found = readArchive(files);
  if ("faults" in found) throw new Error(JSON.stringify(found.faults));
  return found.archive;
}

/** Its boxes with all that counting takes; nothing is in the jars. */
export function demoBoxes(): BoxDetail[] {
  const archive = demoArchive();
  return archive.boxes.map((box) => ({
    box,
    designs: archive.designs.flatMap((d) =>
      d.revisions.map((r) => ({ designId: d.id, revision: r.no, newest: r.no, design: r.design })),
    ),
    components: archive.components.map((c) => ({
      ...c,
      onHand: 0,
      u: 0,
      spokenFor: 0,
      onTheWay: 0,
      averageCost: null,
      lastCost: null,
      moved: false,
    })),
    spares: archive.workshop.spares,
    ruler: archive.workshop.ruler,
  }));
}
