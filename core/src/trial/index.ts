/** The bench log: what a trial make says beside what was computed, and what would put the design right. */
import { type Design, type KeyEntry, roleId, type Trial } from "../contract/index.ts";
import { alongStrand, apartMm, countWhole, type StrungPartOf } from "../count/index.ts";
import { endsMm, finishedMm } from "../length/index.ts";

/** One role of a trial: computed for one item, and really used. */
export interface Used {
  entry: KeyEntry;
  unit: "piece" | "mm";
  computed: number;
  used: number;
}

/** A change of the design that a trial asks for, with its reason in words. */
export interface Correction {
  id: string;
  say: string;
  reason: string;
  design: Design;
}

const round = (n: number, places: number) => Math.round(n * 10 ** places) / 10 ** places;

/** What the trial used, beside what the design counts for its size and option, where both are known. */
export function usedBeside(design: Design, trial: Trial): Used[] {
  const { answer } = countWhole(design, { size: sizeOf(design, trial), option: optionOf(design, trial) });
  return design.key.flatMap((entry): Used[] => {
    const used = trial.used[roleId(entry)];
    if (used === undefined || entry.kind === "mix") return [];
    const linear = entry.kind === "stringing";
    return [
      {
        entry,
        unit: linear ? "mm" : "piece",
        computed: linear
          ? (answer.lengthsMm[entry.key] ?? 0)
          : (answer.counts[entry.key] ?? 0) + (answer.perKit[entry.key] ?? 0),
        used,
      },
    ];
  });
}

const sizeOf = (design: Design, t: Trial) => ((design.sizes ?? []).some((s) => s.key === t.size) ? t.size : null);
const optionOf = (design: Design, t: Trial) =>
  (design.options ?? []).some((o) => o.key === t.option) ? t.option : null;

/** Whether making changes a part's length: its strands are laid round one another. */
function isBraid(design: Design, { part, whole }: StrungPartOf): boolean {
  if (part.finishedRatio != null && part.finishedRatio !== 1) return true;
  if (design.about?.technique === "braided") return (part.strands ?? 1) > 1;
  return (part.strands ?? 1) > 2 && apartMm(whole) > 0.8 * whole.strandMm;
}

/** How long a part came out, and how much of that are its ends, mm. */
interface Came {
  mm: number;
  endsMm: number;
}

/** Of a braid the beads are what they are: what is put right is how long it comes out for its strand. */
function correctRatio(design: Design, { part, whole }: StrungPartOf, { mm, endsMm }: Came, said: string): Correction {
  const finishedRatio = round((mm - endsMm) / whole.strandMm, 4);
  const was = part.finishedRatio ?? 1;
  return {
    id: `ratio ${part.id}`,
    say:
      `${part.name} comes out at ${round(100 * finishedRatio, 1)} % of its strand instead of ` +
      `${round(100 * was, 1)} %: ${round(mm, 1)}\u00a0mm of ${round(whole.strandMm, 1)}\u00a0mm strung`,
    reason: `${said}: ${part.name} finished at ${round(mm, 1)}\u00a0mm`,
    design: { ...design, parts: design.parts.map((p) => (p.id === part.id ? { ...p, finishedRatio } : p)) },
  };
}

/** Of the beads on the strand those that make most of its length are the likeliest to be measured wrong. */
function correctAlong(design: Design, { part, whole }: StrungPartOf, { mm, endsMm }: Came, said: string): Correction[] {
  const counted = whole.strandMm + endsMm;
  const lengths = [...alongStrand(whole)].flatMap(([key, n]) => {
    const entry = design.key.find((e) => e.key === key);
    return entry?.alongMm ? [{ entry, n, mm: n * entry.alongMm }] : [];
  });
  return lengths
    .sort((a, b) => b.mm - a.mm)
    .slice(0, 2)
    .flatMap(({ entry, n }): Correction[] => {
      const alongMm = round(entry.alongMm! + (mm - counted) / n, 3);
      if (alongMm <= 0) return [];
      return [
        {
          id: `along ${entry.key}`,
          say:
            `${entry.key}, ${entry.name}: ${entry.alongMm}\u00a0mm along becomes ${alongMm}\u00a0mm, so that ` +
            `${part.name} comes out at ${round(mm, 1)}\u00a0mm instead of ${round(counted, 1)}\u00a0mm`,
          reason: `${said}: ${entry.name} measures ${alongMm}\u00a0mm along`,
          design: { ...design, key: design.key.map((e) => (e.key === entry.key ? { ...e, alongMm } : e)) },
        },
      ];
    });
}

/**
 * Corrections that a trial asks for: a bead's size along the thread where the strand came out longer or shorter (of a
 * braid how long it comes out for its strand), the take-up where more or less was strung on, the minutes where they
 * differ. Each is a new state of the design.
 */
export function correctionsOf(design: Design, trial: Trial): Correction[] {
  const found: Correction[] = [];
  const counting = countWhole(design, { size: sizeOf(design, trial), option: optionOf(design, trial) });
  const said = `Trial of ${trial.madeOn}`;
  const { finished } = trial;
  const part = finished && counting.parts.find((p) => p.part.id === finished.part);
  if (finished && part && part.whole.strandMm > 0 && Math.abs(finished.mm - finishedMm(counting, part)) > 0.5) {
    const came = { mm: finished.mm, endsMm: endsMm(counting, part) };
    if (isBraid(design, part)) found.push(correctRatio(design, part, came, said));
    else found.push(...correctAlong(design, part, came, said));
  }
  for (const { entry, computed, used } of usedBeside(design, trial).filter((u) => u.unit === "mm")) {
    const strung = design.parts.filter((p) => p.stringing === entry.key && p.cutMm == null && p.steps);
    if (strung.length === 0 || computed <= 0 || Math.abs(used - computed) <= 0.01 * computed) continue;
    // Tails and fixed cuts stay; what follows the path takes the difference.
    const tails = strung.reduce(
      (sum, p) => sum + (p.makes ?? 1) * 2 * (p.tailMm ?? 0) * ((p.strands ?? 1) / (p.folded ? 2 : 1)),
      0,
    );
    const along = computed - tails;
    if (along <= 0 || used <= tails) continue;
    const factor = (used - tails) / along;
    const parts = design.parts.map((p) =>
      strung.includes(p) ? { ...p, takeUp: Math.max(0, round((1 + (p.takeUp ?? 0)) * factor - 1, 4)) } : p,
    );
    const [first] = strung;
    found.push({
      id: `take-up ${entry.key}`,
      say:
        `Take-up of ${entry.name}: ${round(100 * (first!.takeUp ?? 0), 1)} % becomes ` +
        `${round(100 * parts.find((p) => p.id === first!.id)!.takeUp!, 1)} %, since ${round(used, 0)}\u00a0mm ` +
        `were used instead of ${round(computed, 0)}\u00a0mm`,
      reason: `${said}: ${round(used, 0)}\u00a0mm of ${entry.name} were used`,
      design: { ...design, parts },
    });
  }
  if (trial.minutes != null && trial.minutes !== (design.minutes ?? null)) {
    found.push({
      id: "minutes",
      say: `Minutes an item: ${design.minutes ?? "none said"} becomes ${trial.minutes}`,
      reason: `${said}: ${trial.minutes} minutes`,
      design: { ...design, minutes: trial.minutes },
    });
  }
  return found;
}
