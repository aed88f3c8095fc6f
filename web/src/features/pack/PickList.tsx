import type { Packing } from "@jar-count/core/contract";
import { pickList, type PickRow, type PieceRow } from "@jar-count/core/pack";
import { Check } from "lucide-react";
import { useMemo } from "react";
import { Chip } from "../../ui/Bead.tsx";
import { Short, useSayQuantity } from "../../ui/marks.tsx";
import { useTicks } from "./ticks.ts";

/** What to bring to the bench, jar by jar in the order of the walk. */
export function PickList({ packing }: { packing: Packing }) {
  const { rows, missing } = useMemo(() => pickList(packing), [packing]);
  const say = useSayQuantity();
  const componentOf = new Map(packing.of.components.map((c) => [c.id, c]));
  const at = packing.places.flatMap((place) => {
    const here = rows.filter((r) => r.place === place.id);
    return here.length > 0 ? [{ place, here }] : [];
  });
  if (rows.length === 0 && missing.length === 0) {
    return <p className="py-8 text-center text-muted">All that the boxes take is packed: nothing more to bring.</p>;
  }
  return (
    <section aria-label="Pick list">
      {missing.length > 0 && (
        <div role="status" className="mb-3 rounded-md border-l-4 border-short bg-hush px-4 py-2">
          <p className="font-semibold text-short">Not there for all of them</p>
          <ul>
            {missing.map(({ component, quantity }) => {
              const c = componentOf.get(component)!;
              return (
                <li key={component} className="flex justify-between gap-3 py-0.5">
                  <span className="min-w-0 [overflow-wrap:anywhere]">{c.name}</span>
                  <Short>{say(quantity, c.baseUnit)}</Short>
                </li>
              );
            })}
          </ul>
        </div>
      )}
      {at.map(({ place, here }) => (
        <section key={place.id} aria-label={`${place.code}, ${place.name}`} className="mb-4">
          <h2 className="sticky top-[7.25rem] z-10 bg-mat py-1">
            {place.code} <span className="text-sm text-muted">{place.name}</span>
          </h2>
          <ul>
            {here.map((row) => (
              <Row key={`${row.component} ${row.lot}`} row={row} packing={packing} />
            ))}
          </ul>
        </section>
      ))}
    </section>
  );
}

function Row({ row, packing }: { row: PickRow | PieceRow; packing: Packing }) {
  const say = useSayQuantity();
  const { done, toggle } = useTicks();
  const component = packing.of.components.find((c) => c.id === row.component)!;
  const key = `${packing.box} pick ${row.component} ${row.place} ${row.lot}`;
  const nameOf = (variant: string) => packing.of.variants.find((v) => v.id === variant)?.name ?? "";
  const many =
    "pieces" in row
      ? row.pieces.map((p) => `${p.count} × ${say(p.mm, "length")}`).join(", ")
      : say(row.quantity, component.baseUnit);
  return (
    <li className="border-t border-rule">
      <button
        type="button"
        role="checkbox"
        aria-checked={key in done}
        onClick={() => toggle(key)}
        className="flex min-h-12 w-full items-center gap-3 py-1.5 text-left hover:bg-hush"
      >
        <Tick on={key in done} />
        <Chip of={component} size={26} />
        <span className={`min-w-0 flex-1 [overflow-wrap:anywhere] ${key in done ? "text-muted" : ""}`}>
          {component.name}
          {row.lot !== "" && <span className="ml-1 text-xs text-muted">lot {row.lot}</span>}
          {"variants" in row && row.variants.length > 1 && (
            <span className="block text-xs text-muted">
              {row.variants.map((v) => `${nameOf(v.variant)} ${say(v.quantity, component.baseUnit)}`).join(" · ")}
            </span>
          )}
          {"variants" in row && row.variants.length === 1 && (
            <span className="block text-xs text-muted">{nameOf(row.variants[0]!.variant)}</span>
          )}
        </span>
        <strong
          className={`text-right font-semibold ${"pieces" in row ? "max-w-[45%] text-sm" : "shrink-0 text-base"}`}
        >
          {many}
        </strong>
      </button>
    </li>
  );
}

export function Tick({ on }: { on: boolean }) {
  return (
    <span
      aria-hidden
      className={`grid size-7 shrink-0 place-items-center rounded-full border-[1.5px] ${
        on ? "border-ink bg-ink text-paper" : "border-edge"
      }`}
    >
      {on && <Check size={16} strokeWidth={3} />}
    </span>
  );
}
