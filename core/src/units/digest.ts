/**
 * A short name for a text, the same wherever it is made: four 32-bit FNV-1a sums as 32 hexadecimal digits. It tells
 * whether two parties look at the same thing; it keeps nobody from making another text of the same name.
 */
export function digestOf(text: string): string {
  return [0, 1, 2, 3]
    .map((salt) => {
      let hash = 0x811c9dc5;
      for (const c of `${salt} ${text}`) hash = Math.imul(hash ^ c.codePointAt(0)!, 0x01000193) >>> 0;
      return hash.toString(16).padStart(8, "0");
    })
    .join("");
}
