/** 1 in = 25.4 mm exactly (international yard and pound agreement, 1959; NIST SP 811). */
export const MM_PER_INCH = 25.4;

const MM_PER: Record<string, number> = {
  mm: 1,
  cm: 10,
  m: 1000,
  in: MM_PER_INCH,
  '"': MM_PER_INCH,
  "″": MM_PER_INCH,
  "”": MM_PER_INCH,
  ft: 304.8,
};
const VULGAR: Record<string, string> = {
  "½": "1/2",
  "¼": "1/4",
  "¾": "3/4",
  "⅛": "1/8",
  "⅜": "3/8",
  "⅝": "5/8",
  "⅞": "7/8",
};
const WRITTEN = /^(?:(\d+)[ -]+)?(\d+)\/(\d+)\s*(\D*)$|^(\d+(?:[.,]\d*)?|[.,]\d+)\s*(\D*)$/;

export type LengthUnit = "in" | "mm";

/**
 * Reads a length as people write it: `190mm`, `7.5in`, `7 1/2`, `7-1/2"`, `12,5 cm`, `7½`.
 * A number without a unit is taken in `bare`; without `bare` it is refused.
 * @returns millimetres, or null if it can't be read
 */
export function readLength(text: string, bare?: LengthUnit): number | null {
  const plain = text
    .trim()
    .replace(/(\d?)\s*([½¼¾⅛⅜⅝⅞])/g, (_, d: string, v: string) => `${d ? `${d} ` : ""}${VULGAR[v]}`);
  const found = WRITTEN.exec(plain);
  if (!found) return null;
  const [, whole, top, bottom, unitA, decimal, unitB] = found;
  const unit = (unitA ?? unitB ?? "").trim() || bare;
  const per = unit && Object.hasOwn(MM_PER, unit) ? MM_PER[unit]! : null;
  if (per === null) return null;
  const n =
    decimal !== undefined ? Number(decimal.replace(",", ".")) : Number(whole ?? 0) + Number(top) / Number(bottom);
  return Number.isFinite(n) ? n * per : null;
}

/** Trims a number to `places` decimals without trailing zeros. */
export function plainNumber(n: number, places: number): string {
  const text = n.toFixed(places);
  const trimmed = places > 0 ? text.replace(/\.?0+$/, "") : text;
  return trimmed === "-0" ? "0" : trimmed;
}

/**
 * Says a length in the person's unit, without the unit's name: millimetres to `places`, inches to the nearest
 * sixteenth as a mixed fraction (`7 1/16`).
 */
export function sayLength(mm: number, unit: LengthUnit, places = 1): string {
  if (unit === "mm") return plainNumber(mm, places);
  const sixteenths = Math.round((Math.abs(mm) / MM_PER_INCH) * 16);
  const whole = Math.floor(sixteenths / 16);
  let top = sixteenths % 16;
  let bottom = 16;
  while (top > 0 && top % 2 === 0) {
    top /= 2;
    bottom /= 2;
  }
  const sign = mm < 0 && sixteenths > 0 ? "-" : "";
  if (top === 0) return `${sign}${whole}`;
  return whole === 0 ? `${sign}${top}/${bottom}` : `${sign}${whole} ${top}/${bottom}`;
}

/**
 * A length in one unit, without its name: as {@link sayLength} where that says it exactly; else to the nearest 64th
 * under an inch and the nearest sixteenth above, with a ~ before it that says that it is rounded.
 */
export function sayNear(mm: number, unit: LengthUnit): string {
  if (unit === "mm") return sayLength(mm, "mm", 3);
  const exact = sayLength(mm, "in");
  if (Math.abs(readLength(exact, "in")! - mm) < 0.001) return exact;
  const per = mm < MM_PER_INCH ? 64 : 16;
  let [top, bottom] = [Math.max(1, Math.round((mm / MM_PER_INCH) * per)), per];
  while (top % 2 === 0 && bottom > 1) [top, bottom] = [top / 2, bottom / 2];
  const whole = Math.floor(top / bottom);
  const part = top % bottom === 0 ? "" : `${top % bottom}/${bottom}`;
  const said = [whole > 0 ? String(whole) : "", part].filter(Boolean).join(" ");
  return Math.abs(readLength(said, "in")! - mm) < 0.001 ? said : `~${said}`;
}

/** From so much on, whole centimetres are said in metres and whole feet in feet: as stringing is bought. */
const LONG_MM = 1000;
const LONG_FEET = 10;

/** A length for a field that is typed in: as {@link sayNear}; long ones as `10 m` or `30 ft`, with their unit. */
export function sayTyped(mm: number, unit: LengthUnit): string {
  const feet = mm / (12 * MM_PER_INCH);
  const isFeet = feet >= LONG_FEET && Math.abs(feet - Math.round(feet)) < 1e-6;
  if (unit === "in" && isFeet) return `${Math.round(feet)} ft`;
  const near = sayNear(mm, unit);
  const isMetres = mm >= LONG_MM && mm % 10 === 0;
  return isMetres && (unit === "mm" || near.startsWith("~")) ? `${plainNumber(mm / 1000, 2)} m` : near;
}

/** Says lengths that stand in a sentence (`101.6 mm`, with a no-break space) in the person's unit. */
export const inUnit = (sentence: string, unit: LengthUnit): string =>
  unit === "mm"
    ? sentence
    : sentence.replace(
        /([\d,]+(?:\.\d+)?)\u00a0mm/g,
        (_, n: string) => `${sayNear(Number(n.replaceAll(",", "")), "in")} in`,
      );

/**
 * As {@link sayLength}, with the unit's name: long runs of stringing in feet (`112 ft 3 1/2 in`) or metres, as finely
 * as anything is cut, so that what is left is what was there less what was cut.
 */
export function sayRun(mm: number, unit: LengthUnit): string {
  if (unit === "mm") return mm >= 10_000 ? `${plainNumber(mm / 1000, 3)} m` : `${plainNumber(mm, 1)} mm`;
  const sixteenths = Math.round((mm / MM_PER_INCH) * 16);
  if (sixteenths < 36 * 16) return `${sayLength(mm, "in")} in`;
  const feet = Math.floor(sixteenths / 192);
  const rest = sixteenths - feet * 192;
  return rest === 0 ? `${feet} ft` : `${feet} ft ${sayLength((rest / 16) * MM_PER_INCH, "in")} in`;
}

/**
 * A length to cut, never rounded down, since too short can't be mended: to the next sixteenth of an inch, or the next
 * tenth of a millimetre. Rounding noise of a thousandth of a millimetre is let go. Chain is counted in links, with
 * about how long they are.
 * @param linkMm how long a link is, of chain
 */
export function sayCut(mm: number, unit: LengthUnit, linkMm?: number | null): string {
  if (linkMm) {
    const links = Math.ceil(mm / linkMm - 1e-3);
    return `${links} ${links === 1 ? "link" : "links"} (${sayNear(links * linkMm, unit)} ${unit})`;
  }
  if (unit === "mm") return `${plainNumber(Math.ceil((mm - 0.001) * 10) / 10, 1)} mm`;
  return `${sayLength((Math.ceil(((mm - 0.001) / MM_PER_INCH) * 16) / 16) * MM_PER_INCH, "in")} in`;
}

/** Diameter of a wire by its gauge, ASTM B258: d = 0.127 mm × 92^((36 − n)/39). */
export const gaugeMm = (gauge: number) => 0.127 * 92 ** ((36 - gauge) / 39);
