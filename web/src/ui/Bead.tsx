import { type Appearance, appearanceOf } from "@jar-count/core/picture";
import { memo, useId, useMemo } from "react";
import { beadSvg } from "./bead.ts";

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

/** The chip of a component or role: its bead, or for thread, cord, wire and chain a small coil of it. */
export const Chip = memo(function Chip({ of, size = 20 }: { of: Parameters<typeof appearanceOf>[0]; size?: number }) {
  const look = useMemo(() => appearanceOf(of), [of]);
  if (of.kind !== "stringing") return <Bead look={look} size={size} />;
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 20 20"
      aria-hidden
      className="inline-block shrink-0"
      fill="none"
      strokeLinecap="round"
    >
      {["var(--contour)", look.colour].map((colour, i) => (
        <path
          key={colour}
          d="M2 14C5 4 9 4 9 10s-4 6-4 0 7-8 9-2-2 7-3 3 3-7 7-3"
          stroke={colour}
          strokeWidth={i === 0 ? 2.6 : 1.6}
        />
      ))}
    </svg>
  );
});
