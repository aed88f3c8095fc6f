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

export function SectionHead({ title, columns }: { title: string; columns: number }) {
  return (
    <tr>
      <th
        scope="rowgroup"
        colSpan={columns}
        className="h-10! pt-3 text-left align-bottom text-xs font-normal! text-muted"
      >
        {title}
      </th>
    </tr>
  );
}

/** A component at the head of its row, leading to its jar. */
export function ComponentHead({ component }: { component: Component }) {
  return (
    <th scope="row" className="text-left font-normal!">
      <span className="flex items-center gap-2">
        <span className="grid w-6 shrink-0 place-items-center">
          <Chip of={component} />
        </span>
        <Link to={`/jars/${component.id}`} className="min-w-0 [overflow-wrap:anywhere] hover:underline">
          {component.name}
        </Link>
      </span>
    </th>
  );
}
