import { type Need, originsOfNeed, type VariantBill } from "@jar-count/core/bom";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { benchPlace, type OriginRow, useSayOrigin } from "../../ui/WhereFrom.tsx";
import type { BoxWork } from "./useBox.ts";

/** The places in the designs that a need of one box adds up from, each leading to the bench. */
export function useNeedRows(work: BoxWork, variant: VariantBill, need: Need): () => OriginRow[] {
  const linear = need.component.baseUnit === "mm";
  const sayOrigin = useSayOrigin(linear);
  const say = useSayQuantity();
  return () =>
    originsOfNeed(work.detail, variant, need).map((row, i) => {
      const { where, how } = sayOrigin(row.origin);
      const size = row.size === null ? "" : `, size ${row.size}`;
      return {
        id: String(i),
        where: (
          <>
            <span className="block text-ink">
              {row.design}
              {size}
            </span>
            {where}
          </>
        ),
        how: `${how}${row.times === 1 ? "" : `, ${sayNumber(row.times)} a box`}`,
        total: say(row.perBox, linear ? "mm" : "piece"),
        to: benchPlace(row.designId, row.origin, row.key, row.size, row.option),
      };
    });
}
