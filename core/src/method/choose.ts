import {
  type Also,
  type Cut,
  type Design,
  type KeyEntry,
  type MethodDefinition,
  type Part,
  PartMethod,
  type PartUse,
} from "../contract/index.ts";
import { formSaid, understand } from "../component/index.ts";
import { keysIn } from "../shorthand/index.ts";
import {
  type ChosenMethod,
  definitionsIn,
  holds,
  lengthOf,
  type MeasureOf,
  methodsOf,
  namedBy,
  settle,
  toolsOf,
} from "./chosen.ts";

/** What is asked for: where a method is made, and what was chosen of its choices, numbers and roles. */
export interface Choice {
  /** A place, or `each KEY`. */
  at: string;
  values?: Record<string, string>;
  numbers?: Record<string, number>;
  /** By the role's id: a key of the design. What is not named is found by its form, or made. */
  roles?: Record<string, string>;
}

/** The lines that a method writes into one part. */
interface Written {
  uses: PartUse[];
  cuts: Cut[];
  also: Also[];
  joins: string[];
}

/** A length to cut is never rounded down: whole millimetres, up. */
const toCut = (mm: number) => Math.max(1, Math.ceil(mm - 0.001));

function writtenBy(of: ChosenMethod, part: Part, measure: MeasureOf): Written {
  const { definition } = of;
  const by = definition.id;
  const written: Written = { uses: [], cuts: [], also: [], joins: [] };
  for (const line of definition.lines) {
    if (!holds(line.when, of)) continue;
    const key = of.roles[line.role];
    if (key === undefined) continue;
    const count = line.count * of.places * (line.perStrand ? (part.strands ?? 1) : 1);
    const forEach = of.each === null ? {} : { forEach: of.each };
    const mm = toCut(lengthOf(line.long ?? [], of, measure, true) ?? 0);
    if (line.write === "use") written.uses.push({ key, count, ...forEach, by });
    else if (line.write === "cut")
      written.cuts.push({ key, count, mm, ...forEach, ...(line.from ? { from: line.from } : {}), by });
    else if (line.write === "also") written.also.push({ key, cutMm: mm, by });
    else for (let i = 0; i < line.count; i++) written.joins.push(key);
  }
  return written;
}

/** A row that a method writes: joins can't carry who wrote them, so a note behind the row says it. */
const rowOf = (key: string, by: string) => `join ${key}  # by ${by}`;

const same = (a: object, b: object) => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
const sorted = (x: object) =>
  Object.fromEntries(
    Object.entries(x)
      .filter(([, v]) => v !== null && v !== undefined)
      .sort(([a], [b]) => a.localeCompare(b)),
  );

/** A part without the lines that a method wrote and nobody edited since. */
function withoutLines(part: Part, of: ChosenMethod, measure: MeasureOf): Part {
  const { uses, cuts, also, joins } = writtenBy(of, part, measure);
  const left = <T extends object>(list: readonly T[] | null | undefined, own: readonly T[]) =>
    (list ?? []).filter((line) => !own.some((o) => same(o, line)));
  const rows = (part.steps ?? "").split("\n");
  const by = of.definition.id;
  const steps = rows.filter((row) => !joins.some((key) => row.trim() === rowOf(key, by))).join("\n");
  return {
    ...part,
    uses: left(part.uses, uses),
    cuts: left(part.cuts, cuts),
    also: left(part.also, also),
    steps: joins.length > 0 ? steps : part.steps,
  };
}

/** A line of a part: what it takes, for each of a key or once, and of what is cut how long. */
export interface PartLine {
  key: string;
  forEach?: string | null;
  mm?: number | Readonly<Record<string, number>> | null;
  by?: unknown;
}

/** Whether two lines take the same thing for the same purpose: of one wire, a cut of another length is another. */
export const isSameThing = (a: PartLine, b: PartLine) =>
  a.key === b.key &&
  (a.forEach ?? null) === (b.forEach ?? null) &&
  lengthsOf(a).some((mm) => lengthsOf(b).includes(mm));
const lengthsOf = ({ mm }: PartLine) => (typeof mm === "object" && mm !== null ? Object.values(mm) : [mm ?? null]);

/** What something hangs by, as lines for each of it. */
export const hangsBy = (design: Design, each: string): PartUse[] => {
  const part = design.parts.find((p) => p.as === each);
  const own = part?.hangsBy?.length ? part.hangsBy : design.key.find((e) => e.key === each)?.hangsBy;
  return (own ?? []).map((use) => ({ ...use, forEach: each }));
};

/**
 * Whether rows that name a key take what a method would write: a finding that is picked up in them does; a bead that is
 * strung elsewhere is not the one that a method hides, and what is for each of something is not in the rows.
 */
export const mayBeInRows = (design: Design, line: PartLine) =>
  line.forEach == null && !["bead", "focal"].includes(design.key.find((e) => e.key === line.key)?.kind ?? "");

/** Rows without those that methods wrote. */
const byHand = (steps: string | null | undefined) =>
  (steps ?? "")
    .split("\n")
    .filter((row) => !/^join \S+ {2}# by \S+$/.test(row.trim()))
    .join("\n");

/** Whether a part takes already what a method would write: by a person's hand, in its rows, or as what hangs by it. */
function isThere(design: Design, part: Part, line: PartLine, list: readonly PartLine[] | null | undefined): boolean {
  if (mayBeInRows(design, line) && keysIn(byHand(part.steps)).some((k) => k.key === line.key)) return true;
  const hung = line.forEach == null || line.mm != null ? [] : hangsBy(design, line.forEach);
  return [...(list ?? []).filter((l) => l.by == null), ...hung].some((l) => isSameThing(l, line));
}

/** A line that this method wrote and somebody edited since: it stays as it is. */
const isEdited = (by: string, line: PartLine, list: readonly PartLine[] | null | undefined) =>
  (list ?? []).some(
    (l) => l.by === by && l.key === line.key && (l.forEach ?? null) === (line.forEach ?? null) && !same(l, line),
  );

function withLines(design: Design, part: Part, of: ChosenMethod): Part {
  const measure = measuredIn(design);
  const { uses, cuts, also, joins } = writtenBy(of, part, measure);
  const by = of.definition.id;
  const isNew = (line: PartLine, list: readonly PartLine[] | null | undefined) =>
    !isThere(design, part, line, list) && !isEdited(by, line, list);
  const text = part.steps ?? "";
  const rows = joins.filter((key) => !text.includes(rowOf(key, by))).map((key) => rowOf(key, by));
  const atStart = of.method.at === "both ends" ? rows : [];
  const steps = [...atStart, ...(text === "" ? [] : [text]), ...rows].join("\n");
  return {
    ...part,
    uses: [...(part.uses ?? []), ...uses.filter((u) => isNew(u, part.uses))],
    cuts: [...(part.cuts ?? []), ...cuts.filter((c) => isNew(c, part.cuts))],
    also: [...(part.also ?? []), ...also.filter((a) => isNew(a, part.also))],
    ...(joins.length > 0 ? { steps } : {}),
  };
}

/** What is measured in the bead key itself. */
const measuredIn =
  (design: Pick<Design, "key">): MeasureOf =>
  (key, measure) =>
    design.key.find((e) => e.key === key)?.[measure] ?? null;

/** Tools that methods wrote follow from the methods that are there; those that a person wrote stay. */
function withTools(design: Design): Design {
  const own = (design.atHand ?? []).filter((thing) => typeof thing === "string" || !isByMethod(thing));
  const named = new Set(own.map((thing) => (typeof thing === "string" ? thing : thing.name)));
  const tools: { name: string; by: string }[] = [];
  for (const part of design.parts) {
    for (const of of methodsOf(design, part)) {
      for (const name of toolsOf(of)) {
        if (named.has(name)) continue;
        named.add(name);
        tools.push({ name, by: of.definition.id });
      }
    }
  }
  const atHand = [...own, ...tools];
  return { ...design, atHand: atHand.length > 0 ? atHand : null };
}
const isByMethod = (thing: { by?: unknown }) => typeof thing.by === "string";

/** The definitions that the parts still name, and no others. */
function withDefinitions(design: Design, added: readonly MethodDefinition[]): Design {
  const named = new Set(design.parts.flatMap(namedBy).map((m) => `${m.id} ${m.version}`));
  const all = new Map([...definitionsIn(design), ...added].map((d) => [`${d.id} ${d.version}`, d]));
  const kept = [...all].filter(([id]) => named.has(id)).map(([, d]) => d);
  return { ...design, methods: kept.length > 0 ? kept : undefined };
}

/** A key for a role that the design lacks: the beginnings of its words, without sizes, and a number where taken. */
function freeKeyFor(name: string, taken: ReadonlySet<string>): string {
  const letters = name
    .toUpperCase()
    .match(/[A-Z]{3,}/g)!
    .map((word) => word[0])
    .join("")
    .slice(0, 3);
  const key = /^X\d*$/.test(letters) ? `${letters}A` : letters;
  for (let n = 1; ; n++) {
    const found = n === 1 ? key : `${key}${n}`;
    if (!taken.has(found)) return found;
  }
}

/** The role of a design that stands for one of a method's: of its form, else one that a person named so. */
export function roleFor(design: Design, role: MethodDefinition["roles"][number]): KeyEntry | undefined {
  const forms = [role.form, ...(role.or ?? [])].filter((f) => f != null);
  const isThick = (e: KeyEntry) => {
    const mm = e.diameterMm ?? understand(e.name).diameterMm;
    return role.diameterMm == null || (mm !== null && Math.abs(mm - role.diameterMm) < 0.1 * role.diameterMm);
  };
  const ofKind = design.key.filter((e) => e.kind === role.kind && isThick(e));
  return (
    forms.map((form) => ofKind.find((e) => (e.form ?? formSaid(e.name, e.kind)) === form)).find((e) => e) ??
    ofKind.find((e) => e.name === role.name)
  );
}

/**
 * Chooses how an end, a link or a knot of a part is made: takes back what the same method wrote before, as far as
 * nobody edited it, and writes its findings, cuts, joins and tools anew. Roles that the bead key lacks are added to it.
 * Another method for the same thing (both are for ends) takes the place of the one that was there.
 */
export function chooseMethod(design: Design, partId: string, definition: MethodDefinition, choice: Choice): Design {
  const part = design.parts.find((p) => p.id === partId);
  if (!part) return design;
  const cleared = namedBy(part)
    .filter((m) => isRival(design, m, definition, choice.at))
    .reduce((d, m) => dropMethod(d, partId, m), design);
  const key = [...cleared.key];
  const taken = new Set([...key.map((e) => e.key), ...design.parts.flatMap((p) => p.as ?? [])]);
  const roles: Record<string, string> = {};
  const asked = { ...choice.roles };
  const draft = settle(definition, part, PartMethod.parse({ ...head(definition), at: choice.at, choices: choice }));
  for (const role of definition.roles) {
    const isTaken = definition.lines.some((line) => line.role === role.id && holds(line.when, draft));
    const found = asked[role.id] ?? roleFor(cleared, role)?.key;
    if (found !== undefined) roles[role.id] = found;
    else if (isTaken) {
      const free = freeKeyFor(role.name, taken);
      taken.add(free);
      roles[role.id] = free;
      const { name, kind, form, diameterMm } = role;
      key.push({ key: free, name, kind, ...(form ? { form } : {}), ...(diameterMm ? { diameterMm } : {}) });
    }
  }
  const method = PartMethod.parse({
    ...head(definition),
    at: choice.at,
    choices: { values: choice.values ?? {}, numbers: choice.numbers ?? {}, roles },
  });
  const of = settle(definition, part, method);
  const withKey = { ...cleared, key };
  const tail = ownTail(design, part);
  const asks = part.stringing != null && tailOf(of, measuredIn(withKey)) > 0;
  const chosen = asks && tail > 0 ? { ...method, replacesTailMm: tail } : method;
  const parts = withKey.parts.map((p) =>
    p.id === partId ? { ...withLines(withKey, p, of), methods: [...namedBy(p), chosen] as unknown } : p,
  );
  return withTools(withTail(withDefinitions({ ...withKey, parts }, [definition]), partId, tail));
}

const head = ({ id, name, version }: MethodDefinition) => ({ id, name, version });

/**
 * One thing is made in one way: the same method, or another one for it, takes its place. Ends are one thing, one of
 * them or both; of what is made for each of something, each key is a thing of its own.
 */
function isRival(design: Design, m: PartMethod, definition: MethodDefinition, at: string): boolean {
  if (m.at !== at && (isEach(m.at) || isEach(at))) return false;
  const other = definitionsIn(design).find((d) => d.id === m.id && d.version === m.version);
  return m.id === definition.id || other?.for === definition.for;
}
const isEach = (at: string) => at.startsWith("each ");

/** The working length that a method asks each tail of its part to have, mm: 0 for none. */
const tailOf = (of: ChosenMethod, measure: MeasureOf) =>
  Math.ceil(lengthOf(of.definition.needs.tail, of, measure, true) ?? 0);

/** Takes a method out again from where it is made, with the lines that it wrote and nobody edited. */
export function dropMethod(design: Design, partId: string, { id, at }: Pick<PartMethod, "id" | "at">): Design {
  const isIt = (m: PartMethod) => m.id === id && m.at === at;
  const parts = design.parts.map((part) => {
    if (part.id !== partId) return part;
    const of = methodsOf(design, part).find((m) => isIt(m.method));
    const cleared = of ? withoutLines(part, of, measuredIn(design)) : part;
    return { ...cleared, methods: namedBy(part).filter((m) => !isIt(m)) as unknown };
  });
  const before = design.parts.find((part) => part.id === partId);
  const tail = before ? ownTail(design, before) : 0;
  return withTools(withTail(withDefinitions({ ...design, parts }, []), partId, tail));
}

/** The longest tail that a part's methods ask for, mm: 0 where none does, or the part is strung on nothing. */
const askedTail = (design: Design, part: Part): number =>
  part.stringing == null ? 0 : Math.max(0, ...methodsOf(design, part).map((m) => tailOf(m, measuredIn(design))));

/** The tail that a person wrote, mm: what stands there, or what a method took the place of. */
function ownTail(design: Design, part: Part): number {
  const asked = askedTail(design, part);
  if (asked === 0 || part.tailMm !== asked) return part.tailMm ?? 0;
  return Math.max(0, ...namedBy(part).map((m) => m.replacesTailMm ?? 0));
}

/** A part's tails as its methods ask for them, in the place of its own; its own where none asks. */
function withTail(design: Design, partId: string, own: number): Design {
  const parts = design.parts.map((part) => {
    if (part.id !== partId) return part;
    const tailMm = askedTail(design, part) || own;
    return tailMm === (part.tailMm ?? 0) ? part : { ...part, tailMm: tailMm || null };
  });
  return { ...design, parts };
}

/** One line that a method brought, and what became of it since. */
export interface Brought extends PartLine {
  what: "use" | "cut" | "also" | "join";
  count: number;
  /** So many for each of this key; null where the part has it once. */
  forEach: string | null;
  /** Of what is cut: how long, mm. */
  mm: number | null;
  state: "as written" | "there already" | "edited" | "taken out";
}

/** What each method of a part brought, line by line, and what of it was edited since or taken out. */
export function linesOf(design: Design, part: Part): { of: ChosenMethod; lines: Brought[]; tailMm: number }[] {
  return methodsOf(design, part).map((of) => {
    const { uses, cuts, also, joins } = writtenBy(of, part, measuredIn(design));
    const by = of.definition.id;
    const stateOf = (line: PartLine, list: readonly PartLine[] | null | undefined): Brought["state"] =>
      (list ?? []).some((l) => same(l, line))
        ? "as written"
        : isEdited(by, line, list)
          ? "edited"
          : isThere(design, part, line, list)
            ? "there already"
            : "taken out";
    const [forEach, mm] = [of.each, null];
    const tailMm = part.stringing == null ? 0 : tailOf(of, measuredIn(design));
    return {
      of,
      // What it works with at each end, in the place of the part's own tail.
      tailMm,
      lines: [
        ...uses.map((use): Brought => {
          const { key } = use;
          return { what: "use", key, count: use.count as number, forEach, mm, state: stateOf(use, part.uses) };
        }),
        ...cuts.map((cut): Brought => {
          const { key } = cut;
          const [count, mm] = [cut.count as number, cut.mm as number];
          return { what: "cut", key, count, forEach, mm, state: stateOf(cut, part.cuts) };
        }),
        ...also.map((line): Brought => {
          const [{ key }, mm] = [line, line.cutMm as number];
          return { what: "also", key, count: 1, forEach: null, mm, state: stateOf(line, part.also) };
        }),
        ...joins.map((key): Brought => {
          const state = (part.steps ?? "").includes(rowOf(key, by)) ? "as written" : "taken out";
          return { what: "join", key, count: 1, forEach: null, mm, state };
        }),
      ],
    };
  });
}
