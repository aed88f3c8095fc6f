/** `1,240.5` and `1240,5` alike; null for what is no number. */
export function numberOf(text: string): number | null {
  const plain = text
    .replace(/[\s ]/g, "")
    .replace(/,(?=\d{3}(\D|$))/g, "")
    .replace(",", ".");
  return /^[+-]?\d+(\.\d+)?$/.test(plain) ? Number(plain) : null;
}

/** An amount without its sign or its thousands, as decimal text; undefined for what is none. */
export function moneyOf(text: string): string | undefined {
  const plain = text
    .replace(/[^\d.,-]/g, "")
    .replace(/,(?=\d{3}(\D|$))/g, "")
    .replace(",", ".");
  return /^\d{1,9}(\.\d{1,4})?$/.test(plain) ? plain : undefined;
}
