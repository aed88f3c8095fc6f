import { measuresOf, TOGETHER } from "../bom/index.ts";
import {
  type BoxBill,
  CAUTIONS,
  type Design,
  type ReadingLevel,
  type SentenceRow,
  type Shape,
  SHAPES,
  type Trial,
} from "../contract/index.ts";
import { type Counting, countWhole, type StrungPartOf } from "../count/index.ts";
import { checkFit } from "../fit/index.ts";
import { finishedMm } from "../length/index.ts";
import { type Appearance, appearancesOf, laidOf, layOut, type Picture } from "../picture/index.ts";
import { type Contents, contentsOf, type KeyCard } from "../run/index.ts";
import { type Judged, levelOf } from "./level.ts";
import { madeOf } from "./made.ts";
import { type Minutes, minutesFor } from "./minutes.ts";
import { rowPicturesOf, type RowPicture } from "./rowPictures.ts";
import { sentencesOf } from "./sentences.ts";

/** Which sheet is asked for: one line of a box, in one colourway, as it is read. */
export interface SheetAsked {
  line: string;
  first: string;
  second: string | null;
  /** One size, or null for all that the box serves. */
  size: string | null;
  level: ReadingLevel;
}

/** One part on a sheet. */
export interface SheetPart {
  id: string;
  name: string;
  /** How many of it one finished item needs. */
  makes: number;
  /** The letter by which other parts take it; null where it stands for itself. */
  as: string | null;
  rows: SentenceRow[];
  /** How its ends, links and knots are made, each with its tools. */
  made: SentenceRow[];
  picture: Picture | null;
  /** One picture a row, of parts that are stitched: what is there, and what is new. */
  byRow: RowPicture[];
  /** Finished, end to end, mm; 0 where it has no length. */
  comesOutMm: number;
}

/** All that a maker's sheet says, made from the pinned revision and the bill, as every list of the box is. */
export interface MakersSheet {
  name: string;
  theme: string;
  variant: string;
  revision: number;
  /** How often the box makes it. */
  times: number;
  sizes: { key: string; label: string; comesOutMm: number }[];
  size: string | null;
  options: string[];
  contents: Contents;
  judged: Judged;
  minutes: Minutes;
  looks: ReadonlyMap<string, Appearance>;
  parts: SheetPart[];
}

/** A design in the colours and sizes of what lies in the bag: drawn, counted and judged as it is there. */
export function dressed(design: Design, card: KeyCard | undefined): Design {
  const chosen = new Map((card?.keys ?? []).map((k) => [k.key, k.component]));
  return {
    ...design,
    key: design.key.map((entry) => {
      const c = chosen.get(entry.key);
      if (!c) return entry;
      // A bead key has no pieces a gram and no cautions; what it says of its form stands.
      const { perGram: _perGram, cautions: _cautions, form: _form, ...given } = measuresOf(c);
      const shape = entry.shape ?? (SHAPES as readonly string[]).find((s) => s === c.form) ?? null;
      return {
        ...entry,
        ...given,
        colour: c.colour,
        finish: c.finish,
        form: entry.form ?? c.form ?? null,
        shape: shape as Shape | null,
      };
    }),
  };
}

/**
 * The maker's sheet of one line of a box in one variant; null where the bill has no such line or variant. All that is
 * in it comes from the bill (the frozen one of a committed box) and from the revision that the bill names: it can say
 * nothing else than what is in the bag.
 * @param design the revision that {@link revisionOf} names
 */
export function sheetFor(
  bill: BoxBill,
  design: Design,
  asked: SheetAsked,
  trials: readonly Pick<Trial, "minutes">[],
): MakersSheet | null {
  const variant = bill.variants.find((v) => v.first === asked.first && v.second === asked.second);
  const billed = bill.designs.find((d) => d.line === asked.line);
  if (!variant || !billed) return null;
  const contents = contentsOf(bill, variant);
  const own = contents.bags.filter((bag) => bag.of === asked.line || bag.of === TOGETHER);
  const card = contents.cards.find((c) => c.line === asked.line);
  const held = new Set([
    ...own.flatMap((bag) => bag.items.flatMap((item) => item.component.cautions)),
    ...(billed.cautions ?? []),
  ]);
  // A box may serve one size or option of several: then its sheet is of that one.
  const only = (list: Design["sizes"] | Design["options"], labels: readonly string[]) => {
    const served = (list ?? []).filter((s) => labels.includes(s.label ?? s.key));
    return served.length === 1 ? served[0]!.key : null;
  };
  const size = only(design.sizes, billed.sizes) ?? asked.size;
  return {
    ...sheetOfDesign(
      dressed(design, card),
      { size, option: only(design.options, billed.options), level: asked.level },
      trials,
    ),
    theme: bill.theme,
    variant: variant.name,
    revision: billed.revision,
    times: billed.times,
    contents: {
      ...contents,
      bags: own,
      cards: card ? [card] : [],
      atHand: billed.atHand,
      cautions: CAUTIONS.filter((c) => held.has(c)),
    },
  };
}

/** The revision of a design that a bill's line is of: what its sheet is made from. */
export const revisionOf = (bill: BoxBill, line: string): { designId: string; revision: number } | null =>
  bill.designs.find((d) => d.line === line) ?? null;

/** What of a sheet follows from the design alone. */
export function sheetOfDesign(
  design: Design,
  { size, option, level }: { size: string | null; option: string | null; level: ReadingLevel },
  trials: readonly Pick<Trial, "minutes">[],
) {
  const sizes = (design.sizes ?? []).filter((s) => size === null || s.key === size);
  const options = (design.options ?? []).filter((o) => option === null || o.key === option);
  const countIn = (s: string | null) => countWhole(design, { size: s, option: options[0]?.key ?? null });
  const shown = sizes[Math.floor((sizes.length - 1) / 2)]?.key ?? null;
  const counting = countIn(shown);
  const looks = appearancesOf(design.key);
  const longest = (c: Counting) =>
    Math.max(
      0,
      ...c.parts.filter((p) => p.part.as == null && laidOf(c, p).laid !== "ring").map((p) => finishedMm(c, p)),
    );
  // Every option's parts are told: the maker chooses.
  const parts =
    options.length > 1
      ? options.flatMap((o) => countWhole(design, { size: shown, option: o.key }).parts)
      : counting.parts;
  const each = [...new Map(parts.map((p) => [p.part.id, p])).values()];
  return {
    name: design.name,
    sizes: sizes.map((s) => ({ key: s.key, label: s.label ?? s.key, comesOutMm: longest(countIn(s.key)) })),
    size: shown,
    options: options.map((o) => o.label ?? o.key),
    judged: levelOf(counting, checkFit(counting)),
    minutes: minutesFor(counting, trials),
    looks,
    parts: inOrder(each).map((strung) => partOf(counting, strung, looks, level, size)),
  };
}

/** What is used by others is made first. */
const inOrder = (parts: readonly StrungPartOf[]) => [
  ...parts.filter((p) => p.part.as != null),
  ...parts.filter((p) => p.part.as == null),
];

function partOf(
  counting: Counting,
  strung: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  level: ReadingLevel,
  size: string | null,
): SheetPart {
  const { part } = strung;
  const { laid } = laidOf(counting, strung);
  const picture = layOut(counting, strung, looks, undefined, { laid });
  return {
    id: part.id,
    name: part.name,
    makes: part.makes ?? 1,
    as: part.as ?? null,
    rows: sentencesOf(counting.design, part, level, size),
    made: madeOf(counting, part),
    picture: picture.marks.length + picture.fittings.length + picture.links.length > 0 ? picture : null,
    byRow: rowPicturesOf(counting, strung, looks, laid),
    // How long the thread of a ring is says nothing of the ring, and ends alone are no length.
    comesOutMm: laid === "ring" || strung.whole.strandMm === 0 ? 0 : finishedMm(counting, strung),
  };
}
