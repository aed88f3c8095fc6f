import type { Laid } from "../contract/index.ts";
import { type Counting, countWhole, type StrungPartOf } from "../count/index.ts";
import { type Appearance, layOut, type Picture } from "../picture/index.ts";
import { everyStep, type Row } from "../shorthand/index.ts";

/** How far a stitched part has come after one of its rows. */
export interface RowPicture {
  label: string | null;
  /** From 1. */
  row: number;
  picture: Picture;
  /** Which of the picture's marks are new in this row. */
  isNew: boolean[];
  /** The thread's way in this row: points of the picture. */
  path: { x: number; y: number }[];
}

const MOST_ROWS = 24;

/** Whether rows go back through what earlier ones strung: then each is drawn on its own. */
const isStitched = (rows: readonly Row[]) => {
  if (rows.length < 2) return false;
  let passes = false;
  for (const row of rows) everyStep(row, (step) => (passes ||= step.type === "pass"));
  return passes;
};

/**
 * One picture a row of a part that is stitched: what is there by then, what is new, and the way the thread took. Each
 * is laid from the rows up to it, so nothing shows that is not there yet.
 */
export function rowPicturesOf(
  counting: Counting,
  { part, pattern }: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  laid: Laid,
): RowPicture[] {
  const rows = pattern.rows.filter((r) => r.steps.length > 0);
  if (!isStitched(rows)) return [];
  let walked = 0;
  return rows.slice(0, MOST_ROWS).flatMap((row, i) => {
    const steps = pattern.text.slice(0, row.to);
    const design = {
      ...counting.design,
      parts: counting.design.parts.map((p) => (p.id === part.id ? { ...p, steps } : p)),
    };
    const upTo = countWhole(design, { size: counting.answer.size, option: counting.answer.option });
    const strung = upTo.parts.find((p) => p.part.id === part.id);
    if (!strung) return [];
    const picture = layOut(upTo, strung, looks, undefined, { laid });
    const before = walked;
    walked = picture.path.length;
    return [
      {
        label: row.label,
        row: i + 1,
        picture,
        isNew: picture.marks.map((m) => m.part === part.id && m.from >= row.from && m.from < row.to),
        path: picture.path.slice(Math.max(0, before - 1)),
      },
    ];
  });
}
