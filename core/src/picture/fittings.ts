import type { KeyEntry } from "../contract/index.ts";
import type { FittingShape } from "./picture.ts";

const WORDS: [RegExp, FittingShape][] = [
  [/ear ?wire|ear ?hook|lever ?back|hoop/i, "ear wire"],
  [/\bpost\b|\bstud\b|clip-on/i, "post"],
  [/toggle.*bar|\bt-?bar\b/i, "toggle bar"],
  [/toggle.*ring|toggle.*loop/i, "toggle ring"],
  [/lobster|parrot|trigger|spring ring/i, "lobster"],
  [/hook/i, "hook"],
  [/magnet/i, "magnetic"],
  [/(head|ball|eye) ?pin/i, "pin head"],
  [/crimp cover|cover/i, "crimp cover"],
  [/ribbon (end|clamp|crimp)/i, "ribbon end"],
  [/crimp/i, "crimp"],
  [/guard/i, "guard"],
  [/cone/i, "cone"],
  [/cord end|end cap|glue-?in|cord tip|knot cup/i, "cord end"],
  [/\bcaps?\b/i, "cap"],
  [/jump ring|split ring|\bring\b|\bbail\b/i, "jump ring"],
  [/connector|link|end bar|spacer bar/i, "connector"],
  [/tassel/i, "tassel"],
  [/coil/i, "coiled drop"],
  [/clasp/i, "box clasp"],
];

/** What a finding looks like: by its form, else by its name; null for what has no place in a picture. */
export function fittingOf(entry: KeyEntry): FittingShape | null {
  // A nut stands behind the ear.
  if (entry.kind !== "finding" || entry.form === "ear nut") return null;
  // What it is called is closer than its form: an ear post among the ear wires is no hook.
  const [called, said] = [entry.name, `${entry.form ?? ""} ${entry.name}`];
  const shapeIn = (text: string) => WORDS.find(([word]) => word.test(text))?.[1] ?? null;
  return shapeIn(called) ?? shapeIn(said);
}

/** About how large a finding is where nobody measured it, mm along and across: common practice, from memory. */
const SIZE: Record<FittingShape, [along: number, across: number]> = {
  "ear wire": [20, 12],
  post: [6, 4],
  "jump ring": [4, 4],
  "toggle ring": [12, 12],
  "toggle bar": [4, 15],
  lobster: [10, 5],
  hook: [14, 7],
  magnetic: [9, 5],
  "box clasp": [10, 7],
  crimp: [2, 2],
  "crimp cover": [3, 3],
  cone: [9, 6],
  cap: [3, 5],
  "cord end": [8, 5],
  connector: [10, 6],
  tassel: [30, 8],
  guard: [4, 3],
  "pin head": [1, 2],
  loop: [3, 3],
  "wrapped loop": [6, 3],
  "coiled drop": [5, 5],
  "ribbon end": [6, 10],
  knot: [3, 3],
};

export function fittingSize(shape: FittingShape, entry: KeyEntry | null): { alongMm: number; acrossMm: number } {
  const [along, across] = SIZE[shape];
  const alongMm = entry?.alongMm ?? entry?.heightMm ?? entry?.lengthMm ?? entry?.acrossMm ?? along;
  if (shape === "pin head") return { alongMm: along, acrossMm: across };
  return { alongMm, acrossMm: entry?.acrossMm ?? (across * alongMm) / along };
}

/** What closes a piece or ends a strand stands at its ends; the rest where its shape says. */
export const AT_ENDS: ReadonlySet<FittingShape> = new Set([
  "toggle ring",
  "toggle bar",
  "lobster",
  "hook",
  "magnetic",
  "box clasp",
  "cone",
  "cap",
  "cord end",
  "ribbon end",
  "guard",
  "crimp",
  "crimp cover",
  "connector",
  "jump ring",
]);
export const AT_TOP: ReadonlySet<FittingShape> = new Set(["ear wire", "post"]);
