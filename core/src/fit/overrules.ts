import { type Design, type FitCheck, Overrule, roleId } from "../contract/index.ts";

const read = new WeakMap<object, readonly Overrule[]>();
const NONE: readonly Overrule[] = [];

/** What somebody let stand in a design. */
export function overrulesIn(design: Pick<Design, "overrules">): readonly Overrule[] {
  const { overrules } = design;
  if (!Array.isArray(overrules)) return NONE;
  let known = read.get(overrules);
  if (!known) {
    known = overrules.flatMap((x) => {
      const found = Overrule.safeParse(x);
      return found.success ? [found.data] : [];
    });
    read.set(overrules, known);
  }
  return known;
}

const idOf = (design: Design, key: string) => {
  const entry = design.key.find((e) => e.key === key);
  return entry ? roleId(entry) : key;
};

/** The note by which a check is let stand; null where there is none, or where it has become worse since. */
export function overruleOf(design: Design, size: string | null, check: FitCheck): Overrule | null {
  return overruleAmong(overrulesIn(design), idOf(design, check.key), size, check);
}

/** As {@link overruleOf}, among notes that are kept anywhere. */
export const overruleAmong = (
  list: readonly Overrule[],
  roleId: string,
  size: string | null,
  { rule, part, need, have }: FitCheck,
): Overrule | null =>
  list.find(
    (o) =>
      o.rule === rule &&
      o.part === part &&
      o.roleId === roleId &&
      (o.size === null || o.size === size) &&
      need <= o.need + 1e-6 &&
      have >= o.have - 1e-6,
  ) ?? null;

/** A design in which a check is let stand, with the note that says why. */
export function letStand(
  design: Design,
  size: string | null,
  { rule, part, key, need, have }: FitCheck,
  said: { note: string; who: string; on: string },
): Design {
  const id = idOf(design, key);
  const others = overrulesIn(design).filter(
    (o) => !(o.rule === rule && o.part === part && o.roleId === id && o.size === size),
  );
  return { ...design, overrules: [...others, { rule, part, roleId: id, size, need, have, ...said }] };
}

/** A design without one of its notes. */
export const judgeAgain = (design: Design, gone: Overrule): Design => {
  const left = overrulesIn(design).filter((o) => o !== gone);
  return { ...design, overrules: left.length > 0 ? left : undefined };
};
