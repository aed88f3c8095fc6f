import { chosenInBox, measuresOf } from "../bom/index.ts";
import { colourDifference } from "../component/index.ts";
import {
  type BoxDetail,
  type BoxOverrule,
  type Component,
  type Design,
  type FitCheck,
  type Measures,
  roleId,
} from "../contract/index.ts";
import { countWhole } from "../count/index.ts";
import { checkFit } from "./check.ts";
import { overruleAmong, overruleOf } from "./overrules.ts";

/** One design of a box in one variant and size, with the measures of what was chosen for it. */
export interface AskedInBox {
  line: string;
  first: string;
  second: string | null;
  size: string | null;
  option: string | null;
  design: Design;
  colourway: Record<string, Measures>;
  /** By key: the component that was chosen, and the box role it was chosen for. */
  chosen: Record<string, { component: string; boxRole: string }>;
}

/** All that is to be judged in a box: each line in each variant, in each size that it serves. */
export function askedOfBox(detail: BoxDetail): AskedInBox[] {
  const { box } = detail;
  const chosenIn = chosenInBox(detail);
  return box.variants.flatMap(({ first, second }) =>
    box.lines.flatMap((line): AskedInBox[] => {
      const found = chosenIn(line, first, second);
      if (!found) return [];
      const { design } = found.pinned;
      const colourway: Record<string, Measures> = {};
      const chosen: AskedInBox["chosen"] = {};
      for (const { key } of design.key) {
        const { boxRole, component } = found.componentOf(key);
        if (!boxRole || !component) continue;
        colourway[key] = measuresOf(component);
        chosen[key] = { component: component.id, boxRole: boxRole.id };
      }
      const sizes = line.size !== null ? [line.size] : design.sizes?.length ? design.sizes.map((s) => s.key) : [null];
      const option = line.option ?? design.options?.[0]?.key ?? null;
      return sizes.map((size) => ({ line: line.id, first, second, size, option, design, colourway, chosen }));
    }),
  );
}

/**
 * What fails because of what was chosen: the design alone does not fail so, and nobody let it stand with this choice.
 * @returns the checks, with the box's note where it stands by one
 */
export function judgeInBox(
  asked: AskedInBox,
  overrules: readonly BoxOverrule[],
): { check: FitCheck; stands: BoxOverrule | null }[] {
  const { design, size, option, colourway, chosen } = asked;
  const found = checkFit(countWhole(design, { size, option, colourway }), colourway);
  const wrong = found.checks.filter((c) => c.level === "fail");
  if (wrong.length === 0) return [];
  const alone = checkFit(countWhole(design, { size, option })).checks.filter((c) => c.level === "fail");
  const id = (c: FitCheck) => `${c.rule} ${c.part} ${c.key}`;
  const own = new Set(alone.map(id));
  return wrong
    .filter((c) => !own.has(id(c)) && overruleOf(design, size, c) === null)
    .map((check) => {
      const entry = design.key.find((e) => e.key === check.key);
      const here = overrules.filter(
        (o) =>
          o.line === asked.line &&
          o.first === asked.first &&
          o.second === asked.second &&
          o.component === chosen[check.key]?.component,
      );
      const stands = overruleAmong(here, entry ? roleId(entry) : check.key, size, check);
      return { check, stands: stands as BoxOverrule | null };
    });
}

/** One finding of a box, with every colourway and size in which it is the same. */
export interface BoxFinding {
  check: FitCheck;
  /** Which of what was asked has it: places in that list. */
  asked: number[];
  /** By that place: the box's note by which it stands. */
  stands: (BoxOverrule | null)[];
}

/** All findings of a box, like ones together. */
export function findingsOf(asked: readonly AskedInBox[], overrules: readonly BoxOverrule[]): BoxFinding[] {
  const found = new Map<string, BoxFinding>();
  asked.forEach((one, i) => {
    for (const { check, stands } of judgeInBox(one, overrules)) {
      const id = `${one.line} ${check.rule} ${check.part} ${check.key} ${check.need} ${check.have} ${stands !== null}`;
      const same = found.get(id) ?? { check, asked: [], stands: [] };
      found.set(id, same);
      if (same.asked.includes(i)) continue;
      same.asked.push(i);
      same.stands.push(stands);
    }
  });
  return [...found.values()];
}

/** So many are offered in place of one that doesn't fit. */
const OFFERED = 3;

/** Components of the same kind and form that would fit in place of the one that was chosen, the likest first. */
export function fittingInstead(asked: AskedInBox, check: FitCheck, components: readonly Component[]): Component[] {
  const now = components.find((c) => c.id === asked.chosen[check.key]?.component);
  if (!now) return [];
  const needed = Object.keys(measuresOf(now)) as (keyof Measures)[];
  const alike = components
    .filter((c) => c.id !== now.id && c.kind === now.kind && (now.form == null || c.form === now.form))
    // What nobody measured is not known to fit.
    .filter((c) => needed.every((measure) => measuresOf(c)[measure] != null))
    .map((c) => ({
      c,
      off: Math.abs((c.alongMm ?? 0) - (now.alongMm ?? 0)),
      hue: colourDifference(c.colour, now.colour),
    }))
    .sort((a, b) => a.off - b.off || a.hue - b.hue || a.c.name.localeCompare(b.c.name))
    .map(({ c }) => c);
  const found: Component[] = [];
  for (const c of alike.slice(0, 200)) {
    const colourway = { ...asked.colourway, [check.key]: measuresOf(c) };
    const { checks } = checkFit(
      countWhole(asked.design, { size: asked.size, option: asked.option, colourway }),
      colourway,
    );
    const same = checks.filter((x) => x.rule === check.rule && x.part === check.part && x.key === check.key);
    if (same.length > 0 && same.every((x) => x.level === "fine")) found.push(c);
    if (found.length === OFFERED) break;
  }
  return found;
}
