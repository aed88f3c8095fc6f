import { freeOf } from "@jar-count/core/component";
import type { ContentsItem } from "@jar-count/core/run";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { componentsQuery } from "../../api/queries.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { useSayQuantity } from "../../ui/marks.tsx";

interface Props {
  item: ContentsItem;
  onClose: () => void;
  onSwap: (instead: string, quantity: number) => void;
}

const SHOWN = 20;

/** What goes in instead: of the same unit, as far as it is free; the same kind and size first. */
export function SwapDialog({ item, onClose, onSwap }: Props) {
  const components = useQuery(componentsQuery).data ?? [];
  const [words, setWords] = useState("");
  const [many, setMany] = useState<number | null>(1);
  const say = useSayQuantity();
  const { component } = item;
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  const near = (c: (typeof components)[number]) =>
    Number(c.kind === component.kind) + Number(c.form === component.form) + Number(c.size === component.size);
  const found = components
    .filter((c) => c.id !== component.id && !c.away && c.baseUnit === component.baseUnit && freeOf(c) > 0)
    .filter((c) => wanted.every((w) => `${c.name} ${c.code}`.toLowerCase().includes(w)))
    .sort((a, b) => near(b) - near(a) || a.name.localeCompare(b.name));
  return (
    <Dialog title={`In place of ${component.name}`} open onClose={onClose}>
      <div className="flex flex-wrap items-end gap-3 pb-3">
        <Labelled label="Find" className="min-w-0 flex-1">
          <input className="field h-11! w-full" value={words} onChange={(e) => setWords(e.target.value)} />
        </Labelled>
        {component.baseUnit !== "mm" && (
          <Labelled label={component.baseUnit === "g" ? "Grams" : "How many"}>
            <NumberField
              className="field h-11! w-20"
              optional
              whole={component.baseUnit === "piece"}
              value={many}
              onChange={setMany}
            />
          </Labelled>
        )}
      </div>
      <ul>
        {found.slice(0, SHOWN).map((c) => (
          <li key={c.id} className="border-t border-rule">
            <button
              type="button"
              disabled={!(many! > 0)}
              className="flex min-h-11 w-full items-center gap-3 py-1 text-left hover:bg-hush disabled:opacity-50"
              onClick={() => {
                onSwap(c.id, many!);
                onClose();
              }}
            >
              <Chip of={c} size={26} />
              <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{c.name}</span>
              <span className="shrink-0 text-muted">{say(freeOf(c), c.baseUnit)} free</span>
            </button>
          </li>
        ))}
      </ul>
      {found.length === 0 && <p className="text-muted">Nothing of the same unit is free.</p>}
      {found.length > SHOWN && <p className="pt-2 text-muted">and {found.length - SHOWN} more: write a word of it</p>}
    </Dialog>
  );
}
