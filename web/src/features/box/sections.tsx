import type { Component } from "@jar-count/core/contract";
import { Link } from "react-router";
import { Chip } from "../../ui/Bead.tsx";

/** How lists of components are divided, in the order in which a kit is read. */
export const SECTIONS: { title: string; kinds: string[] }[] = [
  { title: "Beads", kinds: ["bead", "focal"] },
  { title: "Findings", kinds: ["finding"] },
  { title: "Thread, cord, wire and chain", kinds: ["stringing"] },
  { title: "Everything else", kinds: ["consumable", "packaging"] },
];

/** A component where it names its row, leading to its jar. */
export function ComponentName({ component }: { component: Component }) {
  return (
    <span className="flex items-center gap-2">
      <span className="grid w-6 shrink-0 place-items-center">
        <Chip of={component} />
      </span>
      <Link to={`/jars/${component.id}`} className="min-w-0 [overflow-wrap:anywhere] hover:underline">
        {component.name}
      </Link>
    </span>
  );
}
