/** Something in a body that can't be kept as text, and where: a JSON pointer (RFC 6901). */
export interface Unfit {
  pointer: string;
  detail: string;
}

const step = (key: string | number) => `/${String(key).replaceAll("~", "~0").replaceAll("/", "~1")}`;

/**
 * The first text anywhere in a value, names of fields too, that no database keeps: one with a NUL sign, or with half of
 * a sign (a lone surrogate). Null where there is none.
 */
export function findUnfit(value: unknown, pointer = ""): Unfit | null {
  if (typeof value === "string") {
    if (value.includes("\0")) return { pointer, detail: "This holds a NUL sign, which is no text. Take it out." };
    if (!value.isWellFormed()) return { pointer, detail: "This holds half of a sign. Type it anew." };
    return null;
  }
  if (value === null || typeof value !== "object") return null;
  for (const [key, inner] of Object.entries(value)) {
    const found = findUnfit(key, pointer) ?? findUnfit(inner, pointer + step(key));
    if (found) return found;
  }
  return null;
}
