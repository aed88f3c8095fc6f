import type {
  BaseUnit,
  Box,
  BoxDetail,
  BoxLine,
  BoxRole,
  Component,
  Design,
  KeyEntry,
  Measures,
  Per,
  PinnedDesign,
} from "../contract/index.ts";
import { roleId } from "../contract/index.ts";
import { freeOf } from "../component/index.ts";
import { countKit, type Kit, onceABox } from "../count/index.ts";

/** How many boxes of one colourway (and second choice) the run makes, and what they take. */
export interface VariantBill {
  first: string;
  second: string | null;
  boxes: number;
  needs: Need[];
  gaps: Gap[];
}

/** So much of one component. Quantities are in the component's base unit. */
export interface Need {
  component: Component;
  perBox: number;
  /** The beads or other pieces a box takes, whatever they are kept in; null for what is cut. */
  piecesPerBox: number | null;
  run: number;
  from: NeedFrom[];
}

/** Where a need comes from: a line's design role, so many of a base unit a box. */
export interface NeedFrom {
  line: string;
  key: string;
  boxRole: string;
  /** With each item, once in a kit however many it makes, or once in the box. */
  per: Per;
  perBox: number;
  /** The same in pieces, or millimetres, whatever the component is kept in. */
  taken: number;
}

/** A role that nobody has chosen a component for yet. */
export interface Gap {
  boxRole: BoxRole;
  perBox: number;
  unit: "piece" | "mm";
}

export interface Bill {
  variants: VariantBill[];
  /** Every component once, over the whole run. */
  totals: ComponentTotal[];
  problems: { line: string; message: string }[];
}

export interface ComponentTotal {
  component: Component;
  run: number;
  /** Needed and not free. */
  short: number;
}

/**
 * The bill of materials of a box: every design of it, counted in every colourway with the assigned components' own
 * measures. A need is rounded once, for the run: pieces are whole, millimetres and grams to 3 places upwards.
 */
export const billOf = (detail: BoxDetail): Bill => makeBilling()(detail);

/** What a variant's bill is worked out from: where nothing of it changed, nor does what a box takes. */
interface Worked {
  lookUp: LookUp;
  /** The chosen component of each role of the box, in the roles' order. */
  chosen: (Component | undefined)[];
  problems: Bill["problems"];
  bill: VariantBill;
}

/**
 * Makes bills of one box, one after another, as {@link billOf} does: a variant whose choices did not change since the
 * last bill is not counted again, and is the same object where its number of boxes did not change either.
 */
export function makeBilling(): (detail: BoxDetail) => Bill {
  let lookUp: LookUp | null = null;
  let last = new Map<string, Worked>();
  return (detail) => {
    lookUp = lookUpOf(detail, lookUp);
    const now = new Map<string, Worked>();
    for (const variant of detail.box.variants) {
      const key = `${variant.first} ${variant.second ?? ""}`;
      now.set(key, workOut(detail, lookUp, variant, last.get(key)));
    }
    last = now;
    const worked = [...now.values()];
    const problems = new Map(worked.flatMap((w) => w.problems.map((p) => [`${p.line} ${p.message}`, p] as const)));
    const variants = worked.map((w) => w.bill);
    return { variants, totals: totalsOf(variants), problems: [...problems.values()] };
  };
}

function workOut(
  { box }: BoxDetail,
  lookUp: LookUp,
  { first, second, boxes }: Box["variants"][number],
  before: Worked | undefined,
): Worked {
  const chosen = box.roles.map((role) => lookUp.chosen(role, first, second));
  const same =
    before?.lookUp.structure === lookUp.structure && before.chosen.every((component, i) => component === chosen[i]);
  if (same && before.bill.boxes === boxes) return { ...before, lookUp };
  const { needs, gaps, problems } = same
    ? { ...before.bill, problems: before.problems }
    : countVariant(box, lookUp, first, second);
  const run = needs.map((n) => ({ ...n, run: roundUp(n.perBox * boxes, n.component.baseUnit) }));
  return { lookUp, chosen, problems, bill: { first, second, boxes, needs: run, gaps } };
}

/** What one box of a variant takes: needs without their run, gaps, and what is wrong. */
function countVariant(box: Box, lookUp: LookUp, first: string, second: string | null) {
  const problems: Bill["problems"] = [];
  const report = (line: string, message: string) => {
    if (!problems.some((p) => p.line === line && p.message === message)) problems.push({ line, message });
  };
  const needs = new Map<string, Need>();
  const gaps = new Map<string, Gap>();
  /** What is there once a box, by what was chosen for it: so many are in it already. */
  const once = new Map<string, number>();
  for (const line of box.lines) {
    const counted = lookUp.count(line, first, second);
    if (!counted) {
      report(line.id, "The design of this line is missing.");
      continue;
    }
    const { kit, componentOf, pinned } = counted;
    const { name } = pinned.design;
    for (const p of kit.problems) if (p.level === "error") report(line.id, `${name}: ${p.message}`);

    const need = (key: string, asked: number, unit: "piece" | "mm", per: Per) => {
      const { boxRole, component } = componentOf(key);
      if (!boxRole) return report(line.id, `${name}: ${key} is not on the colour tray yet.`);
      let perBox = asked;
      if (per === "box") {
        const what = component?.id ?? boxRole.id;
        perBox = Math.max(0, asked - (once.get(what) ?? 0));
        once.set(what, Math.max(asked, once.get(what) ?? 0));
      }
      if (perBox === 0) return;
      if (!component) {
        const gap = gaps.get(boxRole.id) ?? { boxRole, perBox: 0, unit };
        gaps.set(boxRole.id, { ...gap, perBox: gap.perBox + perBox });
        return;
      }
      const quantity = inBaseUnit(perBox, unit, component);
      if (typeof quantity === "string") return report(line.id, `${name}: ${quantity}`);
      const known = needs.get(component.id) ?? {
        component,
        perBox: 0,
        piecesPerBox: unit === "piece" ? 0 : null,
        run: 0,
        from: [],
      };
      known.perBox += quantity;
      if (known.piecesPerBox !== null) known.piecesPerBox += perBox;
      known.from.push({ line: line.id, key, boxRole: boxRole.id, per, perBox: quantity, taken: perBox });
      needs.set(component.id, known);
    };
    for (const [key, n] of Object.entries(kit.counts)) need(key, n * line.times, "piece", "item");
    for (const [key, n] of Object.entries(kit.perKit)) {
      const box = onceABox(pinned.design, key, kit.perKit);
      need(key, n - box, "piece", "kit");
      need(key, box, "piece", "box");
    }
    for (const [key, mm] of Object.entries(kit.lengthsMm)) need(key, mm * line.times, "mm", "item");
  }
  return { needs: [...needs.values()], gaps: [...gaps.values()], problems };
}

function totalsOf(variants: readonly VariantBill[]): ComponentTotal[] {
  const totals = new Map<string, ComponentTotal>();
  for (const { needs } of variants) {
    for (const { component, run } of needs) {
      const total = totals.get(component.id);
      if (total) total.run += run;
      else totals.set(component.id, { component, run, short: 0 });
    }
  }
  for (const total of totals.values()) {
    const { baseUnit } = total.component;
    total.run = roundUp(total.run, baseUnit);
    total.short = Math.max(0, roundUp(total.run - freeOf(total.component), baseUnit));
  }
  return [...totals.values()];
}

interface CountedLine {
  line: BoxLine;
  pinned: PinnedDesign;
  kit: Kit;
  /** The box role that a key of the design is bound to, and what was chosen for it in this variant. */
  componentOf: (key: string) => { boxRole: BoxRole | undefined; component: Component | undefined };
}

/** What of a box says which design and role is meant, whatever is chosen for it. */
interface Structure {
  lines: Box["lines"];
  roles: Box["roles"];
  bindings: Box["bindings"];
  designs: readonly PinnedDesign[];
  pinnedOf: (line: BoxLine) => PinnedDesign | undefined;
  roleOf: (line: BoxLine, entry: KeyEntry) => BoxRole | undefined;
  entriesOf: (pinned: PinnedDesign) => ReadonlyMap<string, KeyEntry>;
}

/** Finds designs, roles and choices of a box by their ids, for many questions. */
interface LookUp {
  structure: Structure;
  chosen: (role: BoxRole, first: string, second: string | null) => Component | undefined;
  count: (line: BoxLine, first: string, second: string | null) => CountedLine | null;
}

function structureOf(
  { box: { lines, roles, bindings }, designs }: BoxDetail,
  before: Structure | undefined,
): Structure {
  if (
    before?.lines === lines &&
    before.roles === roles &&
    before.bindings === bindings &&
    sameItems(before.designs, designs)
  ) {
    return before;
  }
  const pinned = new Map(designs.map((d) => [`${d.designId} ${d.revision}`, d]));
  const byId = new Map(roles.map((r) => [r.id, r]));
  const bound = new Map(bindings.map((b) => [`${b.line} ${b.role}`, b.boxRole]));
  const entries = new Map<PinnedDesign, Map<string, KeyEntry>>();
  return {
    lines,
    roles,
    bindings,
    designs,
    pinnedOf: (line) => pinned.get(`${line.designId} ${line.revision}`),
    roleOf: (line, entry) => byId.get(bound.get(`${line.id} ${roleId(entry)}`) ?? ""),
    entriesOf: (of) => {
      const known = entries.get(of) ?? new Map(of.design.key.map((e) => [e.key, e]));
      entries.set(of, known);
      return known;
    },
  };
}

const sameItems = <T>(a: readonly T[], b: readonly T[]) =>
  a === b || (a.length === b.length && a.every((item, i) => item === b[i]));

function lookUpOf(detail: BoxDetail, before: LookUp | null = null): LookUp {
  const structure = structureOf(detail, before?.structure);
  const byId = new Map(detail.components.map((c) => [c.id, c]));
  const pick = picker(detail.box);
  const chosen: LookUp["chosen"] = (role, first, second) => byId.get(pick(role, first, second) ?? "");
  return {
    structure,
    chosen,
    count(line, first, second) {
      const pinned = structure.pinnedOf(line);
      if (!pinned) return null;
      const entries = structure.entriesOf(pinned);
      const componentOf: CountedLine["componentOf"] = (key) => {
        const entry = entries.get(key);
        const boxRole = entry && structure.roleOf(line, entry);
        return { boxRole, component: boxRole && chosen(boxRole, first, second) };
      };
      // A count follows the chosen components' own measures.
      const colourway: Record<string, Measures> = {};
      for (const entry of pinned.design.key) {
        const c = entry.kind === "mix" ? undefined : componentOf(entry.key).component;
        if (c)
          colourway[entry.key] = { alongMm: c.alongMm ?? null, holeMm: c.holeMm ?? null, linkMm: c.linkMm ?? null };
      }
      return { line, pinned, kit: countKit(pinned.design, line.size, line.option, colourway), componentOf };
    },
  };
}

/** One line of a box, counted for a variant. */
export function countLineOf(
  detail: BoxDetail,
  variant: Pick<VariantBill, "first" | "second">,
  lineId: string,
): CountedLine | null {
  const line = detail.box.lines.find((l) => l.id === lineId);
  return line ? lookUpOf(detail).count(line, variant.first, variant.second) : null;
}

/** Finds the component chosen for a box role in a variant, by what the role follows. */
export function picker(box: Pick<Box, "picks">) {
  const chosen = new Map(box.picks.map((p) => [`${p.boxRole} ${p.first} ${p.second}`, p.component]));
  return (role: BoxRole, first: string, second: string | null): string | undefined => {
    const [a, b] = axesOf(role, first, second);
    return chosen.get(`${role.id} ${a} ${b}`);
  };
}

/** The place on the tray where a role's choice for a variant stands. */
export function axesOf(role: BoxRole, first: string, second: string | null): [string | null, string | null] {
  return [
    role.follows === "first" || role.follows === "both" ? first : null,
    role.follows === "second" || role.follows === "both" ? second : null,
  ];
}

/** So many pieces, or millimetres, in the component's base unit; or why that can't be said. */
function inBaseUnit(n: number, unit: "piece" | "mm", component: Component): number | string {
  const { baseUnit, name, perGram } = component;
  if (unit === baseUnit) return n;
  if (unit === "piece" && baseUnit === "g") {
    return perGram ? n / perGram : `${name} is kept in grams; say how many go to a gram to count it.`;
  }
  return unit === "mm"
    ? `${name} is kept by the ${baseUnit === "g" ? "gram" : "piece"}, but it is cut to length here. Choose ` +
        "something kept in millimetres."
    : `${name} is kept by length, but it is counted here. Choose something kept in pieces or grams.`;
}

/** Pieces to whole ones, lengths and masses to 3 places, upwards: never a bead short for a rounding. */
export function roundUp(n: number, unit: BaseUnit): number {
  const grid = unit === "piece" ? 1 : 1000;
  return Math.ceil(n * grid - 1e-6) / grid || 0;
}

/** The keys of a design that take something from stock in any size or option: these stand on the colour tray. */
export function usedKeys(design: Design): string[] {
  const kit = countKit(design, null, null, null);
  const used = new Set([...Object.keys(kit.counts), ...Object.keys(kit.perKit), ...Object.keys(kit.lengthsMm)]);
  return design.key.filter((entry) => used.has(entry.key)).map((entry) => entry.key);
}

/**
 * How many of the planned boxes can be made from what is on hand, colourway by colourway in their order: a greedy
 * answer, since what one colourway takes of a shared component the next can't have.
 */
export function makeable(bill: Bill): { boxes: number; heldBackBy: Component | null } {
  const left = new Map(bill.totals.map((t) => [t.component.id, Math.max(0, freeOf(t.component))]));
  let boxes = 0;
  let heldBackBy: Component | null = null;
  for (const variant of bill.variants) {
    let possible = variant.gaps.length > 0 ? 0 : variant.boxes;
    for (const need of variant.needs) {
      const enough = need.perBox > 0 ? Math.floor(left.get(need.component.id)! / need.perBox + 1e-9) : possible;
      if (enough >= possible) continue;
      possible = enough;
      heldBackBy ??= need.component;
    }
    for (const need of variant.needs)
      left.set(need.component.id, left.get(need.component.id)! - need.perBox * possible);
    boxes += possible;
  }
  return { boxes, heldBackBy };
}
