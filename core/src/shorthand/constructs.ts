/**
 * The notation construct by construct, for learning it where it is used: what each is called, what it says, and one
 * line of it in a design's own keys.
 */

/** The keys that examples are written in. */
export interface ExampleKeys {
  /** Three beads: a main one and two others. */
  beads: readonly [string, string, string];
  /** What hangs: a charm, a drop or a dangle. */
  hung: string;
  /** What is linked in: a clasp, a ring. */
  finding: string;
  /** A sub-assembly. */
  sub: string;
  /** Two sizes. */
  sizes: readonly [string, string];
}

export interface Construct {
  id: string;
  /** The words of the notation that it explains; completion offers them. */
  words: readonly string[];
  title: string;
  /** What it says, in a sentence or two. */
  says: string;
  /** What a person may look for it by, beside its title. */
  alsoFoundBy: string;
  example: (keys: ExampleKeys) => string;
  /** Where it has to stand for its picture: on so many strands, on chain, in a part with a target. */
  on?: { strands?: number; chain?: true; targetMm?: number };
  /** Whether a picture of the example alone shows something. */
  drawn: boolean;
}

const construct = (
  id: string,
  words: string,
  title: string,
  says: string,
  alsoFoundBy: string,
  example: Construct["example"],
  more: Partial<Pick<Construct, "on" | "drawn">> = {},
): Construct => ({
  id,
  words: words.split(" ").filter(Boolean),
  title,
  says,
  alsoFoundBy,
  example,
  drawn: true,
  ...more,
});

export const CONSTRUCTS: readonly Construct[] = [
  construct(
    "beads",
    "",
    "Beads in a row",
    "A number and the bead’s letter, in the order in which they are strung. One bead needs no number.",
    "string count how many comma",
    ({ beads: [a, b] }) => `3${a} ${b} 3${a}`,
  ),
  construct(
    "repeat",
    "",
    "Repeat",
    "What is in the brackets, so many times.",
    "times again brackets x multiply pattern",
    ({ beads: [a, b] }) => `(2${a} ${b}) x4`,
  ),
  construct(
    "length",
    "to length fill",
    "Repeat up to a length",
    "As many whole repeats as the part’s target length takes; then “fill” closes what is left with small beads.",
    "fit target size inches mm until long enough stretch",
    ({ beads: [a, b, c] }) => `(2${a} ${b}) to length fill ${c}`,
    { on: { targetMm: 150 } },
  ),
  construct(
    "mirror",
    "mirror around",
    "Mirror",
    "The beads in the brackets, then the same backwards. “around” puts something in the middle once.",
    "symmetric reverse both sides middle centre turn back",
    ({ beads: [a, b, c] }) => `(2${a} ${b}) mirror around ${c}`,
  ),
  construct(
    "between",
    "between",
    "Between the repeats",
    "Stands between every two repeats, so one time fewer than the repeats.",
    "separate gap in between",
    ({ beads: [a, b, c] }) => `(${a} ${b}) x4 between (${c})`,
  ),
  construct(
    "spaced",
    "spaced",
    "A spacer between all beads",
    "One between every two beads in the brackets.",
    "spacer separate every bead",
    ({ beads: [a, b, c] }) => `(${a} ${b} ${a}) spaced ${c}`,
  ),
  construct(
    "pass",
    "",
    "Pass through again",
    "The thread goes through a bead that is strung already. Nothing is counted. @ says which one.",
    "through again thread second time cross stitch close knot back",
    ({ beads: [a, b] }) => `2${a} 2${b} >${a}@1`,
  ),
  construct(
    "hang",
    "hang",
    "Hang something",
    "Hangs from this place and takes no room on the strand. Several side by side stand in brackets.",
    "charm dangle drop pendant jump ring",
    ({ beads: [a], hung }) => `3${a} hang ${hung} 3${a}`,
  ),
  construct(
    "each",
    "each",
    "On each strand",
    "Outside it a bead sits on all strands at once. Inside, every strand has its own; | parts unlike strands.",
    "strands several multi braid rows separately",
    ({ beads: [a, b] }) => `each(4${a} | 2${b} 2${a})`,
    { on: { strands: 2 } },
  ),
  construct(
    "loop",
    "loop",
    "A loop of beads",
    "A ring of beads that stands off the strand.",
    "ring circle petal picot button",
    ({ beads: [a, b] }) => `2${a} loop(7${b}) 2${a}`,
  ),
  construct(
    "fringe",
    "fringe",
    "Fringe",
    "Down through the beads, round the turning bead after the |, and back up.",
    "tassel turn branch dangle down and up",
    ({ beads: [a, b, c] }) => `2${a} fringe(3${b} | ${c}) 2${a}`,
  ),
  construct(
    "space",
    "space",
    "Leave room",
    "Bare wire or cord, so long, or as long as some beads; “space to length” leaves what the target leaves.",
    "gap bare empty room slide wire",
    ({ beads: [a] }) => `2${a} space 6mm 2${a}`,
  ),
  construct(
    "knot",
    "knot takes",
    "Knot",
    "So long on the strand; “takes” says how much thread it eats.",
    "tie overhand thread",
    ({ beads: [a] }) => `${a} knot 4mm takes 40mm ${a}`,
  ),
  construct(
    "join",
    "join",
    "Link something in",
    "Linked and not strung: a clasp, a ring, a part. The thread ends here, and a new cut begins behind it.",
    "clasp ring connect link attach end necklace",
    ({ beads: [a, b], finding }) => `3${a} join ${finding} 3${b}`,
  ),
  construct(
    "rest",
    "rest",
    "Take up what is left",
    "A part that grows to what the target leaves after all else, such as the chain of a necklace.",
    "chain remaining length both sides necklace remainder",
    ({ finding, sub }) => `join ${finding}, rest ${sub}, join ${finding}`,
    { drawn: false },
  ),
  construct(
    "skip",
    "skip",
    "Skip links of chain",
    "In a part that is strung on chain: so many links, or a length of it, before the next thing.",
    "chain links charm bracelet along",
    ({ hung }) => `skip 3 hang ${hung} skip 3`,
    { on: { chain: true } },
  ),
  construct(
    "skip-to",
    "",
    "Chain up to a length",
    "In a part that is strung on chain: as many links as the part’s target length takes after all else.",
    "chain links target length fill remaining whole",
    ({ hung }) => `skip 3 hang ${hung} skip to length`,
    { on: { chain: true, targetMm: 150 } },
  ),
  construct(
    "size",
    "size",
    "Different by size",
    "Every size its own beads here. Add the sizes under “The whole item”.",
    "small medium large sizes fit",
    ({ beads: [a], sizes: [s, m] }) => `size{${s}: 4${a} | ${m}: 5${a}}`,
    { drawn: false },
  ),
  construct(
    "range",
    "",
    "Seven or eight",
    "Where it depends on the beads in hand: the most is counted, the list says both.",
    "about range from until or so",
    ({ beads: [a] }) => `7-8${a}`,
  ),
  construct(
    "behind",
    "behind",
    "A row behind",
    "Drawn under what is there: the back of a piece that is stitched twice.",
    "back under second layer",
    ({ beads: [a, b] }) => `5${a}\nbehind 3${b}`,
  ),
  construct(
    "label",
    "",
    "Names and notes",
    "A row may begin with its name and a colon. After # comes a note for you, after ! one for the maker.",
    "comment remark help write label name",
    ({ beads: [a] }) => `Row 1: 3${a}  # gold side up`,
  ),
  construct(
    "hole",
    "",
    "The second hole",
    "Of beads with several holes: through which one the thread runs.",
    "two-hole bar side",
    ({ beads: [a, b] }) => `${b} ${a}.2 ${b}`,
    { drawn: false },
  ),
];

/** The constructs that a search finds: every word of it in what is said of them; all of them for an empty search. */
export function findConstructs(search: string): readonly Construct[] {
  const words = search.toLowerCase().split(/\s+/).filter(Boolean);
  return CONSTRUCTS.filter((c) => {
    const text = `${c.title} ${c.says} ${c.alsoFoundBy} ${c.words.join(" ")} help`.toLowerCase();
    return words.every((word) => text.includes(word));
  });
}

/** The construct that explains a word of the notation. */
export const constructOf = (word: string): Construct | undefined => CONSTRUCTS.find((c) => c.words.includes(word));
