import type { BilledVariant, Packing } from "@jar-count/core/contract";
import { progressOf, shortId } from "@jar-count/core/pack";
import { cautionWords, type ContentsItem, contentsOf, DEFER, sayHowMuch } from "@jar-count/core/run";
import { ChevronLeft, ChevronRight, Ellipsis, Scale, Undo2 } from "lucide-react";
import { useMemo, useState } from "react";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button, IconButton } from "../../ui/controls.tsx";
import { later } from "../../ui/later.tsx";
import { sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { note } from "./BenchScreen.tsx";
import { Tick } from "./PickList.tsx";
import { useQueue } from "./queue.ts";
import { useTicks } from "./ticks.ts";

// What is asked for now and then comes then.
const CheckWeight = later(async () => (await import("./CheckWeight.tsx")).CheckWeight);
const SwapDialog = later(
  async () => (await import("./SwapDialog.tsx")).SwapDialog,
  () => null,
);

interface Props {
  packing: Packing;
  /** The variant, box and bag that a label's code asked for. */
  first: string | null;
  no: number | null;
  bag: number | null;
  over: boolean;
}

/** Bag by bag what goes into a box: variant by variant, counted up by tap. */
export function Bags({ packing, first, no: askedNo, bag: askedBag, over }: Props) {
  const variants = packing.of.variants.filter((v) => v.id && v.boxes > 0);
  const packed = (v: string) => packing.packed.filter((p) => p.variant === v);
  const unpacked = (v: BilledVariant) => packed(v.id!).length < v.boxes;
  const [chosen, setChosen] = useState(first ?? variants.find(unpacked)?.id ?? variants[0]?.id ?? null);
  const variant = variants.find((v) => v.id === chosen) ?? variants[0];
  const [no, setNo] = useState<number | null>(askedNo);
  if (!variant) return <p className="py-8 text-center text-muted">No boxes are planned of any colourway.</p>;
  const done = new Set(packed(variant.id!).map((p) => p.no));
  const next = (after: number) => {
    for (let i = 1; i <= variant.boxes; i++) {
      const n = ((after - 1 + i) % variant.boxes) + 1;
      if (!done.has(n)) return n;
    }
    return variant.boxes;
  };
  const shown = no !== null && no >= 1 && no <= variant.boxes ? no : next(0);
  const go = (n: number | null, v = variant.id!) => {
    setNo(n);
    note({ v: shortId(v), no: n, bag: null });
  };
  return (
    <section aria-label="Bags">
      <div role="group" aria-label="Colourway" className="-mx-4 flex gap-2 overflow-x-auto px-4 pb-2">
        {variants.map((v) => (
          <button
            key={v.id}
            type="button"
            aria-pressed={v.id === variant.id}
            onClick={() => {
              setChosen(v.id!);
              go(null, v.id!);
            }}
            className={`h-11 shrink-0 rounded-md border px-3 whitespace-nowrap ${
              v.id === variant.id ? "border-ink bg-ink font-semibold text-paper" : "border-edge hover:bg-hush"
            }`}
          >
            {v.name || "One kind"}{" "}
            <span className={v.id === variant.id ? "" : "text-muted"}>
              {packed(v.id!).length}/{v.boxes}
            </span>
          </button>
        ))}
      </div>
      <OneBox
        key={variant.id}
        packing={packing}
        variant={variant}
        no={shown}
        isPacked={done.has(shown)}
        startBag={askedBag}
        over={over}
        onGo={go}
        onPacked={() => go(next(shown))}
      />
    </section>
  );
}

interface OneProps {
  packing: Packing;
  variant: BilledVariant;
  no: number;
  isPacked: boolean;
  startBag: number | null;
  over: boolean;
  onGo: (no: number) => void;
  onPacked: () => void;
}

function OneBox({ packing, variant, no, isPacked, startBag, over, onGo, onPacked }: OneProps) {
  const contents = useMemo(() => contentsOf(packing.of, variant), [packing.of, variant]);
  const [at, setAt] = useState(Math.min(Math.max(0, (startBag ?? 1) - 1), Math.max(0, contents.bags.length - 1)));
  const [weighing, setWeighing] = useState(false);
  const person = useSettings((s) => s.person);
  const tap = useQueue((q) => q.tap);
  const { done, clear } = useTicks();
  const tickOf = (bag: number, item: ContentsItem) => `${packing.box} ${variant.id} ${no} ${bag} ${item.component.id}`;
  const inBag = (bag: number) => contents.bags[bag]!.items.filter((i) => tickOf(bag, i) in done).length;
  const bag = contents.bags[at];
  const who = packing.packed.find((p) => p.variant === variant.id && p.no === no);
  const pack = (packed: boolean) => {
    tap(packing.box, person, { does: "pack", variant: variant.id!, no, packed });
    clear(`${packing.box} ${variant.id} ${no} `);
    if (packed) onPacked();
  };
  return (
    <div>
      <div className="flex items-center justify-between gap-2 border-t border-rule pt-2">
        <IconButton label="The box before" className="size-11!" disabled={no <= 1} onClick={() => onGo(no - 1)}>
          <ChevronLeft size={22} />
        </IconButton>
        <h2 className="text-center font-sans! text-base font-semibold">
          Box {sayNumber(no)} <span className="font-normal text-muted">of {sayNumber(variant.boxes)}</span>
          {isPacked && (
            <span className="block text-xs font-normal">packed{who?.person ? ` by ${who.person}` : ""}</span>
          )}
        </h2>
        <IconButton
          label="The next box"
          className="size-11!"
          disabled={no >= variant.boxes}
          onClick={() => onGo(no + 1)}
        >
          <ChevronRight size={22} />
        </IconButton>
      </div>
      {contents.bags.length > 1 && (
        <div role="group" aria-label="Bag" className="-mx-4 flex gap-1 overflow-x-auto px-4">
          {contents.bags.map((b, i) => (
            <button
              key={b.title}
              type="button"
              aria-pressed={i === at}
              onClick={() => setAt(i)}
              className={`h-11 shrink-0 border-b-2 px-2 whitespace-nowrap ${
                i === at ? "border-action font-semibold" : "border-transparent text-muted"
              }`}
            >
              {b.title}{" "}
              <span className="text-xs">
                {inBag(i)}/{b.items.length}
              </span>
            </button>
          ))}
        </div>
      )}
      {bag && (
        <ul aria-label={bag.title}>
          {bag.items.map((item) => (
            <BagRow
              key={item.component.id}
              item={item}
              tick={tickOf(at, item)}
              packing={packing}
              variant={variant}
              over={over || isPacked}
            />
          ))}
        </ul>
      )}
      {contents.cautions.length > 0 && (
        <details className="border-t border-rule py-2 text-muted">
          <summary className="flex h-8 cursor-pointer items-center">Take care: {contents.cautions.join(", ")}</summary>
          <ul className="list-disc pl-5">
            {cautionWords(contents.cautions).map((w) => (
              <li key={w}>{w}</li>
            ))}
          </ul>
          <p className="pt-1 text-xs">{DEFER}</p>
        </details>
      )}
      <HeldUp packing={packing} variant={variant} />
      <div
        className={
          "sticky bottom-[calc(3.5rem+env(safe-area-inset-bottom))] -mx-4 flex gap-2 " +
          "border-t border-rule bg-mat px-4 py-2"
        }
      >
        <Button
          className="h-14! shrink-0"
          aria-pressed={weighing}
          aria-label="Check by weight"
          onClick={() => setWeighing(!weighing)}
        >
          <Scale size={20} aria-hidden />
        </Button>
        {isPacked ? (
          <Button className="h-14! flex-1 text-base" disabled={over} onClick={(e) => e.detail > 1 || pack(false)}>
            <Undo2 size={18} aria-hidden /> Take box {sayNumber(no)} out again
          </Button>
        ) : (
          <Button
            look="main"
            className="h-14! flex-1 text-base"
            disabled={over}
            // The second press of a double click would be of the box that stands there by then.
            onClick={(e) => e.detail > 1 || pack(true)}
          >
            Box {sayNumber(no)} is packed
          </Button>
        )}
      </div>
      {weighing && bag && <CheckWeight bag={bag} packing={packing} />}
    </div>
  );
}

interface RowProps {
  item: ContentsItem;
  tick: string;
  packing: Packing;
  variant: BilledVariant;
  over: boolean;
}

/** One thing in the bag: a tap says that it is in; beside it what went wrong. */
function BagRow({ item, tick, packing, variant, over }: RowProps) {
  const unit = useSettings((s) => s.unit);
  const person = useSettings((s) => s.person);
  const { done, toggle } = useTicks();
  const tap = useQueue((q) => q.tap);
  const [open, setOpen] = useState(false);
  const [swapping, setSwapping] = useState(false);
  const { component, amount, cuts, packs } = item;
  const linear = component.baseUnit === "mm";
  const cutMm = linear ? (cuts[0]?.mm ?? null) : null;
  const wrong = (kind: "broken" | "lost") => {
    setOpen(false);
    tap(packing.box, person, {
      does: "tell",
      told: { kind, variant: variant.id!, component: component.id, cutMm, quantity: 1 },
    });
  };
  const loose = packs.length === 0 && !linear;
  const countable = component.baseUnit !== "g" || component.perGram != null;
  const count = loose && countable ? sayNumber(item.counted + item.spare, 0) : sayHowMuch(item, unit, false);
  const grams = loose && countable && component.baseUnit === "g" ? `${sayNumber(amount, 1)} g` : null;
  return (
    <li className="border-t border-rule">
      <div className="flex items-stretch">
        <button
          type="button"
          role="checkbox"
          aria-checked={tick in done}
          onClick={() => toggle(tick)}
          className="flex min-h-13 min-w-0 flex-1 items-center gap-3 py-1.5 text-left hover:bg-hush"
        >
          <Tick on={tick in done} />
          <Chip of={component} size={34} />
          <span className={`min-w-0 flex-1 [overflow-wrap:anywhere] ${tick in done ? "text-muted" : ""}`}>
            {component.name}
          </span>
          <span className="shrink-0 text-right">
            <strong className={`font-semibold ${loose ? "text-xl" : "text-base"}`}>{count}</strong>
            {grams && <span className="block text-xs text-muted">{grams}</span>}
          </span>
        </button>
        {!over && (
          <button
            type="button"
            aria-label={`Something is wrong with ${component.name}`}
            aria-expanded={open}
            onClick={() => setOpen(!open)}
            className="ml-1 grid w-11 shrink-0 place-items-center text-muted hover:bg-hush hover:text-ink"
          >
            <Ellipsis size={20} aria-hidden />
          </button>
        )}
      </div>
      {open && (
        <div className="flex flex-wrap gap-2 pb-2 pl-10">
          <Button className="h-11!" onClick={() => wrong("broken")}>
            Broke one
          </Button>
          <Button className="h-11!" onClick={() => wrong("lost")}>
            Lost one
          </Button>
          <Button className="h-11!" onClick={() => setSwapping(true)}>
            Put another in its place
          </Button>
          {packing.told
            .filter((t) => t.inPlaceOf === component.id)
            .map((t) => (
              <Button
                key={t.entry}
                look="quiet"
                className="h-auto! min-h-11 w-full justify-start! text-left whitespace-normal!"
                onClick={() => {
                  setOpen(false);
                  tap(packing.box, person, { does: "undo", entry: t.entry });
                }}
              >
                <Undo2 size={16} className="shrink-0" aria-hidden /> Take back: {sayNumber(t.quantity, 2)} × {t.note}
              </Button>
            ))}
        </div>
      )}
      {swapping && (
        <SwapDialog
          item={item}
          onClose={() => {
            setSwapping(false);
            setOpen(false);
          }}
          onSwap={(instead, quantity) =>
            tap(packing.box, person, {
              does: "tell",
              told: { kind: "swapped", variant: variant.id!, component: component.id, cutMm, quantity, with: instead },
            })
          }
        />
      )}
    </li>
  );
}

/** How many more of this colourway can be packed, and what the rest waits for. */
function HeldUp({ packing, variant }: { packing: Packing; variant: BilledVariant }) {
  const say = useSayQuantity();
  const progress = useMemo(() => progressOf(packing), [packing]).find((p) => p.variant === variant.id);
  if (!progress?.heldUpBy) return null;
  const { component, lacks, ordered } = progress.heldUpBy;
  const c = packing.of.components.find((x) => x.id === component)!;
  const order = ordered[0];
  return (
    <p role="status" className="border-t border-rule py-2">
      <span className="text-short">
        <Triangle /> {progress.can === 0 ? "No more" : `Only ${progress.can} more`} can be packed:
      </span>{" "}
      {say(lacks, c.baseUnit)} of {c.name} {lacks === 1 ? "is" : "are"} missing.{" "}
      {order && `Order ${order.number} brings ${order.due ? `them ${sayDay(order.due)}` : "them, no day is known"}.`}
    </p>
  );
}
