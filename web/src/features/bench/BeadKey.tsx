import { partCalled, wordMeant } from "@jar-count/core/builder";
import { type KeyEntry, roleId } from "@jar-count/core/contract";
import { lengthOrigins, onceABox, type Origin, originsOf } from "@jar-count/core/count";
import { measuredCut, measuredCuts, type Stretch, sumOf } from "@jar-count/core/cut";
import { type LengthUnit, sayCut } from "@jar-count/core/units";
import { ChevronDown, ChevronRight } from "lucide-react";
import { memo, useCallback, useState } from "react";
import { useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button } from "../../ui/controls.tsx";
import { sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { DRAGGED_KEY } from "../../ui/StrandPicture.tsx";
import { useRuler } from "../../ui/useRuler.ts";
import { useSayOrigin, WhereFrom } from "../../ui/WhereFrom.tsx";
import { AddBead } from "./AddBead.tsx";
import { type BenchState, useBench, useBenchStore } from "./benchStore.ts";
import { KeyDetails } from "./KeyDetails.tsx";

interface RowProps {
  entry: KeyEntry;
  at: number;
  open: boolean;
  onToggle: (id: string) => void;
  /** Puts a bead on the strand. */
  onPut: (key: string) => void;
}

/** How many of an entry each size takes: pieces, or millimetres of what is cut, as it is measured. */
const amountsOf = (entry: KeyEntry, ruler: LengthUnit) => (b: BenchState) =>
  b.columns.map(({ counting: { answer } }) =>
    entry.kind === "stringing"
      ? sumOf(measuredCuts(answer.pieces[entry.key] ?? [], ruler, entry.linkMm))
      : (answer.counts[entry.key] ?? 0) + (answer.perKit[entry.key] ?? 0),
  );

/** What an entry came to when the design was saved, whatever its letter was then; null where nothing changed since. */
const amountBefore = (entry: KeyEntry) => (b: BenchState) => {
  if (!b.before) return null;
  const then = b.before.design.key.find((e) => roleId(e) === roleId(entry))?.key;
  if (then === undefined) return null;
  const { answer } = b.before;
  return entry.kind === "stringing" ? null : (answer.counts[then] ?? 0) + (answer.perKit[then] ?? 0);
};

const passesOf = (key: string) => (b: BenchState) =>
  Math.max(0, ...b.columns.flatMap(({ counting }) => counting.answer.parts.map((p) => p.passes[key] ?? 0)));

const KeyRow = memo(function KeyRow({ entry, at, open, onToggle, onPut }: RowProps) {
  const { set: look } = useBenchStore();
  const say = useSayQuantity();
  const unit = useSettings((s) => s.unit);
  const ruler = useRuler();
  const amounts = useBench(useShallow(amountsOf(entry, ruler)));
  const column = useBench((b) => Math.max(0, b.sizes.indexOf(b.size ?? "")));
  const was = useBench(amountBefore(entry));
  const offcuts = useBench((b) => b.columns[column]!.counting.answer.offcuts[entry.key]);
  const passes = useBench(passesOf(entry.key));
  const lit = useBench((b) => b.lit?.key === entry.key);
  const unused = useBench((b) => b.unused.includes(entry.key));
  const labels = useBench(useShallow((b) => b.columns.map((c) => c.label)));
  const id = entry.id ?? entry.key;
  const linear = entry.kind === "stringing";
  const differs = amounts.some((n) => Math.abs(n - amounts[0]!) > 1e-6);
  const now = amounts[column] ?? 0;
  return (
    <li
      onPointerEnter={() => look({ pointed: { key: entry.key } })}
      onPointerLeave={() => look({ pointed: null })}
      className={`border-t border-rule py-0.5 first:border-t-0 ${lit ? "bg-hush" : ""}`}
      data-testid={`key-${entry.key}`}
    >
      <div className="flex min-h-7 items-center gap-1.5">
        <code className="w-9 shrink-0 truncate text-center font-mono font-bold" title={entry.key}>
          {entry.key}
        </code>
        {linear || entry.kind === "packaging" || entry.kind === "consumable" ? (
          <span className="grid size-7 shrink-0 place-items-center">
            <Chip of={entry} size={22} />
          </span>
        ) : (
          <button
            type="button"
            draggable
            aria-label={`Put ${entry.key} on the strand`}
            title="Click, or drag it onto the strand"
            className="grid size-7 shrink-0 cursor-grab place-items-center rounded hover:bg-hush"
            onDragStart={(e) => e.dataTransfer.setData(DRAGGED_KEY, entry.key)}
            onClick={() => onPut(entry.key)}
          >
            {entry.kind === "mix" ? (
              <span aria-hidden className="font-mono text-xs">
                %
              </span>
            ) : (
              <Chip of={entry} size={22} />
            )}
          </button>
        )}
        <button
          type="button"
          aria-expanded={open}
          aria-label={`More about ${entry.key}, ${entry.name}`}
          className="flex min-h-7 min-w-0 flex-1 items-center gap-0.5 rounded text-left hover:bg-hush"
          onClick={() => onToggle(id)}
        >
          <span className="line-clamp-2 min-w-0 flex-1 leading-[1.15rem] [overflow-wrap:anywhere]" title={entry.name}>
            {entry.name}
          </span>
          {open ? (
            <ChevronDown size={14} aria-hidden className="shrink-0 text-muted" />
          ) : (
            <ChevronRight size={14} aria-hidden className="shrink-0 text-muted" />
          )}
        </button>
        {!linear && was !== null && was !== now && (
          <del className="shrink-0 text-xs text-muted">
            <span className="sr-only">was </span>
            {sayNumber(was)}
          </del>
        )}
        <span className="shrink-0 text-right font-semibold" data-testid={`count-${entry.key}-${column}`}>
          {entry.kind === "mix" ? (
            <span className="font-normal text-muted">shared</span>
          ) : now === 0 ? (
            <span className="font-normal text-muted">{unused ? "not used" : "0"}</span>
          ) : linear ? (
            <Cuts entry={entry} column={column} />
          ) : (
            <>
              <Origins entry={entry} n={now} column={column} />
              <Once entry={entry} column={column} />
            </>
          )}
        </span>
      </div>
      {((differs && amounts.length > 1) || passes > 1 || offcuts) && (
        <p className="flex flex-wrap gap-x-3 pb-0.5 pl-[4.6rem] text-xs leading-[0.9rem] text-muted">
          {differs &&
            amounts.map((n, j) =>
              j === column ? null : (
                <span key={j} data-testid={`count-${entry.key}-${j}`}>
                  <span className="sr-only">size </span>
                  {labels[j]} {linear ? say(n, "length") : sayNumber(n)}
                </span>
              ),
            )}
          {offcuts && (
            <span>
              {sayCuts(measuredCuts(offcuts, ruler, entry.linkMm), unit, entry).join(", ")} from what those leave
            </span>
          )}
          {passes > 1 && <span title="Threads through its busiest hole">{passes} through a hole</span>}
        </p>
      )}
      {open && <KeyDetails at={at} />}
    </li>
  );
});

/** What is there once a kit, or once a box, says so beside its number. */
function Once({ entry: { key }, column }: { entry: KeyEntry; column: number }) {
  const often = useBench((b) => {
    const { answer } = b.columns[column]!.counting;
    const kit = answer.perKit[key] ?? 0;
    if (kit === 0) return "";
    const box = onceABox(b.design, key, answer.perKit);
    const what = box === kit ? "a box" : box === 0 ? "a kit" : "a kit or box";
    return (answer.counts[key] ?? 0) > 0 ? `${sayNumber(kit)} ${what}` : what;
  });
  return often && <span className="ml-1 text-xs font-normal text-muted">{often}</span>;
}

const sayCuts = (cuts: readonly Stretch[], unit: LengthUnit, { linkMm }: KeyEntry) =>
  cuts.map((c) => `${sayNumber(c.count)} × ${sayCut(c.mm, unit, linkMm)}`);

/** What is to be cut: each length with how many of it, and what those were in the state that is saved. */
function Cuts({ entry, column }: { entry: KeyEntry; column: number }) {
  const unit = useSettings((s) => s.unit);
  const pieces = useBench((b) => b.columns[column]!.counting.answer.pieces[entry.key]);
  const before = useBench((b) => {
    const then = b.before?.design.key.find((e) => roleId(e) === roleId(entry))?.key;
    return then === undefined ? null : (b.before!.answer.pieces[then] ?? []);
  });
  const ruler = useRuler();
  const cuts = measuredCuts(pieces ?? [], ruler, entry.linkMm);
  const n = sumOf(cuts);
  const now = sayCuts(cuts, unit, entry);
  const then = before && sayCuts(measuredCuts(before, ruler, entry.linkMm), unit, entry).join(", ");
  return (
    <span className="flex flex-col items-end">
      {then !== null && then !== "" && then !== now.join(", ") && (
        <del className="text-xs font-normal text-muted">
          <span className="sr-only">was </span>
          {then.length > 30 ? `${then.slice(0, 30)} …` : then}
        </del>
      )}
      <Origins entry={entry} n={n} column={column} shown={now[0] ?? ""} />
      {now.slice(1, 6).map((line) => (
        <span key={line}>{line}</span>
      ))}
      {now.length > 6 && <span className="text-xs font-normal text-muted">{now.length - 6} lengths more</span>}
    </span>
  );
}

/** The bead key: letter, bead, name and what the item takes of it, with its measures open in place. */
export function BeadKey({ onPut }: { onPut: (key: string) => void }) {
  const [open, setOpen] = useState<string | null>(null);
  const entries = useBench((b) => b.frame.key);
  const toggle = useCallback((id: string) => setOpen((now) => (now === id ? null : id)), []);
  return (
    <section aria-label="Bead key">
      <h3 className="font-serif text-[1.0625rem]">Bead key</h3>
      {entries.length === 0 && (
        <p className="py-1 text-muted">No beads yet. Add the first: its letter is what you write in the rows.</p>
      )}
      <ul>
        {entries.map((entry, i) => {
          const id = entry.id ?? entry.key;
          return <KeyRow key={id} entry={entry} at={i} open={open === id} onToggle={toggle} onPut={onPut} />;
        })}
      </ul>
      <InRowsOnly />
      <AddBead />
    </section>
  );
}

/** Letters that the rows name and the key has not: one press each. */
function InRowsOnly() {
  const { addEntry } = useBenchStore();
  // What was meant as a word of the notation is mended in the rows.
  // Nor is what is called as a part is: it is offered there to be used.
  const missing = useBench(
    useShallow((b) => b.missing.filter((k) => wordMeant(k) === null && !partCalled(b.design, k, null)).slice(0, 12)),
  );
  if (missing.length === 0) return null;
  return (
    <p className="flex flex-wrap items-center gap-1.5 pt-1">
      <Triangle className="text-short" /> In the rows, not in the key:
      {missing.map((k) => (
        <Button key={k} className="h-7!" onClick={() => addEntry({ name: `Bead ${k}`, kind: "bead" }, k)}>
          Add <code className="font-mono font-bold">{k}</code>
        </Button>
      ))}
    </p>
  );
}

/** What a number of the key is made of, each place leading to its rows. */
function Origins({
  entry,
  n,
  column,
  shown,
}: {
  entry: KeyEntry;
  n: number;
  column: number;
  /** What stands in the key, where it is not the number itself: `2 × 9 in`. */
  shown?: string;
}) {
  const { state, show } = useBenchStore();
  const [, setParams] = useSearchParams();
  const go = ({ part, place }: Origin) => {
    const size = state.getState().sizes[column];
    if (size !== undefined) {
      setParams(
        (before) => {
          before.set("size", size);
          return before;
        },
        { replace: true },
      );
    }
    if (part) show(part.id, entry.key, place);
  };
  const say = useSayQuantity();
  const linear = entry.kind === "stringing";
  const least = useBench((b) => b.columns[column]?.counting.answer.countsLeast[entry.key]);
  const sayOrigin = useSayOrigin(linear);
  const ruler = useRuler();
  const amount = (x: number) => (linear ? say(x, "length") : sayNumber(x));
  const counting = () => state.getState().columns[column]!.counting;
  const rows = () =>
    (linear
      ? lengthOrigins(counting(), entry.key, (mm) => measuredCut(mm, ruler, entry.linkMm))
      : originsOf(counting(), entry.key)
    ).map((o, i) => ({
      id: String(i),
      ...sayOrigin(o),
      total: amount(o.total),
      go: o.part ? () => go(o) : undefined,
    }));
  return (
    <WhereFrom
      label={`Where ${shown ?? amount(n)} of ${entry.key} come from`}
      title={entry.name}
      rows={rows}
      total={amount(n)}
      className="min-h-6 min-w-6 text-right"
    >
      {least !== undefined && (
        <span className="font-normal text-muted" title={`From ${sayNumber(least)} to ${sayNumber(n)}`}>
          {sayNumber(least)}–
        </span>
      )}
      {shown ?? amount(n)}
    </WhereFrom>
  );
}
