import { assumedAlong, formSaid } from "../component/index.ts";
import { type Design, FORMS, type KeyEntry, type Measures } from "../contract/index.ts";
import type { Colourway } from "../count/index.ts";

/** A role with the measures that hold: the chosen component's, else its own; and which are assumed. */
export type Measured = Omit<KeyEntry, "form"> & Measures & { form: string | null; assumed: readonly Measure[] };

/** As wide as they are long: common practice. */
const EVEN: ReadonlySet<string> = new Set(["round", "bicone", "cube"]);

/** What nobody measured and is taken for granted, by a role's form or name. */
function assume(entry: Omit<Measured, "assumed">): Measured {
  if (entry.acrossMm == null && entry.alongMm != null && entry.form !== null && EVEN.has(entry.form))
    return { ...entry, acrossMm: entry.alongMm, assumed: ["acrossMm"] };
  const along = assumedAlong(entry.name);
  return { ...entry, assumed: along !== null && along === entry.alongMm ? ["alongMm"] : [] };
}

/** What a measure is called where it is missing. */
export type Measure = keyof Measures & string;

/** By key: every role as it is measured. */
export function measured(design: Pick<Design, "key">, components: Colourway | null): Map<string, Measured> {
  return new Map(
    design.key.map((entry) => {
      const own = components && Object.hasOwn(components, entry.key) ? components[entry.key] : undefined;
      const given = Object.fromEntries(Object.entries(own ?? {}).filter(([, value]) => value != null)) as Measures;
      const said = given.form ?? entry.form ?? entry.shape ?? formSaid(entry.name, entry.kind);
      return [entry.key, assume({ ...entry, ...given, form: said })];
    }),
  );
}

/** What packs tighter than wire: a factor on its thickness, common practice; each role may say its own. */
const SOFT = 0.8;
const SOFT_FORMS: ReadonlySet<string> = new Set(["thread", "cord", "stretch cord", "ribbon"]);
export const softOf = ({ soft, form }: Pick<Measured, "soft" | "form">) =>
  soft ?? (form !== null && SOFT_FORMS.has(form) ? SOFT : 1);

/** How thick stringing is where it is packed, mm; null where it is not measured. */
export const packedMm = (of: Measured | undefined) => (of?.diameterMm == null ? null : of.diameterMm * softOf(of));

const named = (...forms: (typeof FORMS)[number][]): ReadonlySet<string> => new Set(forms);
const CRIMPS = named("crimp tube", "crimp bead");
const PINS = named("head pin", "eye pin");
const HIDING = named("cone", "end cap", "bead cap");

const is = (forms: ReadonlySet<string>) => (of: Measured | undefined) =>
  of !== undefined && of.kind === "finding" && of.form !== null && forms.has(of.form);
export const isCrimp = is(CRIMPS);
export const isCover = is(named("crimp cover"));
export const isPin = is(PINS);
export const isRing = is(named("jump ring"));
/** What is put over the ends of strands. */
export const isHiding = is(HIDING);
export const isMagnet = (of: Measured) =>
  /magnet/i.test(`${of.form ?? ""} ${of.name}`) || (of.cautions ?? []).includes("magnet");

/** Mass of one, g, weighed or by pieces a gram; null where neither is known. */
export const gramsOf = ({ massG, perGram }: Measured) => massG ?? (perGram == null ? null : 1 / perGram);
