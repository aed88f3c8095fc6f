import { formSaid } from "@jar-count/core/component";
import type { Form } from "@jar-count/core/contract";
import { type Appearance, appearanceOf } from "@jar-count/core/picture";
import { memo, useId, useMemo } from "react";
import { beadSvg } from "./bead.ts";
import { thingOf } from "./things.tsx";

/** A bead chip: the bead drawn to fit a small square. Decoration beside a name, never the only sign of it. */
export const Bead = memo(function Bead({ look, size = 20 }: { look: Appearance; size?: number }) {
  const id = useId();
  const drawing = useMemo(() => ({ __html: beadSvg(look, id) }), [look, id]);
  const reach = Math.max(look.alongMm, look.acrossMm, 0.5) / 2 + 0.15;
  const view = `${-reach} ${-reach} ${2 * reach} ${2 * reach}`;
  return (
    <svg
      width={size}
      height={size}
      viewBox={view}
      aria-hidden
      className="inline-block shrink-0"
      dangerouslySetInnerHTML={drawing}
    />
  );
});

type ChipOf = Parameters<typeof appearanceOf>[0];

/**
 * The chip of a component or of a line of a bead key: its bead or finding to fit, or what it is where it is no bead:
 * a spool, a coil of wire, links of chain, a needle, a bag.
 */
export const Chip = memo(function Chip({ of, size = 20 }: { of: ChipOf; size?: number }) {
  const look = useMemo(() => appearanceOf(of), [of]);
  const form = (of.form as Form | null | undefined) ?? formSaid(of.name, of.kind);
  const thing = of.kind === "bead" || of.kind === "focal" ? null : thingOf(form, of.kind);
  if (!thing) return <Bead look={look} size={size} />;
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 24 24"
      aria-hidden
      className="inline-block shrink-0"
      strokeLinecap="round"
      strokeLinejoin="round"
    >
      {thing(look.colour)}
    </svg>
  );
});
