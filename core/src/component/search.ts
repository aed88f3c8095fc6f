import { expanded, exact } from "../units/index.ts";
import type { Component } from "../contract/index.ts";
import { colourWord } from "./colour.ts";

/** On hand and not spoken for. Below 0 after a breakage: then something is short. */
export const freeOf = (c: Pick<Component, "onHand" | "spokenFor">) => exact(c.onHand - c.spokenFor);
export const isShort = (c: Pick<Component, "onHand" | "spokenFor">) => freeOf(c) < 0;
/** At or under the point at which to order again, counting what is on the way. */
export const isLow = (c: Pick<Component, "onHand" | "spokenFor" | "onTheWay" | "reorderAt">) =>
  c.reorderAt != null && freeOf(c) + c.onTheWay <= c.reorderAt;

const NUMBERS: Record<string, (c: Component) => number | null | undefined> = {
  free: freeOf,
  hand: (c) => c.onHand,
  spoken: (c) => c.spokenFor,
  way: (c) => c.onTheWay,
  along: (c) => c.alongMm,
  across: (c) => c.acrossMm,
  hole: (c) => c.holeMm,
  link: (c) => c.linkMm,
  thick: (c) => c.diameterMm,
  length: (c) => c.lengthMm,
  inner: (c) => c.innerMm,
};
const STATES: Record<string, (c: Component) => boolean> = {
  short: isShort,
  low: isLow,
  empty: (c) => c.onHand === 0,
  away: (c) => c.away === true,
  unsure: (c) => c.u > 0 && expanded(c.u) > 0.05 * c.onHand,
};
export const SEARCH_NUMBERS = Object.keys(NUMBERS);
export const SEARCH_STATES = Object.keys(STATES);

const COMPARED = /^([a-z]+)(<=|>=|<|>|=)(\d+(?:[.,]\d+)?)$/;

/** All that can be found of a component by words, in small letters. */
export const wordsOf = (c: Component) =>
  [c.code, c.name, c.kind, c.form, c.size, c.finish, c.transparency, c.material, c.metal, colourWord(c.colour)]
    .filter(Boolean)
    .join(" ")
    .toLowerCase();

/**
 * Makes a test of a search: words of name, code, colour, size, kind and material, all of which must be there; numbers
 * as `hole>0.9` or `free<100`; states as `short`, `low`, `empty`, `away`, `unsure`. A word that starts with - must not
 * be there.
 */
export function searchOf(text: string): (c: Component, words: string) => boolean {
  const tests = text
    .toLowerCase()
    .split(/\s+/)
    .filter(Boolean)
    .map((term): ((c: Component, words: string) => boolean) => {
      const compared = COMPARED.exec(term);
      const numberOf = compared && NUMBERS[compared[1]!];
      if (numberOf) {
        const to = Number(compared[3]!.replace(",", "."));
        const sign = compared[2]!;
        return (c) => {
          const n = numberOf(c);
          if (n == null) return false;
          return sign === "<"
            ? n < to
            : sign === ">"
              ? n > to
              : sign === "<="
                ? n <= to
                : sign === ">="
                  ? n >= to
                  : n === to;
        };
      }
      const state = Object.hasOwn(STATES, term) ? STATES[term]! : null;
      if (state) return (c) => state(c);
      if (term.length > 1 && term.startsWith("-")) return (_, words) => !words.includes(term.slice(1));
      return (_, words) => words.includes(term);
    });
  return (c, words) => tests.every((test) => test(c, words));
}
