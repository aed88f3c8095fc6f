import type { z } from "zod";
import { later } from "../../../core/test/demoDay.ts";

/** Numbers that decide: a list of them, read one after another and round again, so that less of it does less. */
export class Dice {
  private at = 0;
  constructor(private readonly rolls: readonly number[]) {}
  /** From 0 to less than `n`. */
  below(n: number): number {
    if (this.rolls.length === 0 || n <= 0) return 0;
    const roll = this.rolls[this.at++ % this.rolls.length]! + this.at;
    return roll % n;
  }
  one<T>(list: readonly T[]): T {
    return list[this.below(list.length)]!;
  }
  /** Once in so many times. */
  often(n: number): boolean {
    return this.below(n) === 0;
  }
}

/** Numbers at the edges of what is allowed, and some that everybody writes. */
export const NUMBERS = [
  1, 0, 2, 3, 5, 10, 12, 40, 100, 1000, 0.1, 0.5, 2.5, 14.4, 14.3, 25.4, 0.001, 0.0004, 0.0001, 333.333, 333.3333, 9144,
  1e6, 1e8, 1e9, 999_999_999.999, -1, 0.99, 730, 600, 20, 4,
];
/** Texts likewise. */
const TEXTS = [
  "A1",
  "a1",
  "ΑΣ",
  "ας",
  "ﬁ",
  "fi",
  "B-2",
  "4.20",
  "0",
  "999999999.9999",
  "1",
  "0.8534",
  later("2030-05"),
  later("2031-12"),
  later("2030-05-01"),
  "2026-01-31",
  "2030-01-01T08:00:00Z",
  "GBP",
  "JPY",
  "EUR",
  "#335577",
  "en-GB",
  "",
  ".50",
  "a name",
  "=1+1",
  "'=1",
  "two\nlines",
  "x".repeat(200),
  "é".repeat(40),
  "3",
  "S",
  "http://192.168.1.20:4321",
];

const fitting = new WeakMap<z.ZodType, unknown[]>();
/** Those of some values that a schema takes. */
function among(schema: z.ZodType, values: readonly unknown[]): unknown[] {
  const known = fitting.get(schema);
  if (known) return known;
  const found = values.filter((value) => schema.safeParse(value).success);
  fitting.set(schema, found);
  return found;
}

interface Def {
  type: string;
  shape?: Record<string, z.ZodType>;
  element?: z.ZodType;
  innerType?: z.ZodType;
  in?: z.ZodType;
  options?: z.ZodType[];
  entries?: Record<string, string>;
  values?: unknown[];
  keyType?: z.ZodType;
  valueType?: z.ZodType;
  format?: string;
}

/** Something that a schema takes, its ids from those that there are; undefined where none was found. */
export function madeBy(schema: z.ZodType, dice: Dice, idOf: (field: string) => string, field = ""): unknown {
  const def = (schema as unknown as { _zod: { def: Def } })._zod.def;
  const inner = (of: z.ZodType, name = field) => madeBy(of, dice, idOf, name);
  switch (def.type) {
    case "optional":
    case "nullable":
    case "default":
    case "prefault":
      if (dice.often(2)) return def.type === "nullable" ? null : undefined;
      return inner(def.innerType!);
    case "pipe":
      return inner(def.in!);
    case "object":
      return Object.fromEntries(
        Object.entries(def.shape!).flatMap(([name, of]) => {
          const value = inner(of, name);
          return value === undefined ? [] : [[name, value]];
        }),
      );
    case "array":
      return Array.from({ length: 1 + dice.below(3) }, () => inner(def.element!));
    case "record":
      return Object.fromEntries([[String(inner(def.keyType!)), inner(def.valueType!)]]);
    case "union":
      return inner(dice.one(def.options!));
    case "enum":
      return dice.one(Object.values(def.entries!));
    case "literal":
      return dice.one(def.values!);
    case "boolean":
      return dice.often(2);
    case "number":
      return dice.one(among(schema, NUMBERS));
    case "string":
      if (def.format === "uuid" || def.format === "guid") return idOf(field);
      return dice.one(among(schema, TEXTS));
    default:
      return undefined;
  }
}
