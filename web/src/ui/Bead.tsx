import type { Appearance } from "@jar-count/core/picture";
import { useId } from "react";
import { beadSvg } from "./bead.ts";

/** A bead chip: the bead drawn to fit a small square. Decoration beside a name, never the only sign of it. */
export function Bead({ look, size = 20 }: { look: Appearance; size?: number }) {
  const id = useId();
  const reach = Math.max(look.alongMm, look.acrossMm, 0.5) / 2 + 0.15;
  const view = `${-reach} ${-reach} ${2 * reach} ${2 * reach}`;
  return (
    <svg width={size} height={size} viewBox={view} aria-hidden className="inline-block shrink-0" dangerouslySetInnerHTML={{ __html: beadSvg(look, id) }} />
  );
}
