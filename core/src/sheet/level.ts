import { type Design, type Level, LEVELS, type TECHNIQUES } from "../contract/index.ts";
import { type Counting, countWhole } from "../count/index.ts";
import { checkFit, type FitFound } from "../fit/index.ts";
import { methodsOf } from "../method/index.ts";

/** What makes a design harder, in words, and how much it counts. */
export interface Reason {
  say: string;
  points: number;
}

export interface Judged {
  level: Level;
  reasons: Reason[];
  /** Said by hand, with its reason. */
  byHand: string | null;
}

/** How much a technique asks of a maker: common practice, from memory. */
const TECHNIQUE: Record<(typeof TECHNIQUES)[number], number> = {
  strung: 0,
  chain: 0,
  glued: 0,
  knotted: 1,
  wired: 1,
  braided: 2,
  stitched: 2,
};
const METHODS: Readonly<Record<string, number>> = {
  "wrapped-loop": 1,
  "coiled-drop": 1,
  "crimp-crossed": 1,
  cone: 1,
  "own-loop-charm": 1,
  "ear-wire-made": 1,
  "memory-wire-loops": 1,
};
/** From so many points on a design is of the next level. */
const FROM = [0, 2, 4, 6];

/**
 * How much a maker must be able to do, from what is there: technique, methods, the smallest bead, holes that are nearly
 * full, parts and steps; each reason said. A level set by hand stands, with its reason.
 */
export function levelOf({ design, answer, parts }: Counting, found: FitFound): Judged {
  const reasons: Reason[] = [];
  const add = (points: number, say: string) => points > 0 && reasons.push({ say, points });
  const technique = design.about?.technique;
  if (technique) add(TECHNIQUE[technique], `It is ${technique}.`);
  const methods = new Map(
    parts.flatMap((p) => methodsOf(design, p.part).map((m) => [m.definition.id, m.definition.name] as const)),
  );
  for (const [id, name] of methods) add(METHODS[id] ?? 0, `${name} is made.`);
  const beads = design.key.filter((e) => e.kind === "bead" && (answer.counts[e.key] ?? 0) > 0);
  const [smallest] = beads.filter((e) => e.alongMm != null).sort((a, b) => a.alongMm! - b.alongMm!);
  if (smallest) {
    const mm = smallest.alongMm!;
    add(mm < 1.2 ? 2 : mm < 1.6 ? 1 : 0, `Its smallest bead, ${smallest.name}, is ${mm} mm.`);
  }
  const most = Math.max(0, ...answer.parts.flatMap((p) => Object.values(p.passes)));
  add(most >= 4 ? 1 : 0, `Thread goes ${most} times through its busiest hole.`);
  const full = found.checks.filter((c) => c.rule === "hole" && c.level !== "fine").length;
  add(full > 0 ? 1 : 0, full === 1 ? "One hole is nearly full." : `${full} holes are nearly full.`);
  const made = parts.filter((p) => (p.part.steps ?? "").trim() !== "").length;
  add(made > 8 ? 2 : made > 4 ? 1 : 0, `It has ${made} parts.`);
  const picked = Object.entries(answer.counts).reduce(
    (sum, [key, n]) => (beads.some((e) => e.key === key) ? sum + n : sum),
    0,
  );
  add(picked > 1000 ? 2 : picked > 300 ? 1 : 0, `It takes ${picked} beads.`);
  const points = reasons.reduce((sum, r) => sum + r.points, 0);
  const computed = LEVELS[FROM.filter((from) => points >= from).length - 1]!;
  return {
    level: design.about?.level ?? computed,
    reasons: reasons.length > 0 ? reasons : [{ say: "Nothing in it asks for more than a first time.", points: 0 }],
    byHand: design.about?.level == null ? null : (design.about.levelReason ?? ""),
  };
}

const known = new WeakMap<Design, Level>();

/** A design's level, said or worked out in its first size and option: remembered, since designs are never changed. */
export function levelOfDesign(design: Design): Level {
  if (design.about?.level != null) return design.about.level;
  let level = known.get(design);
  if (level === undefined) {
    const counting = countWhole(design, {
      size: design.sizes?.[0]?.key ?? null,
      option: design.options?.[0]?.key ?? null,
    });
    level = levelOf(counting, checkFit(counting)).level;
    known.set(design, level);
  }
  return level;
}
