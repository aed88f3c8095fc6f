import { type Design, MethodDefinition, type MethodLength, type Part, PartMethod } from "../contract/index.ts";

/** A method of a part as it is chosen: with its definition, and every choice and number settled. */
export interface ChosenMethod {
  method: PartMethod;
  definition: MethodDefinition;
  /** By the choice's id: the value's; the first one where nothing was chosen. */
  values: Readonly<Record<string, string>>;
  /** By the number's id, mm. */
  numbers: Readonly<Record<string, number>>;
  /** By the role's id: its key in this design; `strung` is what the part is strung on. */
  roles: Readonly<Record<string, string>>;
  /** How often it is made in one of the part; for each of a key, 1. */
  places: number;
  /** The key of which each one has it. */
  each: string | null;
}

/** What was read of a list once holds for as long as that list is there: designs are replaced, never changed. */
const read = new WeakMap<object, unknown>();
const NONE: readonly never[] = [];
/** The same list for the same list: whoever watches it is told of nothing that did not change. */
function readOnce<T>(list: unknown, make: (items: unknown[]) => T[]): readonly T[] {
  if (!Array.isArray(list)) return NONE;
  let known = read.get(list) as T[] | undefined;
  if (!known) read.set(list, (known = make(list)));
  return known;
}

/** The definitions that travel with a design; what can't be read is left where it is. */
export const definitionsIn = (design: Pick<Design, "methods">): readonly MethodDefinition[] =>
  readOnce(design.methods, (list) =>
    list.flatMap((x) => {
      const found = MethodDefinition.safeParse(x);
      return found.success ? [found.data] : [];
    }),
  );

/** The methods that a part names. */
export const namedBy = (part: Pick<Part, "methods">): readonly PartMethod[] =>
  readOnce(part.methods, (list) =>
    list.flatMap((x) => {
      const found = PartMethod.safeParse(x);
      return found.success ? [found.data] : [];
    }),
  );

/** How a part's ends, links and knots are made, as far as its design carries the definitions. */
export function methodsOf(design: Design, part: Part): ChosenMethod[] {
  return namedBy(part).flatMap((method) => {
    const definition = definitionsIn(design).find((d) => d.id === method.id && d.version === method.version);
    return definition ? [settle(definition, part, method)] : [];
  });
}

export function settle(definition: MethodDefinition, part: Pick<Part, "stringing">, method: PartMethod): ChosenMethod {
  const { values, numbers, roles } = method.choices;
  const each = /^each (\S+)$/.exec(method.at)?.[1] ?? null;
  return {
    method,
    definition,
    values: Object.fromEntries(
      definition.choices.map(({ id, values: may }) => [
        id,
        may.some((v) => v.id === values[id]) ? values[id]! : may[0]!.id,
      ]),
    ),
    numbers: Object.fromEntries(definition.numbers.map(({ id, mm }) => [id, numbers[id] ?? mm])),
    roles: { ...roles, ...(part.stringing == null ? {} : { strung: part.stringing }) },
    places: method.at === "both ends" ? 2 : 1,
    each,
  };
}

/** Whether something that holds for some choices holds here. */
export const holds = (when: Readonly<Record<string, string>> | null | undefined, of: Pick<ChosenMethod, "values">) =>
  Object.entries(when ?? {}).every(([choice, value]) => of.values[choice] === value);

/** What is known of a key's size, mm; null where it is not measured. */
export type MeasureOf = (key: string, measure: "diameterMm" | "alongMm") => number | null;

/**
 * A method's length at one place, mm: its plain lengths and its own numbers, sizes along the thread, and turns of wire,
 * each π × (mandrel + wire). Null where it needs a measure that nobody gave; a wire's thickness or a length along the
 * thread that is not measured is left out where `rough` is said.
 */
export function lengthOf(
  list: readonly MethodLength[],
  of: ChosenMethod,
  measure: MeasureOf,
  rough = false,
): number | null {
  let sum = 0;
  for (const part of list) {
    if (!holds(part.when, of)) continue;
    sum += part.mm ?? 0;
    if (part.number != null) sum += of.numbers[part.number] ?? 0;
    if (part.turns != null) {
      const key = of.roles[part.wire ?? "strung"];
      const wire = key === undefined ? null : measure(key, "diameterMm");
      if (wire === null && !rough) return null;
      sum += part.turns * Math.PI * ((part.round == null ? 0 : (of.numbers[part.round] ?? 0)) + (wire ?? 0));
    }
    if (part.along != null) {
      const key = of.roles[part.along];
      const mm = key === undefined ? null : measure(key, "alongMm");
      if (mm === null && !rough) return null;
      sum += mm ?? 0;
    }
  }
  return sum;
}

/** Minutes for all places of a method in one of the part. */
export function minutesOf(of: ChosenMethod): { handsOn: number; waiting: number } {
  const held = of.definition.minutes.filter((m) => holds(m.when, of));
  return {
    handsOn: of.places * held.reduce((sum, m) => sum + m.handsOn, 0),
    // Everything that is glued waits together.
    waiting: Math.max(0, ...held.map((m) => m.waiting)),
  };
}

export const toolsOf = (of: ChosenMethod): string[] =>
  of.definition.tools.filter((t) => holds(t.when, of)).map((t) => t.name);

export const cautionsOf = (of: ChosenMethod) =>
  of.definition.cautions.filter((c) => holds(c.when, of)).map((c) => c.caution);
