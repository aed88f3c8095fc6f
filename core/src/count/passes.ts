import { everyStep, ownPicksOf, type Pattern, type PickStep, sequencesOf, type Step } from "../shorthand/index.ts";
import type { StrungPartOf } from "./count.ts";
import { addTo, isOnEveryStrand } from "./strung.ts";

/** Threads through the holes of one number of a key's beads. */
interface Hole {
  through: number;
  /** Whether beads are picked up through it. */
  picked: boolean;
  /** Threads through single beads that are named by their place, from 1. */
  named: Map<number, number>;
}

/**
 * By key: the most strands that the busiest hole of a part must take at the least. Threads are spread over all beads
 * as evenly as can be, but for those through a bead that is named. All is multiplied before it is divided and rounded
 * up; a part that is gone again, and stringing that runs beside the first, go through every hole as often.
 * @param onUnpicked is called for each key that the part only passes through: it has no beads here to divide by
 */
export function passesOf(
  { part, whole, placings }: StrungPartOf,
  onUnpicked: (key: string) => void,
): Record<string, number> {
  const beads = new Map<string, number>();
  for (const p of placings) if (p.how === "strung") addTo(beads, p.key, p.picked);
  const holes = new Map<string, Map<number, Hole>>();
  for (const p of placings) {
    if (p.how !== "strung" || p.through === 0) continue;
    const ofKey = holes.get(p.key) ?? new Map<number, Hole>();
    holes.set(p.key, ofKey);
    const hole = ofKey.get(p.hole) ?? { through: 0, picked: false, named: new Map<number, number>() };
    ofKey.set(p.hole, hole);
    hole.through += p.through;
    if (p.picked > 0) hole.picked = true;
    if (p.which === null) continue;
    addTo(hole.named, p.which === "first" ? 1 : p.which === "last" ? (beads.get(p.key) ?? 0) : p.which, p.through);
  }
  const again = (1 + (part.reinforce ?? 0)) * (1 + (part.also?.length ?? 0));
  const passes: Record<string, number> = {};
  for (const [key, ofKey] of holes) {
    const n = beads.get(key) ?? 0;
    if (n === 0) {
      onUnpicked(key);
      continue;
    }
    let most = 0;
    for (const { through, picked, named } of ofKey.values()) {
      most = Math.max(most, Math.ceil((through * again) / n - 1e-9));
      for (const [nth, passed] of named) {
        const onEvery = isOnEveryStrand(whole, key, nth - 1);
        if (onEvery === null) continue; // there is no such bead: reported where it is named
        const own = picked ? (onEvery ? (part.strands ?? 1) : 1) : 0;
        most = Math.max(most, Math.ceil((own + passed) * again - 1e-9));
      }
    }
    passes[key] = most;
  }
  return passes;
}

/** Passes through a key that its part strings only later: there is nothing yet for the thread to go through. */
export function passedTooSoon({ text, rows }: Pattern): PickStep[] {
  if (!text.includes(">")) return [];
  const strung = new Set<string>();
  const soon: PickStep[] = [];
  const visit = (step: Step): void => {
    if (step.type === "pass") {
      const through = step.step.type === "pick" ? [step.step] : [];
      if (step.step.type === "group") everyStep(step.step, (inner) => through.push(...ownPicksOf(inner)));
      soon.push(...through.filter((p) => !strung.has(p.key)));
      return;
    }
    for (const { key } of ownPicksOf(step)) strung.add(key);
    for (const { steps } of sequencesOf(step)) steps.forEach(visit);
  };
  for (const row of rows) row.steps.forEach(visit);
  // What the part strings nowhere is told apart: another part may.
  return soon.filter((p) => strung.has(p.key));
}
