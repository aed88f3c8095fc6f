/** How long a piece comes out: its strand with what that is uncertain by, the finished piece, and round a wrist. */
import { alongStrand, type Counting, ofSize, type StrungPartOf } from "../count/index.ts";
import { measured, type Measured } from "../measured/index.ts";
import { lengthOf, methodsOf } from "../method/index.ts";

/**
 * How much beads differ along the thread where nobody measured it: one standard deviation as a share of the size.
 * Common practice, from memory; shown as a trade default.
 */
const SPREAD: readonly (readonly [RegExp, number])[] = [
  [/cylinder/, 0.015],
  [/seed/, 0.04],
  [/crystal|bicone/, 0.01],
  [/chip/, 0.15],
  [/pearl|shell/, 0.05],
  [/stone|ceramic|wood|resin/, 0.03],
];
const SPREAD_ELSE = 0.02;
/** The mean size itself is known about as well as a slide gauge over ten beads says: a share of it. */
const MEAN_U = 0.005;

/** A length with its standard uncertainty, mm. */
export interface Measure {
  mm: number;
  u: number;
  /** Whether a spread of the trade stands in for one that was measured. */
  isDefault: boolean;
}

/** One bead's standard deviation along the thread, mm, and whether it was measured. */
export function spreadOf(of: Measured): { mm: number; isDefault: boolean } {
  if (of.spreadMm != null) return { mm: of.spreadMm, isDefault: false };
  const said = `${of.form ?? ""} ${of.material ?? ""} ${of.name}`.toLowerCase();
  const share = SPREAD.find(([word]) => word.test(said))?.[1] ?? SPREAD_ELSE;
  return { mm: share * (of.alongMm ?? 0), isDefault: true };
}

/**
 * How uncertain a row is: beads vary at random, s√n for n of a kind, and all of a kind by the error of its mean size,
 * n times that; kinds are independent (JCGM 100:2008, 5.1).
 */
export function rowSpread(beads: readonly { n: number; s: number; meanU: number }[]): number {
  return Math.sqrt(beads.reduce((sum, { n, s, meanU }) => sum + n * s ** 2 + (n * meanU) ** 2, 0));
}

/** A part's strand with its standard uncertainty. */
export function strandOf(counting: Counting, strung: StrungPartOf): Measure {
  const roles = measured(counting.design, null);
  let isDefault = false;
  const beads = [...alongStrand(strung.whole)].flatMap(([key, n]) => {
    const role = roles.get(key);
    if (!role?.alongMm) return [];
    const spread = spreadOf(role);
    isDefault ||= spread.isDefault && n > 0;
    return [{ n, s: spread.mm, meanU: MEAN_U * role.alongMm }];
  });
  const ratio = strung.part.finishedRatio ?? 1;
  return { mm: strung.whole.strandMm * ratio, u: rowSpread(beads) * ratio, isDefault };
}

/** One member of what makes up a finished length. */
export interface Member {
  say: string;
  mm: number;
  /** Takes up what is left of the wanted length. */
  isRest: boolean;
}

/** Everything in series from one end of a part to the other: its strand, how its ends are made, what closes it. */
export function seriesOf(counting: Counting, strung: StrungPartOf): Member[] {
  const { design, answer } = counting;
  const { part } = strung;
  const roles = measured(design, null);
  const members: Member[] = [];
  const joined = strung.placings.some((p) => p.how === "joined" || p.how === "rest");
  if (!joined || part.stringing != null)
    members.push({
      say: part.name,
      mm: strung.whole.strandMm * (part.finishedRatio ?? 1),
      isRest: strung.settled !== null,
    });
  else {
    for (const { key, picked, how } of strung.placings) {
      if (picked === 0 || how === "hung") continue;
      const sub = design.parts.find((p) => p.as === key);
      const inside = sub && counting.parts.find((p) => p.part === sub);
      const one = inside ? inside.whole.strandMm * (sub.finishedRatio ?? 1) : (roles.get(key)?.alongMm ?? 0);
      members.push({ say: sub?.name ?? roles.get(key)?.name ?? key, mm: picked * one, isRest: how === "rest" });
    }
    const room = strung.whole.strandMm - members.reduce((sum, m) => sum + m.mm, 0);
    if (Math.abs(room) > 0.005) members.push({ say: "Room between", mm: room, isRest: strung.settled?.of === "room" });
  }
  const made = new Set<string>();
  for (const of of methodsOf(design, part)) {
    if (of.each !== null) continue;
    for (const key of Object.values(of.roles)) made.add(key);
    const mm = of.places * (lengthOf(of.definition.adds, of, (k, m) => roles.get(k)?.[m] ?? null, true) ?? 0);
    if (mm > 0)
      members.push({ say: `${of.definition.name}, ${of.places === 2 ? "both ends" : "one end"}`, mm, isRest: false });
  }
  for (const use of part.uses ?? []) {
    const role = roles.get(use.key);
    const n = ofSize(use.count, answer.size) ?? 0;
    if (use.forEach != null || n === 0 || role?.form !== "clasp" || !role.alongMm || made.has(use.key)) continue;
    members.push({ say: role.name, mm: n * role.alongMm, isRest: false });
  }
  return members;
}

/** How long a part comes out, from end to end: the one answer to it, whatever shows it. See {@link seriesOf}. */
export const finishedMm = (counting: Counting, strung: StrungPartOf): number =>
  seriesOf(counting, strung).reduce((sum, m) => sum + m.mm, 0);

/** How much of a part's finished length is not its strand: how its ends are made, and what closes it, mm. */
export const endsMm = (counting: Counting, strung: StrungPartOf): number =>
  finishedMm(counting, strung) - strung.whole.strandMm * (strung.part.finishedRatio ?? 1);

/** Room between body and piece where nobody said any, mm: usual ease, common practice. */
export const USUAL_EASE = 13;

/** What a closed loop of beads measures inside: the strand runs through their middles. Geometry. */
export const insideMm = (strandMm: number, thickMm: number) => strandMm - Math.PI * thickMm;

/** The strand that fits round a wrist with some ease. Geometry. */
export const strandFor = (bodyMm: number, easeMm: number, thickMm: number) => bodyMm + easeMm + Math.PI * thickMm;

/** The widest of the beads that a strand is made of; none where nothing is measured across. */
function widestOf(counting: Counting, strung: StrungPartOf): Measured | null {
  const roles = measured(counting.design, null);
  const wide = [...alongStrand(strung.whole).keys()].flatMap((key) => {
    const role = roles.get(key);
    return role?.acrossMm == null ? [] : [role];
  });
  return wide.reduce<Measured | null>((most, r) => (most === null || r.acrossMm! > most.acrossMm! ? r : most), null);
}

/** How thick a strand lies on the body: its widest bead, mm; null where none is measured. */
export const thickMm = (counting: Counting, strung: StrungPartOf): number | null =>
  widestOf(counting, strung)?.acrossMm ?? null;

/** Whether nobody measured that. */
export const isThickAssumed = (counting: Counting, strung: StrungPartOf): boolean =>
  widestOf(counting, strung)?.assumed.includes("acrossMm") ?? false;
