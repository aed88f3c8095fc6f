import { type Need, originsOfNeed, type VariantBill } from "@jar-count/core/bom";
import type { BoxDetail } from "@jar-count/core/contract";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { benchPlace, type OriginRow, useSayOrigin } from "../../ui/WhereFrom.tsx";

/** Lists the places in the designs that a need of one box adds up from, each leading to the bench. */
export function useNeedRows(linear: boolean) {
  const sayOrigin = useSayOrigin(linear);
  const say = useSayQuantity();
  return (detail: BoxDetail, variant: VariantBill, need: Need): OriginRow[] => [
    ...fromDesigns(detail, variant, need),
    ...need.beside.map(({ content, perBox, pack, packs }) => ({
      id: content,
      where: <span className="block text-ink">Beside the designs</span>,
      how: pack === null ? "in the box" : `${sayNumber(packs)} whole ${pack}`,
      total: say(perBox, need.component.baseUnit),
    })),
  ];

  function fromDesigns(detail: BoxDetail, variant: VariantBill, need: Need): OriginRow[] {
    return originsOfNeed(detail, variant, need).map((row, i) => {
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
}
