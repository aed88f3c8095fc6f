import type { BoxInput, OpenBox } from "../contract/index.ts";

/** The day of the month before on which a box is packed, where nobody says another (common practice of the studio). */
const PACKING_DAY = 20;

/** The day by which a box is packed: as said, else the 20th of the month before. */
export function packByOf({ packBy, month }: Pick<BoxInput, "month"> & { packBy?: string | null | undefined }): string {
  if (packBy) return packBy;
  const [year, no] = month.split("-").map(Number) as [number, number];
  const before = no === 1 ? `${year - 1}-12` : `${year}-${String(no - 1).padStart(2, "0")}`;
  return `${before}-${PACKING_DAY}`;
}

/** Who is packed first: by the day, then the month, then the id. */
export const inOrder = <B extends Pick<OpenBox, "packBy" | "month" | "id">>(boxes: readonly B[]): B[] =>
  [...boxes].sort((a, b) => compare(a.packBy, b.packBy) || compare(a.month, b.month) || compare(a.id, b.id));

const compare = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
