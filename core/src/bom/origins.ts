import type { BoxDetail } from "../contract/index.ts";
import { lengthOrigins, type Origin, originsOf } from "../count/index.ts";
import { measuredCut } from "../cut/index.ts";
import { countLineOf, linkOf, type Need, type VariantBill } from "./bom.ts";

/** One row of what a box's need of a component is made of. */
export interface NeedOrigin {
  line: string;
  designId: string;
  design: string;
  revision: number;
  /** The size and most of the kit that need the most, where the kit serves several. */
  size: string | null;
  option: string | null;
  key: string;
  origin: Origin;
  /** How many of the design a box holds; 1 for what is there once a kit. */
  times: number;
  /** Pieces, or millimetres, a box: `origin.total × times`. */
  perBox: number;
}

/**
 * What a component's number in a box is made of: design by design, part by part, place by place. The rows' `perBox` add
 * up to the need's pieces (or millimetres) a box.
 */
export function originsOfNeed(
  detail: BoxDetail,
  variant: Pick<VariantBill, "first" | "second">,
  need: Need,
): NeedOrigin[] {
  return need.from.flatMap(({ line: lineId, key, per, shared, taken }) => {
    const perKit = per !== "item";
    const counted = countLineOf(detail, variant, lineId);
    if (!counted) return [];
    const { kit, line, pinned } = counted;
    const linear = kit.lengthsMm[key] !== undefined;
    const linkMm = linkOf(need.component, pinned.design, key);
    const wanted = linear ? kit.lengthsMm[key]! : ((perKit ? kit.perKit : kit.counts)[key] ?? 0);
    // A kit for several sizes holds what the one that needs most needs: that one's places are listed.
    const countings = kit.countings();
    const most = countings.find(
      ({ answer }) => (linear ? answer.lengthsMm : perKit ? answer.perKit : answer.counts)[key] === wanted,
    );
    if (!most) return [];
    const origins = linear
      ? lengthOrigins(most, key, (mm) => measuredCut(mm, detail.ruler, linkMm))
      : originsOf(most, key)
          .filter((o) => (o.how === "kit" || o.how === "box" ? o.how : "item") === per)
          // Once a box: what another design of it brought already does not come again.
          .slice(0, shared ? 1 : undefined)
          .map((o) => (shared ? { ...o, each: taken, total: taken } : o));
    const several = countings.length > 1;
    return origins.map((origin) => ({
      line: line.id,
      designId: line.designId,
      design: pinned.design.name,
      revision: line.revision,
      size: several || line.size !== null ? most.answer.size : null,
      option: several || line.option !== null ? most.answer.option : null,
      key,
      origin,
      times: perKit ? 1 : line.times,
      perBox: origin.total * (perKit ? 1 : line.times),
    }));
  });
}
