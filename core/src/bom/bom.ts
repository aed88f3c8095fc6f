import type {
  BaseUnit,
  Box,
  BoxDetail,
  BoxLine,
  BoxRole,
  Component,
  ComponentInput,
  Design,
  KeyEntry,
  Measures,
  Per,
  PinnedDesign,
} from "../contract/index.ts";
import { roleId } from "../contract/index.ts";
import { BESIDE, TOGETHER } from "./which.ts";
import { freeOf } from "../component/index.ts";
import { closingKeys, countKit, type Kit, onceABox } from "../count/index.ts";
import { addCuts, measuredCut, measuredCuts, type Stretch, sumOf } from "../cut/index.ts";
import { upInSteps } from "../units/index.ts";
import { spareOf, steadyCost } from "./spares.ts";

/** How many boxes of one colourway (and second choice) the run makes, and what they take. */
export interface VariantBill {
  first: string;
  second: string | null;
  boxes: number;
  needs: Need[];
  gaps: Gap[];
  /** What one box takes: the same for as long as that does not change, whatever the number of boxes. */
  aBox: object;
}

/** So much of one component. Quantities are in the component's base unit. */
export interface Need {
  component: Component;
  /** What a box needs, without what it holds to spare. */
  perBox: number;
  /** The beads or other pieces a box needs, whatever they are kept in; null for what is cut. */
  piecesPerBox: number | null;
  /** What a box holds to spare: whole pieces, or grams to 3 places, rounded up in each bag. */
  spare: number;
  /** Which rule gave it, by its name; null where none did. Several bags may have it by several rules. */
  rule: string | null;
  /** What is cut for one box, as it is measured, spare cuts too, the longest first; empty for what is not cut. */
  pieces: Stretch[];
  /** (perBox + spare) × boxes, rounded up once. */
  run: number;
  bags: Bag[];
  from: NeedFrom[];
  /** What of it lies beside the designs, by the content's id. */
  beside: Beside[];
}

/** So much of something that lies beside the designs; in whole packs, how many of which. */
export interface Beside {
  content: string;
  perBox: number;
  pack: string | null;
  packs: number;
}

/** What one bag of a box holds of a component. */
export interface Bag {
  /** A line's id, or {@link TOGETHER}, or {@link BESIDE}. */
  of: string;
  perBox: number;
  /** How many pieces, or cuts, that is; grams where nothing can be counted. */
  counted: number;
  spare: number;
  /** The spare in what is counted. */
  more: number;
  rule: string | null;
  /** What is cut for it, spare cuts among them. */
  pieces: Stretch[];
}

/** Where a need comes from: a line's design role, so many of a base unit a box. */
export interface NeedFrom {
  line: string;
  key: string;
  boxRole: string;
  /** With each item, once in a kit however many it makes, or once in the box. */
  per: Per;
  /** Comes once a box, whichever of its designs ask for it: of what this one asks only so much was not there yet. */
  shared: boolean;
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
  /** What is cut for the whole run. */
  cuts: Stretch[];
  /** What is there for this box, before its own needs. */
  left: number;
  /** The same as pieces, of what is cut; where that is not known, nothing. */
  pieces?: readonly Stretch[];
  /** Needed and not there for it. */
  short: number;
  /** Where it is short: the boxes that come before it and take of what is there, in the order of who comes first. */
  because: { box: string; quantity: number }[];
}

/** Says what of a component there is for a box, and who took the rest; null where it knows nothing of it. */
export type Sharing = (total: {
  component: Pick<Component, "id" | "baseUnit">;
  run: number;
  cuts: readonly Stretch[];
}) => (Pick<ComponentTotal, "left" | "pieces" | "short" | "because"> & { lacking?: readonly Stretch[] }) | null;

/** With no other box in the way: what is free. */
const alone = ({ component, run }: Pick<ComponentTotal, "component" | "run">) => {
  const left = freeOf(component);
  return { left, short: Math.max(0, roundUp(run - left, component.baseUnit)), because: [] };
};

/**
 * The bill of materials of a box: every design of it, counted in every colourway with the assigned components' own
 * measures. A need is rounded once, for the run: pieces are whole, lengths and grams on their steps, upwards.
 */
export const billOf = (detail: BoxDetail, sharing?: Sharing): Bill => makeBilling()(detail, sharing);

/** What a variant's bill is worked out from: where nothing of it changed, nor does what a box takes. */
interface Worked {
  lookUp: LookUp;
  /** The chosen component of each role of the box, in the roles' order, and of what lies beside the designs. */
  chosen: (Component | undefined)[];
  problems: Bill["problems"];
  bill: VariantBill;
}

/**
 * Makes bills of one box, one after another, as {@link billOf} does: a variant whose choices did not change since the
 * last bill is not counted again, and is the same object where its number of boxes did not change either.
 */
export function makeBilling(): (detail: BoxDetail, sharing?: Sharing) => Bill {
  let lookUp: LookUp | null = null;
  let last = new Map<string, Worked>();
  let made: { detail: BoxDetail; sharing: Sharing | undefined; bill: Bill } | null = null;
  return (detail, sharing) => {
    if (made && made.sharing === sharing && countsTheSame(made.detail, detail)) return made.bill;
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
    let totals: ComponentTotal[] | null = null;
    const bill: Bill = {
      variants,
      // Only added up where somebody asks for it.
      get totals() {
        return (totals ??= totalsOf(variants, sharing));
      },
      problems: [...problems.values()],
    };
    made = { detail, sharing, bill };
    return bill;
  };
}

/** What of a box nothing is counted by: names, days, prices, what was tried. */
const UNCOUNTED: ReadonlySet<string> = new Set([
  "id",
  "version",
  "month",
  "theme",
  "packBy",
  "prices",
  "whatIfs",
  "overrules",
]);

/** Whether a bill of the one is a bill of the other: all that is counted is the same object still. */
function countsTheSame(a: BoxDetail, b: BoxDetail): boolean {
  if (a.designs !== b.designs || a.components !== b.components) return false;
  if (a.spares !== b.spares || a.ruler !== b.ruler) return false;
  const fields = Object.keys({ ...a.box, ...b.box }) as (keyof Box)[];
  return fields.every((field) => UNCOUNTED.has(field) || a.box[field] === b.box[field]);
}

function workOut(
  { box }: BoxDetail,
  lookUp: LookUp,
  { first, second, boxes }: Box["variants"][number],
  before: Worked | undefined,
): Worked {
  const chosen = [
    ...box.roles.map((role) => lookUp.chosen(role, first, second)),
    ...box.contents.map((content) => lookUp.byId(content.component)),
  ];
  const same =
    before?.lookUp.structure === lookUp.structure && before.chosen.every((component, i) => component === chosen[i]);
  if (same && before.bill.boxes === boxes) return { ...before, lookUp };
  const counted = same ? null : countVariant(box, lookUp, first, second);
  const { needs, gaps, problems } = counted ?? { ...before!.bill, problems: before!.problems };
  const run = needs.map((n) => ({ ...n, run: roundUp((n.perBox + n.spare) * boxes, n.component.baseUnit) }));
  return {
    lookUp,
    chosen,
    problems,
    bill: { first, second, boxes, needs: run, gaps, aBox: counted ?? before!.bill.aBox },
  };
}

/** How long a link is, of chain: the component's, else as the design says of its role. */
export const linkOf = (component: Component | undefined, design: Design, key: string) =>
  component?.linkMm ?? design.key.find((e) => e.key === key)?.linkMm;

/** What is gathered for one bag: so much of a component, before anything is put in to spare. */
interface Gathered {
  of: string;
  perBox: number;
  counted: number;
  cuts: Stretch[];
  closes: boolean;
  /** Said by a person; the most, where several did. */
  said: number | null;
  /** Whole packs: no rule puts more beside them. */
  packed: boolean;
}

/** What one box of a variant takes: needs without their run, gaps, and what is wrong. */
function countVariant(box: Box, lookUp: LookUp, first: string, second: string | null) {
  const problems: Bill["problems"] = [];
  const report = (line: string, message: string) => {
    if (!problems.some((p) => p.line === line && p.message === message)) problems.push({ line, message });
  };
  const needs = new Map<string, { need: Need; bags: Map<string, Gathered> }>();
  const gaps = new Map<string, Gap>();
  /** What is there once a box, by what was chosen for it: so many are in it already. */
  const once = new Map<string, number>();
  const gather = (component: Component, more: Gathered): Need => {
    let known = needs.get(component.id);
    if (!known) {
      const counts = component.baseUnit !== "mm";
      const need: Need = {
        component,
        perBox: 0,
        piecesPerBox: counts ? 0 : null,
        spare: 0,
        rule: null,
        pieces: [],
        run: 0,
        bags: [],
        from: [],
        beside: [],
      };
      known = { need, bags: new Map() };
      needs.set(component.id, known);
    }
    const { need, bags } = known;
    const bag = bags.get(more.of);
    need.perBox += more.perBox;
    if (need.piecesPerBox !== null) need.piecesPerBox += more.counted;
    if (!bag) {
      // This object is made for its bag alone.
      if (more.cuts.length > 0) more.cuts = addCuts([], more.cuts);
      bags.set(more.of, more);
    } else {
      bag.perBox += more.perBox;
      bag.counted += more.counted;
      if (more.cuts.length > 0) bag.cuts = addCuts(bag.cuts, more.cuts);
      bag.closes ||= more.closes;
      bag.packed &&= more.packed;
      if (more.said !== null) bag.said = Math.max(more.said, bag.said ?? 0);
    }
    return need;
  };
  for (const line of box.lines) {
    const counted = lookUp.count(line, first, second);
    if (!counted) {
      report(line.id, "The design of this line is missing.");
      continue;
    }
    const { kit, componentOf, pinned } = counted;
    const { name } = pinned.design;
    for (const p of kit.problems) if (p.level === "error") report(line.id, `${name}: ${p.message}`);
    const closing = closingKeys(pinned.design);
    const bag = box.bagging === "project" ? line.id : TOGETHER;

    const need = (key: string, asked: number, unit: "piece" | "mm", per: Per, cuts: Stretch[] = []) => {
      const { boxRole, component } = componentOf(key);
      if (!boxRole) return report(line.id, `${name}: ${key} is not on the colour tray yet.`);
      const shared = per === "box" || (per === "kit" && boxRole.onceABox === true);
      let perBox = asked;
      if (shared) {
        const what = `${per} ${component?.id ?? boxRole.id}`;
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
      const known = gather(component, {
        of: bag,
        perBox: quantity,
        counted: unit === "mm" ? cuts.reduce((n, c) => n + c.count, 0) : perBox,
        cuts,
        closes: closing.has(key),
        said: boxRole.spare ?? null,
        packed: false,
      });
      known.from.push({ line: line.id, key, boxRole: boxRole.id, per, shared, perBox: quantity, taken: perBox });
    };
    for (const [key, n] of Object.entries(kit.counts)) need(key, n * line.times, "piece", "item");
    for (const [key, n] of Object.entries(kit.perKit)) {
      const box = onceABox(pinned.design, key, kit.perKit);
      need(key, n - box, "piece", "kit");
      need(key, box, "piece", "box");
    }
    for (const [key, mm] of Object.entries(kit.lengthsMm)) {
      const linkMm = linkOf(componentOf(key).component, pinned.design, key);
      const pieces = (kit.pieces[key] ?? []).map(({ mm, count }) => ({ mm, count: count * line.times }));
      const cuts = measuredCuts(pieces, lookUp.structure.ruler, linkMm);
      need(key, cuts.length > 0 ? sumOf(cuts) : mm * line.times, "mm", "item", cuts);
    }
  }
  for (const content of box.contents) {
    const component = lookUp.byId(content.component);
    if (content.first !== null && content.first !== first) continue;
    if (!component) {
      report(content.id, "What lies beside the designs is missing here: choose another component.");
      continue;
    }
    const { baseUnit, perGram } = component;
    const cut = content.pack
      ? { mm: content.pack.amount, count: content.quantity }
      : { mm: measuredCut(content.quantity, lookUp.structure.ruler, component.linkMm), count: 1 };
    const whole = content.quantity * (content.pack?.amount ?? 1);
    const perBox = baseUnit === "mm" ? sumOf([cut]) : whole;
    const known = gather(component, {
      of: BESIDE,
      perBox,
      counted: baseUnit === "mm" ? cut.count : baseUnit === "g" && perGram ? Math.round(perBox * perGram) : perBox,
      cuts: baseUnit === "mm" ? [cut] : [],
      closes: false,
      said: content.spare ?? null,
      packed: content.pack != null,
    });
    known.beside.push({
      content: content.id,
      perBox,
      pack: content.pack?.name ?? null,
      packs: content.pack ? content.quantity : 0,
    });
  }
  const material = lookUp.rules.some((r) => r.shareOver != null) ? materialOf([...needs.values()]) : 0;
  const spared = [...needs.values()].map(({ need, bags }) =>
    withSpares(need, [...bags.values()], lookUp.rules, material),
  );
  return { needs: spared, gaps: [...gaps.values()], problems };
}

/** What a box's material costs without spares and packaging; what nobody knows the cost of is left out. */
const materialOf = (needs: readonly { need: Need }[]): number =>
  needs.reduce(
    (sum, { need: { component, perBox } }) =>
      component.kind === "packaging" ? sum : sum + (steadyCost(component) ?? 0) * perBox,
    0,
  );

/** A need with what each of its bags holds to spare. */
function withSpares(need: Need, bags: readonly Gathered[], rules: BoxDetail["spares"], material: number): Need {
  const { component } = need;
  const cost = material > 0 && component.baseUnit === "piece" ? steadyCost(component) : null;
  const share = cost === null ? null : cost / material;
  const filled = bags.map((bag) => {
    const { more, rule } = spareOf(component, { ...bag, share }, rules);
    const longest = bag.cuts[0]?.mm ?? 0;
    const each =
      component.baseUnit === "mm"
        ? longest
        : component.baseUnit === "g" && bag.counted > 0
          ? bag.perBox / bag.counted
          : 1;
    const spare = more === 0 ? 0 : roundUp(more * each, component.baseUnit);
    const cuts = component.baseUnit === "mm" && more > 0 ? addCuts(bag.cuts, [{ mm: longest, count: more }]) : bag.cuts;
    return { of: bag.of, perBox: bag.perBox, counted: bag.counted, spare, more, rule, pieces: cuts };
  });
  const named = [...new Set(filled.flatMap((bag) => (bag.rule === null ? [] : [bag.rule])))];
  return {
    ...need,
    spare: roundUp(
      filled.reduce((sum, bag) => sum + bag.spare, 0),
      component.baseUnit,
    ),
    rule: named.length === 0 ? null : named.join("; "),
    pieces: filled.reduce<Stretch[]>((all, bag) => addCuts(all, bag.pieces), []),
    bags: filled,
  };
}

/** Every component once, over the whole run, with what there is of it for the box. */
export function totalsOf(variants: readonly VariantBill[], sharing: Sharing | undefined): ComponentTotal[] {
  const sums = new Map<string, { component: Component; run: number; cuts: Stretch[] }>();
  for (const { needs, boxes } of variants) {
    for (const { component, run, pieces } of needs) {
      const sum = sums.get(component.id) ?? { component, run: 0, cuts: [] };
      sum.run += run;
      if (pieces.length > 0) sum.cuts = addCuts(sum.cuts, pieces, boxes);
      sums.set(component.id, sum);
    }
  }
  return [...sums.values()].map((sum) => {
    const total = { ...sum, run: roundUp(sum.run, sum.component.baseUnit) };
    const { left, pieces, short, because } = sharing?.(total) ?? { ...alone(total), pieces: undefined };
    return { ...total, left, short, because, ...(pieces ? { pieces } : {}) };
  });
}

interface ChosenLine {
  line: BoxLine;
  pinned: PinnedDesign;
  /** The box role that a key of the design is bound to, and what was chosen for it in this variant. */
  componentOf: (key: string) => { boxRole: BoxRole | undefined; component: Component | undefined };
}

/** The same, counted. */
interface CountedLine extends ChosenLine {
  kit: Kit;
}

/** What of a box says which design and role is meant, whatever is chosen for it. */
interface Structure {
  lines: Box["lines"];
  roles: Box["roles"];
  bindings: Box["bindings"];
  contents: Box["contents"];
  bagging: Box["bagging"];
  rules: BoxDetail["spares"];
  ruler: BoxDetail["ruler"];
  designs: readonly PinnedDesign[];
  pinnedOf: (line: BoxLine) => PinnedDesign | undefined;
  roleOf: (line: BoxLine, entry: KeyEntry) => BoxRole | undefined;
  entriesOf: (pinned: PinnedDesign) => ReadonlyMap<string, KeyEntry>;
  /** What was counted of a line in a variant, and with which components: another rule of spares counts nothing anew. */
  kits: Map<string, { chosen: (Component | undefined)[]; kit: Kit }>;
}

/** Finds designs, roles and choices of a box by their ids, for many questions. */
interface LookUp {
  structure: Structure;
  rules: BoxDetail["spares"];
  byId: (component: string) => Component | undefined;
  chosen: (role: BoxRole, first: string, second: string | null) => Component | undefined;
  chosenIn: (line: BoxLine, first: string, second: string | null) => ChosenLine | null;
  count: (line: BoxLine, first: string, second: string | null) => CountedLine | null;
}

function structureOf(
  { box: { lines, roles, bindings, contents, bagging }, designs, spares: rules, ruler }: BoxDetail,
  before: Structure | undefined,
): Structure {
  if (
    before?.lines === lines &&
    before.roles === roles &&
    before.bindings === bindings &&
    before.contents === contents &&
    before.bagging === bagging &&
    before.rules === rules &&
    before.ruler === ruler &&
    sameItems(before.designs, designs)
  ) {
    return before;
  }
  const sameCounts =
    before?.lines === lines &&
    before.roles === roles &&
    before.bindings === bindings &&
    sameItems(before.designs, designs);
  const pinned = new Map(designs.map((d) => [`${d.designId} ${d.revision}`, d]));
  const byId = new Map(roles.map((r) => [r.id, r]));
  const bound = new Map(bindings.map((b) => [`${b.line} ${b.role}`, b.boxRole]));
  const entries = new Map<PinnedDesign, Map<string, KeyEntry>>();
  return {
    lines,
    roles,
    bindings,
    contents,
    bagging,
    rules,
    ruler,
    designs,
    pinnedOf: (line) => pinned.get(`${line.designId} ${line.revision}`),
    roleOf: (line, entry) => byId.get(bound.get(`${line.id} ${roleId(entry)}`) ?? ""),
    entriesOf: (of) => {
      const known = entries.get(of) ?? new Map(of.design.key.map((e) => [e.key, e]));
      entries.set(of, known);
      return known;
    },
    kits: sameCounts ? before.kits : new Map(),
  };
}

const sameItems = <T>(a: readonly T[], b: readonly T[]) =>
  a === b || (a.length === b.length && a.every((item, i) => item === b[i]));

function lookUpOf(detail: BoxDetail, before: LookUp | null = null): LookUp {
  const structure = structureOf(detail, before?.structure);
  const byId = new Map(detail.components.map((c) => [c.id, c]));
  const pick = picker(detail.box);
  const chosenFor: LookUp["chosen"] = (role, first, second) => byId.get(pick(role, first, second) ?? "");
  const chosenIn: LookUp["chosenIn"] = (line, first, second) => {
    const pinned = structure.pinnedOf(line);
    if (!pinned) return null;
    const entries = structure.entriesOf(pinned);
    const componentOf: ChosenLine["componentOf"] = (key) => {
      const entry = entries.get(key);
      const boxRole = entry && structure.roleOf(line, entry);
      return { boxRole, component: boxRole && chosenFor(boxRole, first, second) };
    };
    return { line, pinned, componentOf };
  };
  return {
    structure,
    rules: detail.spares,
    byId: (component) => byId.get(component),
    chosen: chosenFor,
    chosenIn,
    count(line, first, second) {
      const found = chosenIn(line, first, second);
      if (!found) return null;
      const { pinned, componentOf } = found;
      // A count follows the chosen components' own measures.
      const chosen = pinned.design.key.map((e) => (e.kind === "mix" ? undefined : componentOf(e.key).component));
      const at = `${line.id} ${first} ${second}`;
      const known = structure.kits.get(at);
      if (known?.chosen.every((c, i) => c === chosen[i])) return { ...found, kit: known.kit };
      const colourway: Record<string, Measures> = {};
      pinned.design.key.forEach(({ key }, i) => {
        const c = chosen[i];
        if (c) colourway[key] = measuresOf(c);
      });
      const kit = countKit(pinned.design, line.size, line.option, colourway);
      structure.kits.set(at, { chosen, kit });
      return { ...found, kit };
    },
  };
}

/** What was chosen for each line of a box in any variant: looked up once for all of them, and not counted. */
export const chosenInBox = (detail: BoxDetail) => lookUpOf(detail).chosenIn;

/** What a component puts in place of a role's own measures, as count and checks read it. */
export const measuresOf = (c: Partial<Pick<ComponentInput, (typeof MEASURES)[number]>>): Measures =>
  Object.fromEntries(MEASURES.flatMap((m) => (c[m] == null ? [] : [[m, c[m]]])));

/** One line of a box, counted for a variant. */
export function countLineOf(
  detail: BoxDetail,
  variant: Pick<VariantBill, "first" | "second">,
  lineId: string,
): CountedLine | null {
  const line = detail.box.lines.find((l) => l.id === lineId);
  return line ? lookUpOf(detail).count(line, variant.first, variant.second) : null;
}

const MEASURES = [
  "alongMm",
  "acrossMm",
  "holeMm",
  "holes",
  "linkMm",
  "coilMm",
  "diameterMm",
  "lengthMm",
  "innerMm",
  "thickMm",
  "breakKg",
  "massG",
  "perGram",
  "form",
  "cautions",
] as const satisfies readonly (keyof ComponentInput & keyof Measures)[];

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

/** Pieces to whole ones, lengths and masses to the steps they are kept in, upwards: never a bead short. */
export function roundUp(n: number, unit: BaseUnit): number {
  return unit === "piece" ? Math.ceil(n - 1e-6) || 0 : upInSteps(n, unit);
}

/** The keys of a design that take something from stock in any size or option: these stand on the colour tray. */
export function usedKeys(design: Design): string[] {
  const kit = countKit(design, null, null, null);
  const used = new Set([...Object.keys(kit.counts), ...Object.keys(kit.perKit), ...Object.keys(kit.lengthsMm)]);
  return design.key.filter((entry) => used.has(entry.key)).map((entry) => entry.key);
}
