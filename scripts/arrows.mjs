/**
 * `npm run arrows`: which folder imports which, as a plain list. Fails where the arrows go round in a circle, or where
 * one is not allowed. The lint step runs it.
 */
import { readdirSync, readFileSync } from "node:fs";
import { dirname, join, relative } from "node:path";
import { fileURLToPath } from "node:url";

const root = dirname(dirname(fileURLToPath(import.meta.url)));

/** What may not import what: [from, to, why]. */
const FORBIDDEN = [
  [/^core/, /^(server|web)/, "the core knows neither server nor interface"],
  [/^server/, /^web/, "the server knows nothing of the interface"],
  [/^web/, /^server/, "the interface talks to the server through its API"],
  [/^web\/ui$/, /^web\/(app|draft|features)/, "the look knows nothing of what it is used for"],
  [/^web\/(api|settings)$/, /^web\//, "these stand below everything else"],
  [/^web\/features/, /^web\/app/, "a feature can be put into any shell"],
  [/^server\/store$/, /^server\/(work|http|threads)/, "SQL and nothing else"],
  [/^server\/work$/, /^server\/http/, "what is done knows nothing of HTTP"],
];

function* sources(folder) {
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* sources(path);
    else if (/\.tsx?$/.test(entry.name) && !/\.d\.ts$/.test(entry.name)) yield path;
  }
}

/** `core/src/bom/rows.ts` belongs to `core/bom`; a feature is a folder of its own. */
function folderOf(path) {
  const [part, , ...rest] = relative(root, path).split("/");
  const deep = rest[0] === "features" ? 2 : 1;
  return [part, ...rest.slice(0, Math.min(deep, rest.length - 1))].join("/");
}

const arrows = new Map();
for (const part of ["core", "server", "web"]) {
  for (const file of sources(join(root, part, "src"))) {
    const from = folderOf(file);
    const text = readFileSync(file, "utf8");
    for (const [, target] of text.matchAll(/(?:from|import)\s*\(?\s*"([^"]+)"/g)) {
      const core = /^@jar-count\/core\/(\w+)/.exec(target);
      const to = core ? `core/${core[1]}` : target.startsWith(".") ? folderOf(join(dirname(file), target)) : null;
      if (to && to !== from) arrows.set(from, (arrows.get(from) ?? new Set()).add(to));
    }
  }
}

/** The folders of a circle, if the arrows make one. */
function circle() {
  const done = new Set();
  const visit = (folder, path) => {
    if (path.includes(folder)) return [...path.slice(path.indexOf(folder)), folder];
    if (done.has(folder)) return null;
    for (const to of arrows.get(folder) ?? []) {
      const found = visit(to, [...path, folder]);
      if (found) return found;
    }
    done.add(folder);
    return null;
  };
  for (const folder of arrows.keys()) {
    const found = visit(folder, []);
    if (found) return found;
  }
  return null;
}

const faults = [];
for (const [from, tos] of [...arrows].sort()) {
  if (!process.argv.includes("--quiet")) console.log(`${from} → ${[...tos].sort().join(", ")}`);
  for (const to of tos) {
    const rule = FORBIDDEN.find(([a, b]) => a.test(from) && b.test(to));
    if (rule) faults.push(`${from} imports ${to}: ${rule[2]}.`);
  }
}
const round = circle();
if (round) faults.push(`A circle: ${round.join(" → ")}.`);
for (const fault of faults) console.error(fault);
process.exit(faults.length > 0 ? 1 : 0);
