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
  const tail = tailOf(of, measure);
  return {
    ...part,
    ...(tail > 0 && part.tailMm === tail ? { tailMm: null } : {}),
    uses: left(part.uses, uses),
    cuts: left(part.cuts, cuts),
    also: left(part.also, also),
    steps: joins.length > 0 ? steps : part.steps,
  };
}

function withLines(part: Part, of: ChosenMethod, measure: MeasureOf): Part {
  const { uses, cuts, also, joins } = writtenBy(of, part, measure);
  const by = of.definition.id;
  // What the part takes already, by hand, in its rows, or edited since, stays: nothing is written beside it.
  const inRows = new Set(keysIn(part.steps ?? "").map((k) => k.key));
  const kept = (list: readonly { key: string; by?: unknown }[] | null | undefined, key: string) =>
    inRows.has(key) || (list ?? []).some((line) => (line.by === by || line.by == null) && line.key === key);
  const text = part.steps ?? "";
  const rows = joins.filter((key) => !text.includes(rowOf(key, by))).map((key) => rowOf(key, by));
  const atStart = of.method.at === "both ends" ? rows : [];
  const steps = [...atStart, ...(text === "" ? [] : [text]), ...rows].join("\n");
  return {
    ...part,
    uses: [...(part.uses ?? []), ...uses.filter((u) => !kept(part.uses, u.key))],
    cuts: [...(part.cuts ?? []), ...cuts.filter((c) => !kept(part.cuts, c.key))],
    also: [...(part.also ?? []), ...also.filter((a) => !kept(part.also, a.key))],
    // Tails that are long enough already stay as they are, and so do those of a part that is strung on nothing.
    ...(part.stringing != null && tailOf(of, measure) > (part.tailMm ?? 0) ? { tailMm: tailOf(of, measure) } : {}),
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
    .filter((m) => m.id === definition.id || isRival(design, m, definition, choice.at))
    .reduce((d, m) => dropMethod(d, partId, m.id), design);
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
  const parts = withKey.parts.map((p) =>
    p.id === partId ? { ...withLines(p, of, measuredIn(withKey)), methods: [...namedBy(p), method] as unknown } : p,
  );
  return withTools(withDefinitions({ ...withKey, parts }, [definition]));
}

const head = ({ id, name, version }: MethodDefinition) => ({ id, name, version });

/** One thing is made in one way: another method for it, at the same place of the part, takes its place. */
function isRival(design: Design, m: PartMethod, definition: MethodDefinition, at: string): boolean {
  const other = definitionsIn(design).find((d) => d.id === m.id && d.version === m.version);
  return other?.for === definition.for && (m.at === at || (!isEach(m.at) && !isEach(at)));
}
const isEach = (at: string) => at.startsWith("each ");

/** The working length that a method asks each tail of its part to have, mm: 0 for none. */
const tailOf = (of: ChosenMethod, measure: MeasureOf) =>
  Math.ceil(lengthOf(of.definition.needs.tail, of, measure, true) ?? 0);

/** Takes a method out again, with the lines that it wrote and nobody edited. */
export function dropMethod(design: Design, partId: string, id: string): Design {
  const parts = design.parts.map((part) => {
    if (part.id !== partId) return part;
    const of = methodsOf(design, part).find((m) => m.definition.id === id);
    const cleared = of ? withoutLines(part, of, measuredIn(design)) : part;
    return { ...cleared, methods: namedBy(part).filter((m) => m.id !== id) as unknown };
  });
  return withTools(withDefinitions({ ...design, parts }, []));
}

/** One line that a method brought, and what became of it since. */
export interface Brought {
  what: "use" | "cut" | "also" | "join";
  key: string;
  count: number;
  /** Of what is cut: how long, mm. */
  mm: number | null;
  state: "as written" | "there already" | "edited" | "taken out";
}

/** What each method of a part brought, line by line, and what of it was edited since or taken out. */
export function linesOf(design: Design, part: Part): { of: ChosenMethod; lines: Brought[] }[] {
  return methodsOf(design, part).map((of) => {
    const { uses, cuts, also, joins } = writtenBy(of, part, measuredIn(design));
    const by = of.definition.id;
    const text = part.steps ?? "";
    const inRows = new Set(keysIn(text).map((k) => k.key));
    const brought = (
      what: Brought["what"],
      line: { key: string },
      there: readonly { key: string; by?: unknown }[] | null | undefined,
      count: number,
      mm: number | null,
    ): Brought => {
      const has = (match: (l: { key: string; by?: unknown }) => boolean) => (there ?? []).some(match);
      const state = has((l) => same(l, line))
        ? "as written"
        : has((l) => l.by === by && l.key === line.key)
          ? "edited"
          : inRows.has(line.key) || has((l) => l.by == null && l.key === line.key)
            ? "there already"
            : "taken out";
      return { what, key: line.key, count, mm, state };
    };
    return {
      of,
      lines: [
        ...uses.map((use) => brought("use", use, part.uses, use.count as number, null)),
        ...cuts.map((cut) => brought("cut", cut, part.cuts, cut.count as number, cut.mm as number)),
        ...also.map((line) => brought("also", line, part.also, 1, line.cutMm as number)),
        ...joins.map((key): Brought => {
          const state = text.includes(rowOf(key, by)) ? "as written" : "taken out";
          return { what: "join", key, count: 1, mm: null, state };
        }),
      ],
    };
  });
}
