/**
 * How numbers and dates are written: as the workshop chose (a BCP 47 tag), else as the browser does. Kept beside the
 * page, so that whatever says a number needs no more than that number.
 */
let chosen: string | undefined;
let marks = marksOf(chosen);

interface Marks {
  group: string;
  decimal: string;
}

function marksOf(tag: string | undefined): Marks {
  const parts = new Intl.NumberFormat(tag, { useGrouping: "always" } as Intl.NumberFormatOptions).formatToParts(
    12345.6,
  );
  const of = (type: string) => parts.find((p) => p.type === type)?.value;
  return { group: of("group") ?? ",", decimal: of("decimal") ?? "." };
}

/** The tag for the browser's own formats; undefined where the browser's locale holds. */
export const localeTag = (): string | undefined => chosen;

/** The signs between groups of three digits and before decimals. */
export const numberMarks = (): Marks => marks;

/** Takes the workshop's choice over; empty leaves it to the browser. */
export function followLocale(tag: string): void {
  chosen = tag === "" ? undefined : tag;
  marks = marksOf(chosen);
}

/**
 * Reads digits as they are written here, or with a point: `1.240,5`, `1,240.5`, `1240,5`. Groups are taken out where
 * they stand before three digits. @returns text that a number can be made of
 */
export function plainDigits(text: string): string {
  const { group, decimal } = marks;
  const sign = group.trim() === "" ? "" : group.replace(/[.*+?^${}()|[\]\\]/g, "\\$&");
  const bare = text.trim().replace(/[\s\u00a0\u202f\u2019']/g, "");
  const ungrouped = sign === "" ? bare : bare.replace(new RegExp(`${sign}(?=\\d{3}(\\D|$))`, "g"), "");
  return ungrouped.replace(decimal, ".").replace(",", ".");
}
