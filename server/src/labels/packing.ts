import type { BoxBill, Paper } from "@jar-count/core/contract";
import { shortId } from "@jar-count/core/pack";
import { contentsOf } from "@jar-count/core/run";
import { type LabelFace, sheetOfLabels } from "./sheet.ts";

/** Which labels: one for each bag, or one for each box; of one variant or all; of boxes from a number to a number. */
export interface PackLabels {
  what: "bags" | "boxes";
  variant: string | null;
  from: number;
  to: number;
  paper: Paper;
}

/** What a label's code leads to: the list of the bag, at the workshop's own address. */
export const bagAddress = (publicAddress: string, box: string, variant: string, no: number, bag: number | null) =>
  `${publicAddress.replace(/\/+$/, "")}/pack/${box}?v=${shortId(variant)}&no=${no}${bag === null ? "" : `&bag=${bag}`}`;

/** The numbers of a variant's boxes that are asked for. */
const numbersOf = ({ from, to }: PackLabels, boxes: number) => ({ first: from, last: Math.min(to, boxes) });

/** How many labels that is: asked before any is made. */
export const countFaces = (bill: BoxBill, asked: PackLabels): number =>
  bill.variants.reduce((sum, variant) => {
    if (!variant.id || (asked.variant !== null && variant.id !== asked.variant)) return sum;
    const { first, last } = numbersOf(asked, variant.boxes);
    return sum + Math.max(0, last - first + 1) * (asked.what === "bags" ? contentsOf(bill, variant).bags.length : 1);
  }, 0);

/** What each label says: what it is of, the colourway, its number of how many. */
export function packFaces(bill: BoxBill, box: string, publicAddress: string, asked: PackLabels): LabelFace[] {
  return bill.variants.flatMap((variant) => {
    if (!variant.id || (asked.variant !== null && variant.id !== asked.variant)) return [];
    const id = variant.id;
    const bags = asked.what === "bags" ? contentsOf(bill, variant).bags : [null];
    const { first, last } = numbersOf(asked, variant.boxes);
    return Array.from({ length: Math.max(0, last - first + 1) }, (_, i) => first + i).flatMap((no) =>
      bags.map((bag, k): LabelFace => {
        const of = bag && bags.length > 1 ? `, bag ${k + 1} of ${bags.length}` : "";
        return {
          strong: bill.theme,
          text: [variant.name, bag?.title].filter(Boolean).join(": "),
          small: `${bag ? "box" : bill.month + ", box"} ${no} of ${variant.boxes}${of}`,
          address: bagAddress(publicAddress, box, id, no, bag ? k + 1 : null),
          colour: null,
        };
      }),
    );
  });
}

export const packLabelSheet = (faces: readonly LabelFace[], paper: Paper): Promise<Buffer> =>
  sheetOfLabels(faces, { title: "Packing labels", paper, skip: 0 });
