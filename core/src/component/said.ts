/**
 * Beads as people say them: “6 mm red round”, “11/0 seed, matt black”, “head pin 40”, “20 ga wire”.
 * What the words and numbers mean is common practice of the trade, no source; gauges follow ASTM B258.
 */
import {
  type Component,
  COMPONENT_KINDS,
  type ComponentKind,
  type Finish,
  type Form,
  type Material,
  METALS,
  type Shape,
  SHAPES,
  TRANSPARENCIES,
} from "../contract/index.ts";
import { gaugeMm, MM_PER_INCH, toMicrometre } from "../units/index.ts";
import { colourSaid } from "./called.ts";
import { FORM_KNOWN } from "./forms.ts";

/** What is understood of a few words; what they don't say is null. */
export interface Said {
  /** The words themselves, with sizes written out: `6 mm red round`. */
  name: string;
  kind: ComponentKind;
  form: Form | null;
  /** For the picture: a bead's form is its shape. */
  shape: Shape | null;
  /** As the trade says it: 11/0, 6 mm, 20 ga. */
  size: string | null;
  alongMm: number | null;
  acrossMm: number | null;
  holeMm: number | null;
  diameterMm: number | null;
  lengthMm: number | null;
  linkMm: number | null;
  coilMm: number | null;
  colour: string | null;
  finish: Finish | null;
  transparency: (typeof TRANSPARENCIES)[number] | null;
  metal: (typeof METALS)[number] | null;
  material: Material | null;
}

/** Words that name a form, the closer ones first: the first that is found wins. */
const FORM_WORDS: readonly (readonly [RegExp, Form])[] = [
  [/\bmemory ?wire\b/, "memory wire"],
  [/\b(beading|tiger ?tail|coated) ?wire\b/, "beading wire"],
  [
    /\b(ear ?(nut|back)|scroll|butterfly (back|nut)|(post|stud) (nut|back)|nuts? (for|of) ([a-z]+ )?(post|stud))s?\b/,
    "ear nut",
  ],
  [/\b(ear ?(post|stud)|post earring|stud (earring|post)|(?:flat |ball |cup )post|ear ?ring post)s?\b/, "ear post"],
  [/\b(ear ?(wire|hook)|lever ?back|hoop|clip-on)s?\b/, "ear wire"],
  [/\b(head|ball) ?pins?\b/, "head pin"],
  [/\beye ?pins?\b/, "eye pin"],
  [/\b(jump|split|binding) ?rings?\b/, "jump ring"],
  [/\bcrimp covers?\b/, "crimp cover"],
  [/\bcrimp tubes?\b/, "crimp tube"],
  [/\bcrimps?( beads?)?\b/, "crimp bead"],
  [/\b(toggle|clasp|lobster|trigger|hook and eye|magnetic|(?<!ear )hook)s?\b/, "clasp"],
  [/\b(ribbon (end|clamp|crimp)|cord (end|tip)|end cap|glue-?in|knot cup|end)s?\b/, "end cap"],
  [/\b(bead )?caps?\b/, "bead cap"],
  [/\bcones?\b/, "cone"],
  [/\b(connector|open link|link|end bar)s?\b/, "connector"],
  [/\b(wire|thread) guards?\b|\bguards?\b/, "guard"],
  [/\bneedles?\b/, "needle"],
  [/\b(glue|cement|adhesive)\b/, "glue"],
  [/\b(bag|pouch|sachet)s?\b/, "bag"],
  [/\b(card|leaflet|booklet|instructions?)s?\b/, "card"],
  [/\b(label|sticker)s?\b/, "label"],
  [/\b(mailer|envelope)s?\b/, "mailer"],
  [/\b(packing |gift |card )?box(es)?\b(?! clasp)/, "packing box"],
  [/\b(stretch|elastic) ?(cord)?\b/, "stretch cord"],
  [/\b(stone|cup|crystal) chain\b/, "stone chain"],
  [/\bchain\b/, "chain"],
  [/\bribbon\b/, "ribbon"],
  [/\bthread\b/, "thread"],
  [/\bwire\b|\b\d\d ?(ga|gauge)\b/, "craft wire"],
  [/\b(cord|leather|suede|lace|string)\b/, "cord"],
  [/\bcylinders?\b/, "cylinder"],
  [/\btwo[- ]hole\b|\bwedges?\b/, "two-hole"],
  [/\b(spacer )?bars?\b/, "bar"],
  [/\bbicones?\b/, "bicone"],
  [/\b(rondelle|saucer)s?\b/, "rondelle"],
  [/\bcubes?\b/, "cube"],
  [/\bdaggers?\b/, "dagger"],
  [/\b(drop|briolette|teardrop)s?\b/, "drop"],
  [/\bchips?\b/, "chip"],
  [/\b(tube|bugle)s?\b/, "tube"],
  [/\b(disc|disk|heishi|cup|daisy|daisie)s?\b/, "disc"],
  [/\bcoins?\b/, "coin"],
  [/\b(rectang(le|ular)|oblong)s?\b/, "rectangle"],
  [/\b(diamond|lozenge)s?\b/, "diamond"],
  [/\bcross(es)?\b/, "cross"],
  [/\b(medal(lion)?|locket)s?\b/, "medal"],
  [/\b(gear|cog)s?\b/, "gear"],
  [/\b(leaf|leaves)\b/, "leaf"],
  [/\bstars?\b/, "star"],
  [/\bhearts?\b/, "heart"],
  [/\b(bird|wren|finch|swallow|owl|bee|moth)s?\b/, "bird"],
  [
    /\b(animal|cat|dog|fox|hare|rabbit|horse|fish|frog|bear|deer|hedgehog|mouse|turtle|elephant|whale|snail|sheep)s?\b/,
    "animal",
  ],
  [/\bcabochons?\b/, "cabochon"],
  [/\bshells?\b/, "shell"],
  [/\b(charm|pendant|tag)s?\b/, "charm"],
  [/\b(donut|ring)s?\b/, "ring"],
  [/\bseeds?\b|\b\d\d?\/0\b/, "seed"],
  [/\b(round|ball|pearl|felt)s?\b/, "round"],
];

const FINISH_WORDS: readonly (readonly [RegExp, Finish])[] = [
  [/\b(matt|matte|frosted)\b/, "matt"],
  [/\b(iridescent|rainbow|ab)\b/, "iridescent"],
  [/\b(lustre|luster|glazed)\b/, "lustre"],
  [/\bpearls?\b/, "pearl"],
  [/\b(clear|transparent|translucent|faceted|crystal)\b/, "clear"],
  [/\b(metal|metallic|silver|gold|bronze|brass|copper|steel|gunmetal|plated)\b/, "metal"],
  [/\bopaque\b/, "opaque"],
];

const METAL_WORDS: readonly (readonly [RegExp, (typeof METALS)[number]])[] = [
  [/\brose( gold)?\b/, "rose"],
  ...METALS.filter((m) => m !== "rose").map((m) => [new RegExp(`\\b${m}\\b`), m] as const),
  [/\bbrass\b/, "gold"],
  [/\bsteel\b/, "silver"],
];

const MATERIAL_WORDS: readonly (readonly [RegExp, Material])[] = [
  [/\b(wood|wooden)\b/, "wood"],
  [/\bglass\b/, "glass"],
  [/\bcrystal\b/, "crystal"],
  [/\bceramic\b/, "ceramic"],
  [/\bha?ematite\b/, "haematite"],
  [/\b(stone|agate|jasper|quartz|turquoise|jade)\b/, "stone"],
  [/\bpearls?\b/, "pearl"],
  [/\bresin\b/, "resin"],
  [/\b(acrylic|plastic)\b/, "plastic"],
  [/\bbrass\b/, "brass"],
  [/\bcopper\b/, "copper"],
  [/\bbronze\b/, "bronze"],
  [/\bsteel\b/, "steel"],
  [/\bsterling\b/, "silver"],
  [/\bleather\b/, "leather"],
  [/\bsilk\b/, "silk"],
  [/\bcotton\b/, "cotton"],
  [/\bnylon\b/, "nylon"],
];

const find = <T>(words: readonly (readonly [RegExp, T])[], text: string): T | null =>
  words.find(([word]) => word.test(text))?.[1] ?? null;

const isBead = (kind: string) => kind === "bead" || kind === "focal";
const ofKind = (kind: string) =>
  FORM_WORDS.filter(([, form]) => FORM_KNOWN[form].kind === kind || (isBead(kind) && isBead(FORM_KNOWN[form].kind)));
const WORDS_OF_KIND = new Map(COMPONENT_KINDS.map((kind) => [kind as string, ofKind(kind)]));

/** The form that the name of something of a kind says, or null: `Round, sea glass` is a round. */
export const formSaid = (name: string, kind: string): Form | null =>
  find(WORDS_OF_KIND.get(kind) ?? [], name.toLowerCase());

const FRACTION = String.raw`\d+ \d+/\d+|\d+/[1-9]\d*|\d*\.?\d+`;
const BY = new RegExp(String.raw`(\d*[.,]?\d+)\s*(?:mm)?\s*[x×]\s*(\d*[.,]?\d+)\s*(?:mm)?(?![\d/])`, "i");
const MM = /(\d*[.,]?\d+)\s*mm\b/i;
const INCH = new RegExp(String.raw`(${FRACTION})\s*(?:in\b|inch(?:es)?\b|"|″)`, "i");
const GAUGE = /(\d\d)\s*(?:ga\b|gauge\b)/i;
const SEED_SIZE = /\b(\d\d?)\/0\b/;
/** A bare number is a size in millimetres, as in `head pin 40`. */
const BARE = /(?:^|[\s,])(\d{1,3}(?:[.,]\d+)?)(?=$|[\s,])/;

const decimal = (text: string) => Number(text.replace(",", "."));
const inches = (text: string) =>
  text
    .split(" ")
    .map((x) => x.split("/").map(Number))
    .reduce((sum, [top = 0, bottom = 1]) => sum + top / bottom, 0);

/** The numbers of a few words, mm: one, or two of `6 x 4 mm`; and as what they were written. */
function sizeOf(text: string): { mm: number[]; size: string | null } {
  const by = BY.exec(text);
  if (by) return { mm: [decimal(by[1]!), decimal(by[2]!)], size: `${decimal(by[1]!)} x ${decimal(by[2]!)} mm` };
  const gauge = GAUGE.exec(text);
  if (gauge) return { mm: [toMicrometre(gaugeMm(Number(gauge[1])))], size: `${gauge[1]} ga` };
  const mm = MM.exec(text);
  if (mm) return { mm: [decimal(mm[1]!)], size: `${decimal(mm[1]!)} mm` };
  const inch = INCH.exec(text);
  if (inch) return { mm: [toMicrometre(inches(inch[1]!) * MM_PER_INCH)], size: `${inch[1]} in` };
  const bare = BARE.exec(text);
  return bare ? { mm: [decimal(bare[1]!)], size: `${decimal(bare[1]!)} mm` } : { mm: [], size: null };
}

type Measured = Pick<Said, "alongMm" | "acrossMm" | "holeMm" | "diameterMm" | "lengthMm" | "linkMm" | "coilMm">;
const NOTHING: Measured = {
  alongMm: null,
  acrossMm: null,
  holeMm: null,
  diameterMm: null,
  lengthMm: null,
  linkMm: null,
  coilMm: null,
};

/** What one number, or two, measure of a form. */
function measuresOf(form: Form | null, [a, b]: readonly number[]): Partial<Measured> {
  if (a === undefined || !(a > 0)) return {};
  const [less, more] = b === undefined ? [a, a] : [Math.min(a, b), Math.max(a, b)];
  switch (form) {
    case "beading wire":
    case "thread":
    case "stretch cord":
    case "cord":
    case "craft wire":
    case "memory wire":
    case "guard":
      return { diameterMm: a };
    case "ribbon":
      return { acrossMm: a };
    case "chain":
    case "stone chain":
      return { linkMm: a };
    case "head pin":
    case "eye pin":
    case "needle":
      return { lengthMm: more, ...(b === undefined ? {} : { diameterMm: less }) };
    case "rondelle":
      // One number is its width.
      return b === undefined ? { acrossMm: a } : { alongMm: less, acrossMm: more };
    case "disc":
      return b === undefined ? { acrossMm: a } : { alongMm: less, acrossMm: more };
    case "drop":
    case "dagger":
      // Drilled through its top: it lies with its thickness along the thread.
      return b === undefined ? { acrossMm: a } : { alongMm: less, acrossMm: more };
    case "tube":
      return b === undefined ? { alongMm: a } : { alongMm: more, acrossMm: less };
    case "bag":
    case "card":
    case "label":
    case "mailer":
    case "packing box":
    case "glue":
      return {};
    case "charm":
      // It hangs by one end of its longest side.
      return b === undefined ? { alongMm: a } : { alongMm: more, acrossMm: less };
    default:
      return b === undefined ? { alongMm: a } : { alongMm: a, acrossMm: b };
  }
}

/** Daisy spacers lie flat: 1.5 mm along the thread of one 4 mm wide. Common practice, from memory. */
const DAISY = /\bdais(y|ies)\b/i;
const DAISY_ALONG = 1.5 / 4;

/** How long something is along the thread by its name, where nobody measured it, mm; null where that says nothing. */
export function assumedAlong(name: string): number | null {
  if (!DAISY.test(name)) return null;
  const { mm } = sizeOf(name);
  return mm.length === 1 ? Math.round(mm[0]! * DAISY_ALONG * 100) / 100 : null;
}

/** The catalogue's measures of a size, where the form has it; a rondelle of one number is found by its width. */
function knownSize(form: Form | null, said: string | null, mm: readonly number[]): [string, Partial<Measured>] | null {
  const sizes = form === null ? undefined : FORM_KNOWN[form].sizes;
  if (!sizes || said === null) return null;
  const size = Object.keys(sizes).find(
    (key) => key === said || (form === "rondelle" && mm.length === 1 && sizes[key]!.acrossMm === mm[0]),
  );
  if (size === undefined) return null;
  const known = sizes[size]!;
  const kept = Object.keys(NOTHING).flatMap((field) => {
    const value = known[field as keyof Measured];
    return value == null ? [] : [[field, value] as const];
  });
  return [size, Object.fromEntries(kept)];
}

/** What a role or a component is, as its few words say it. Never throws; what is not understood stays in the name. */
export function understand(words: string): Said {
  const name = words
    .trim()
    .replace(/\s+/g, " ")
    .replace(/(\d)(mm|ga)\b/gi, "$1 $2")
    .slice(0, 200);
  const text = name.toLowerCase();
  const form = find(FORM_WORDS, text);
  const seed = SEED_SIZE.exec(text);
  const { mm, size: written } = seed ? { mm: [], size: `${seed[1]}/0` } : sizeOf(name);
  const known = knownSize(form, written, mm);
  const size = known?.[0] ?? written;
  const kind = form === null ? "bead" : FORM_KNOWN[form].kind;
  const metal = find(METAL_WORDS, text);
  return {
    name,
    kind,
    form,
    shape: (SHAPES as readonly string[]).includes(form ?? "") ? (form as Shape) : null,
    size,
    ...NOTHING,
    // Of a bead that is as wide as it is long nothing across is said: that follows by its form.
    ...(known ? { ...known[1], ...(mm.length === 1 && form !== "rondelle" ? { acrossMm: null } : {}) } : {}),
    ...(known ? {} : measuresOf(form, mm)),
    ...(assumedAlong(name) === null ? {} : { alongMm: assumedAlong(name) }),
    colour: colourSaid(text),
    finish: find(FINISH_WORDS, text),
    transparency: /\bopaque\b/.test(text)
      ? "opaque"
      : /\b(clear|transparent)\b/.test(text)
        ? "transparent"
        : /\btranslucent\b/.test(text)
          ? "translucent"
          : null,
    metal: kind === "finding" || form === "chain" || form === "craft wire" ? metal : null,
    material: find(MATERIAL_WORDS, text) ?? (form === null ? null : (FORM_KNOWN[form].material ?? null)),
  };
}

/** Measures this near to each other, mm, are the same: as common practice, from memory. */
const NEAR_MM = 0.05;
const MEASURES = Object.keys(NOTHING) as (keyof Measured)[];

/**
 * Whether a component is what a few words say: where they say a kind, form, size or finish, it has the same. `head pin
 * 50 mm` is no ball pin, and `beading wire 0.014 in` no craft wire.
 */
export function agrees(said: Said, c: Component): boolean {
  const its = understand(c.name);
  const text = said.name.toLowerCase();
  const form = c.form ?? its.form;
  if (said.form !== null && (c.kind !== said.kind || form !== said.form)) return false;
  // Two sorts of one form, where the words name one.
  if (SORTS.some((sort) => sort.test(text) !== sort.test(c.name.toLowerCase()) && sort.test(c.name.toLowerCase())))
    return false;
  if (said.finish !== null && c.finish !== said.finish) return false;
  const sizes = [c.size, its.size].filter((x) => x != null);
  if (said.size !== null && sizes.includes(said.size)) return true;
  return MEASURES.every((field) => {
    const [wanted, has] = [said[field], c[field] ?? its[field]];
    return wanted === null || (has != null && Math.abs(has - wanted) <= NEAR_MM);
  });
}

/** Sorts within a form that are taken only where they are named. */
const SORTS: readonly RegExp[] = [/\bball\b/, /\bmagnet/, /\btoggle\b/, /\bsplit\b/, /\bclip\b/];
