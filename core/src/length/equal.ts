import type { Design, LengthWay } from "../contract/index.ts";
import { type CountOptions, countWhole } from "../count/index.ts";
import { everyStep, type Step } from "../shorthand/index.ts";
import { edited, type Edit, type Lengths, lengthsIn, measure, numbersOf, withText } from "./knobs.ts";
import { difference } from "./ways.ts";

/** Strands that an `each` writes apart, one after the other, and how long each comes out, mm. */
export interface Unequal {
  lengths: number[];
  ways: LengthWay[];
}

/**
 * Ways to make strands equal that lie side by side and come out unequal: beads added to the shorter ones, taken from
 * the longer ones, or both met half way; the most equal first, then what changes least. Null where they are equal.
 */
export function equalStrands(design: Design, partId: string, asked: CountOptions): Unequal | null {
  const counting = countWhole(design, asked);
  const strung = counting.parts.find((p) => p.part.id === partId);
  if (!strung) return null;
  const of = lengthsIn(counting, strung);
  const each = eachIn(of);
  if (!each) return null;
  const lengths = each.branches.map((b) => mmOf(of, of.text.slice(b.from, b.to)));
  const [least, most] = [Math.min(...lengths), Math.max(...lengths)];
  if (most - least < 0.005) return null;
  const goals = [...new Set([most, least, (most + least) / 2])];
  const found = new Map<string, { way: LengthWay; rank: [number, number] }>();
  for (const goal of goals) {
    const parts = each.branches.map((b, i) => bringTo(of, of.text.slice(b.from, b.to), lengths[i]!, goal));
    const edits: Edit[] = each.branches.map((b, i) => ({ from: b.from, to: b.to, text: parts[i]!.text }));
    const steps = edited(of.text, edits);
    const now = countWhole(
      { ...design, parts: design.parts.map((p) => (p.id === partId ? { ...p, steps } : p)) },
      asked,
    );
    const apart = Math.max(...parts.map((p) => p.mm)) - Math.min(...parts.map((p) => p.mm));
    const said = parts.flatMap((p, i) => (p.say === null ? [] : [`strand ${i + 1}: ${p.say}`]));
    if (said.length === 0) continue;
    const way = {
      say: said.join("; "),
      steps,
      strandMm: now.answer.parts.find((p) => p.id === partId)!.strandMm,
      offMm: Math.round(apart * 1e6) / 1e6,
      adds: difference(counting.answer.counts, now.answer.counts),
    };
    const turns = Object.values(way.adds).reduce((sum, n) => sum + Math.abs(n), 0);
    if (!found.has(steps)) found.set(steps, { way, rank: [Math.round(apart * 1000), turns] });
  }
  const ways = [...found.values()].sort((a, b) => a.rank[0] - b.rank[0] || a.rank[1] - b.rank[1]).map((f) => f.way);
  return { lengths, ways };
}

type Each = Extract<Step, { type: "each" }>;

/** The first `each` that writes its strands apart. */
function eachIn(of: Lengths): Each | null {
  let found: Each | null = null;
  for (const row of of.pattern.rows)
    everyStep(row, (step) => {
      if (step.type === "each" && step.branches.length > 1) found ??= step;
    });
  return found;
}

const lone = withText;
const mmOf = (of: Lengths, text: string) => measure(lone(of, text), new Map()) ?? 0;

/** A branch brought as near to a length as one of its numbers, turned, brings it. */
function bringTo(
  of: Lengths,
  text: string,
  mm: number,
  goal: number,
): { text: string; mm: number; say: string | null } {
  let best: { text: string; mm: number; say: string | null; turns: number } = { text, mm, say: null, turns: 0 };
  const branch = lone(of, text);
  for (const knob of numbersOf(branch)) {
    for (let n = knob.least; n <= knob.most; n++) {
      if (n === knob.now) continue;
      const turned = edited(text, knob.edits(n));
      const now = mmOf(of, turned);
      const closer = Math.abs(best.mm - goal) - Math.abs(now - goal);
      const turns = Math.abs(n - knob.now);
      if (closer > 1e-6 || (closer > -1e-6 && turns < best.turns))
        best = { text: turned, mm: now, say: knob.say(n), turns };
    }
  }
  return best;
}
