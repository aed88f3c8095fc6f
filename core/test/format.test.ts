import fc from "fast-check";
import { describe, expect, test } from "vitest";
import { formatPattern, parsePattern } from "../src/shorthand/index.ts";
import { withJoins } from "./patterns.ts";

/** What a text says, without its places: two texts that say the same are equal here. */
const meaning = (text: string) =>
  JSON.parse(
    JSON.stringify(parsePattern(text).rows, (key, value: unknown) =>
      key === "from" || key === "to" || key.endsWith("At") ? undefined : value,
    ),
  ) as unknown;

describe("canonical text", () => {
  test.each([
    ["3A,2B ,C", "3A 2B C"],
    ["( A  B )×  4 between( s )", "(A B) x4 between (s)"],
    ["Row 1 :  1A   # note ", "Row 1: A  # note"],
    ["# first\n\nA # one\nB\n# last", "# first\nA  # one\nB\n# last"],
    ["(A # inside\n B) x2 # after", "(A B) x2  # inside; after"],
    ["(A) to 7 1/2 in fill ( A, B )", "(A) to 7 1/2in fill (A B)"],
    ["skip to length", "skip to length"],
    ["skip 12in space .5cm space 2A skip 3", "skip 12in space .5cm space 2A skip 3"],
    ["knot  4 mm takes   40 mm, knot .5cm A", "knot 4mm takes 40mm knot .5cm A"],
    ["each( 3A|2B ) loop( 7A )x2 hang D", "each(3A | 2B) loop(7A) x2 hang D"],
    ["size{ S:|M : c }", "size{S: | M: c}"],
    [">( T s T )x2 >2T (a) mirror around D", ">(T s T) x2 >2T (a) mirror around D"],
    ["fringe(3A|) (B)mirror", "fringe(3A | ) (B) mirror"],
    ["join( A ,2B ), rest  SC ,join C", "join (A 2B) rest SC join C"],
    ["hang( D|2B ) hang (D) hang (2D)", "hang (D | 2B) hang D hang (2D)"],
    ["( A )spaced s x 3 between( B )spaced( s t )", "(A) spaced s x3 between (B) spaced (s t)"],
    ["edge:behind,7 - 8A W . 2".replace(" . ", "."), "edge: behind 7-8A W.2"],
    ["> A @ last >W.2@2 >(A)x1-2", ">A@last >W.2@2 >(A) x1-2"],
    ["space  to  length A", "space to length A"],
    ["(A)mirror around( join C , B )", "(A) mirror around (join C B)"],
    ["A !  pull tight \n# why\nB", "A  ! pull tight\n# why\nB"],
    ["(A # counted\nB) x2 ! by hand", "# counted\n(A B) x2  ! by hand"],
  ])("%s", (text, canonical) => {
    expect(formatPattern(text)).toBe(canonical);
    expect(meaning(canonical)).toEqual(meaning(text));
    expect(formatPattern(canonical)).toBe(canonical);
  });
  test("a text with an error in it stays as it was typed", () => {
    expect(formatPattern("3A, (B")).toBe("3A, (B");
  });
  test("reading what was written is the identity, and writing it again changes nothing", () => {
    fc.assert(
      fc.property(withJoins, fc.constantFrom(" ", "  ", " , "), (text, gap) => {
        const loose = text.replaceAll(" ", gap === " , " ? " " : gap);
        const canonical = formatPattern(loose);
        expect(meaning(canonical)).toEqual(meaning(text));
        expect(formatPattern(canonical)).toBe(canonical);
        expect(canonical).toBe(text);
      }),
    );
  });
});
