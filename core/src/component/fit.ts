/** Which components fit a place on the colour tray: same kind, form and size first, then what is near in colour. */
import type { Component, ComponentInput, ComponentKind, Form, KeyEntry } from "../contract/index.ts";
import { colourSaid } from "./called.ts";
import { nearestColour } from "./difference.ts";
import { filledIn, FORM_KNOWN } from "./forms.ts";
import { formSaid, understand } from "./said.ts";

/** What a place asks for, as far as its name and the designs' bead keys say. */
export interface Wanted {
  name: string;
  kind: ComponentKind;
  form: Form | null;
  /** Named size, such as 11/0, or null. */
  size: string | null;
  alongMm: number | null;
}

/** What a place on the tray asks for: what its bead keys measure, else what its name says. */
export function wantedOf(name: string, kind: string, entries: readonly KeyEntry[]): Wanted {
  const said = understand(name);
  const entry = entries[0];
  const first = <T>(pick: (e: KeyEntry) => T | null | undefined) => entries.map(pick).find((x) => x != null) ?? null;
  return {
    name,
    kind: (entry?.kind ?? kind) as ComponentKind,
    form: (first((e) => e.shape ?? e.form) as Form | null) ?? formSaid(name, entry?.kind ?? kind),
    size: said.size,
    alongMm: first((e) => e.alongMm) ?? said.alongMm,
  };
}

/** What is known of a component: said in its record, else in its name. Worked out once for each. */
const known = new WeakMap<Component, { form: Form | null; size: string | null; alongMm: number | null }>();
function knownOf(c: Component) {
  let found = known.get(c);
  if (!found) {
    found = {
      form: c.form ?? formSaid(c.name, c.kind),
      size: c.size ?? /\b\d\d?\/0\b/.exec(c.name)?.[0] ?? null,
      alongMm: c.alongMm ?? understand(c.name).alongMm,
    };
    known.set(c, found);
  }
  return found;
}

/** Sizes this near to each other are the same to a maker: common practice, no source. */
const SAME_SIZE = 0.06;
/** Colours this near to each other are easily taken for one family (ΔE by CIEDE2000): a choice of ours. */
const NEAR_COLOUR = 20;

/** Crimps are taken for each other, and so are a stone and a focal; a spacer may be any bead. */
const FAMILY: Partial<Record<Form, string>> = {
  "crimp bead": "crimp",
  "crimp tube": "crimp",
  focal: "stone",
  cabochon: "stone",
  stone: "stone",
  cylinder: "seed",
};
const sameForm = (a: Form | null, b: Form | null) =>
  a === null || b === null || a === b || (FAMILY[a] ?? a) === (FAMILY[b] ?? b);

/** Beads and focal pieces stand for each other: which of the two a pendant is, is a matter of taste. */
const sameKind = (a: string, b: string) => a === b || (/^(bead|focal)$/.test(a) && /^(bead|focal)$/.test(b));

function sameSize(wanted: Wanted, c: Component): boolean {
  const { size: said, alongMm: mm } = knownOf(c);
  if (wanted.size !== null && said !== null && /\/0$/.test(wanted.size) && /\/0$/.test(said))
    return wanted.size === said;
  if (wanted.alongMm === null || mm === null) return true;
  return Math.abs(mm - wanted.alongMm) <= SAME_SIZE * wanted.alongMm + 0.05;
}

/**
 * How well a component fits: `same` kind, form and size; the same `kind` in another form or size; or of `another`
 * kind, which is refused until somebody confirms it.
 */
export type Fit = "same" | "kind" | "another";

export function fitOf(wanted: Wanted, c: Component): Fit {
  if (!sameKind(wanted.kind, c.kind)) return "another";
  return sameForm(wanted.form, knownOf(c).form) && sameSize(wanted, c) ? "same" : "kind";
}

export interface Choices {
  /** Same kind, form and size, the nearest in colour first. */
  same: Component[];
  /** The same kind in another form or size, near in colour to what is chosen beside. */
  near: Component[];
  rest: Component[];
}

/** All components in the order in which they fit; `beside` are the colours (#rrggbb) of the colourway's other cells. */
export function choicesFor(wanted: Wanted, components: readonly Component[], beside: readonly string[]): Choices {
  const found: Choices = { same: [], near: [], rest: [] };
  const others = [...new Set(beside)];
  const distance = new Map<string, number>();
  const apart = ({ colour }: Component) => {
    let d = distance.get(colour);
    if (d === undefined) distance.set(colour, (d = nearestColour(colour, others)));
    return d;
  };
  const kinds = new Set<Component>();
  for (const c of components) {
    const fit = fitOf(wanted, c);
    if (fit === "same") found.same.push(c);
    else if (fit === "kind" && apart(c) <= NEAR_COLOUR) found.near.push(c);
    else {
      if (fit === "kind") kinds.add(c);
      found.rest.push(c);
    }
  }
  const byColour = (a: Component, b: Component) => apart(a) - apart(b) || a.name.localeCompare(b.name);
  if (beside.length > 0) for (const list of [found.same, found.near]) list.sort(byColour);
  // What can't be told apart by colour yet stands by its name; of the rest the same kind comes first, as it came.
  else found.same.sort((a, b) => a.name.localeCompare(b.name));
  const [ofKind, another] = [found.rest.filter((c) => kinds.has(c)), found.rest.filter((c) => !kinds.has(c))];
  return { ...found, rest: [...ofKind, ...another] };
}

const WHOLE: Partial<Record<Form, string>> = { glue: "a tube of glue" };
const an = (what: string) => `${/^[aeiou]/.test(what) ? "an" : "a"} ${what}`;

/** What a component is, in two or three words: `a tube of glue`, `a round bead`. */
function thingOf(kind: string, form: Form | null): string {
  const noun = kind === "focal" ? "focal bead" : kind === "stringing" ? "length of stringing" : kind;
  if (form === null) return kind === "packaging" ? "packaging" : an(noun);
  return WHOLE[form] ?? an(kind === "bead" ? `${form} bead` : form);
}

/** What is odd about a choice of another kind: `a tube of glue for a tube bead`; null where nothing is. */
export function oddOf(wanted: Wanted, c: Component): string | null {
  if (fitOf(wanted, c) !== "another") return null;
  return `${thingOf(c.kind, knownOf(c).form)} for ${thingOf(wanted.kind, wanted.form)}`;
}

/**
 * A new component for a place on the tray: as its name and the designs' bead keys say. What they don't say is empty;
 * a form brings the unit it is kept in, its material and its usual cautions.
 * @param code what it is called in lists, without spaces
 * @param colourway the name of the colourway that it is for, which may end its own: it says a colour and nothing else
 */
export function newComponent(
  name: string,
  code: string,
  wanted: Wanted,
  entries: readonly KeyEntry[],
  colourway: string | null = null,
): ComponentInput {
  const end = colourway === null ? "" : `, ${colourway}`;
  const said = understand(end && name.endsWith(end) ? name.slice(0, -end.length) : name);
  // Metal keeps its own colour, whatever the colourway is called.
  const tint = colourway === null || said.metal !== null ? null : colourSaid(colourway);
  const form = said.form && FORM_KNOWN[said.form].kind === wanted.kind ? said.form : wanted.form;
  const first = <T>(pick: (e: KeyEntry) => T | null | undefined, or: T | null) =>
    entries.map(pick).find((x) => x != null) ?? or;
  const measured = {
    size: said.size ?? wanted.size,
    alongMm: first((e) => e.alongMm, said.alongMm),
    acrossMm: first((e) => e.acrossMm, said.acrossMm),
    holeMm: first((e) => e.holeMm, said.holeMm),
    linkMm: first((e) => e.linkMm, said.linkMm),
    coilMm: first((e) => e.coilMm, said.coilMm),
    diameterMm: first((e) => e.diameterMm, said.diameterMm),
    lengthMm: first((e) => e.lengthMm, said.lengthMm),
    material: said.material,
  };
  const given = Object.fromEntries(Object.entries(measured).filter(([, value]) => value !== null));
  const filled = form === null ? {} : filledIn({ ...given, kind: wanted.kind }, form, measured.size);
  return {
    code,
    name,
    kind: wanted.kind,
    form,
    colour: tint ?? said.colour ?? first((e) => e.colour, null) ?? "#b9b2a4",
    finish: said.finish ?? first((e) => e.finish, null) ?? (wanted.kind === "finding" ? "metal" : "opaque"),
    transparency: said.transparency,
    metal: said.metal,
    baseUnit: wanted.kind === "stringing" ? "mm" : "piece",
    cautions: [],
    notes: "",
    offers: [],
    ...filled,
    ...given,
  };
}

/** A code out of a name: its numbers and the beginnings of its words. `6 mm round, moss` → `6-MM-ROUN-MOSS`. */
export function codeOf(name: string, taken: ReadonlySet<string>): string {
  const words = name.toUpperCase().match(/[\p{L}\p{N}]+/gu) ?? ["NEW"];
  const code = words
    .map((w) => w.slice(0, 4))
    .join("-")
    .slice(0, 34);
  if (!taken.has(code)) return code;
  for (let n = 2; ; n++) if (!taken.has(`${code}-${n}`)) return `${code}-${n}`;
}
