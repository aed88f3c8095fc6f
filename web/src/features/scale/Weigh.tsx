import { inSteps } from "@jar-count/core/units";
import type { Balance, Component } from "@jar-count/core/contract";
import {
  countByWeight,
  type KnownPiece,
  type Sample,
  sampleFor,
  pooledPiece,
  usualSpread,
  type WeighedCount,
  type Weighing,
} from "@jar-count/core/weigh";
import { Scale, X } from "lucide-react";
import { useState } from "react";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { useReadability, useScale } from "./useScale.ts";

/** A count by weight, ready to be written down. */
export interface Weighed {
  count: WeighedCount;
  /** In the component's base unit, with its standard uncertainty. */
  quantity: number;
  u: number;
  entered: string;
  tareG: number;
  unitMass: KnownPiece;
}

const SOURCES: Record<WeighedCount["dominant"], string> = {
  scale: "what the scale can show: a finer scale, or more pieces at once, would help",
  piece: "how few pieces were sampled: weigh more of them",
  spread: "that single pieces differ: no weighing gets nearer, only counting by hand",
};

/**
 * Counting a jar by weight: gross, tare, a sample of counted pieces, and the answer with its ± as it comes together.
 * Weights come from the scale once it is at rest, or are typed.
 */
export function Weigh({
  component,
  balance,
  children,
}: {
  component: Component;
  balance: Balance | null;
  children: (weighed: Weighed | null) => React.ReactNode;
}) {
  const d = useReadability();
  const known = balance?.unitMass ?? null;
  const [gross, setGross] = useState<number[]>([]);
  const [tare, setTare] = useState<number | null>(balance?.tareG ?? null);
  const [samples, setSamples] = useState<Sample[]>([]);
  const [pieces, setPieces] = useState<number | null>(20);
  const [typed, setTyped] = useState<number | null>(null);
  const [wanted, setWanted] = useState<number | null>(null);

  const weighing: Weighing = {
    balance: { d, repeatability: 0 },
    gross,
    tare: tare ?? 0,
    samples,
    known: samples.length > 0 ? null : known && { g: known.g, u: known.u, sd: known.sd, pieces: known.pieces },
    usualSpread: known?.sd ? known.sd / known.g : usualSpread(component.form),
  };
  // A jar whose own weight nobody said is not a jar of weight 0.
  const found =
    tare === null && gross.length > 0
      ? { fault: "Say what the empty jar weighs: 0 if the scale was zeroed with it on." }
      : countByWeight(weighing);
  const count = "fault" in found ? null : found;
  // What is kept in grams is weighed, and its count is only shown.
  const inGrams = component.baseUnit === "g";
  const net = gross.length > 0 ? gross.reduce((a, b) => a + b, 0) / gross.length - (tare ?? 0) : null;
  const sampled = samples.map((s) => `${s.pieces} of ${sayNumber(s.g, 3)} g`).join(", ");
  const by = sampled ? `, sampled ${sampled}` : count ? `, a piece ${sayNumber(count.piece.g, 4)} g` : "";
  const answer: Weighed | null =
    net === null || net < 0 || tare === null || (!count && !inGrams)
      ? null
      : {
          count: count!,
          quantity: inGrams ? inSteps(net, "g") : count!.n,
          u: inGrams ? d / Math.sqrt(6) : count!.u,
          entered: `weighed ${gross.map((g) => sayNumber(g, 3)).join(", ")} g less ${sayNumber(tare ?? 0, 3)} g${by}`,
          tareG: tare ?? 0,
          unitMass:
            samples.length > 0 && count
              ? pooledPiece(known, {
                  g: count.piece.g,
                  u: count.piece.u,
                  sd: samples.length >= 3 ? count.piece.sd : null,
                  pieces: count.piece.pieces,
                })
              : known!,
        };
  const asked = count && wanted !== null && wanted >= 0 ? sampleFor(weighing, wanted) : null;
  return (
    <div className="flex flex-col gap-6">
      <Step
        n={1}
        title="The empty jar"
        hint={
          balance?.tareG != null
            ? `Remembered: ${sayNumber(balance.tareG, 2)} g.`
            : "Weigh it empty, or write what it weighs; 0 if the scale was zeroed with it on."
        }
      >
        <Take label="Empty jar, g" onTake={setTare}>
          <NumberField className="field w-28" aria-label="Empty jar, grams" optional value={tare} onChange={setTare} />
        </Take>
      </Step>
      <Step
        n={2}
        title="Counted pieces"
        hint={
          known
            ? `Remembered of this lot: a piece weighs ${sayNumber(known.g, 4)} g, from ` +
              `${sayNumber(known.pieces)} pieces. A new sample takes its place for this count.`
            : "Count some pieces of this very jar and weigh them together without the jar."
        }
      >
        <span className="flex items-center gap-2">
          <NumberField
            className="field w-20"
            aria-label="How many pieces are sampled"
            optional
            whole
            min={1}
            value={pieces}
            onChange={setPieces}
          />{" "}
          pieces weigh
        </span>
        <Take
          label="sample, g"
          disabled={!(pieces! > 0)}
          onTake={(g) => g > 0 && setSamples((s) => [...s, { pieces: pieces!, g, fromJar: true }])}
          typed={typed}
          onTyped={setTyped}
        />
        <List
          items={samples.map((s) => `${s.pieces} pieces, ${sayNumber(s.g, 3)} g`)}
          what="sample"
          onDrop={(i) => setSamples((s) => s.filter((_, j) => j !== i))}
        />
      </Step>
      <Step
        n={3}
        title="The full jar"
        hint="Put the pieces back and weigh the whole jar. Weighing it twice or three times makes the answer surer."
      >
        <Take label="full jar, g" onTake={(g) => setGross((all) => [...all, g])} />
        <List
          items={gross.map((g) => `${sayNumber(g, 3)} g`)}
          what="weighing"
          onDrop={(i) => setGross((g) => g.filter((_, j) => j !== i))}
        />
      </Step>
      <div aria-live="polite" className="rounded-md bg-hush px-4 py-3">
        {count ? (
          <>
            <p>
              <strong className="text-3xl leading-9 font-semibold" data-testid="weighed">
                {sayNumber(count.n)} ± {sayNumber(count.plusMinus)}
              </strong>{" "}
              <span className="text-muted">
                pieces, with 95 % certainty{inGrams && net !== null && `; ${sayNumber(net, 2)} g`}
              </span>
            </p>
            {count.plusMinus > 0 && <p className="pt-1">Most of the ± is {SOURCES[count.dominant]}.</p>}
            <p className="flex flex-wrap items-center gap-2 pt-2">
              To be sure to ±{" "}
              <NumberField
                className="field w-20"
                aria-label="Wanted plus or minus, pieces"
                optional
                whole
                value={wanted}
                onChange={setWanted}
              />
              {asked && (
                <strong role="status">
                  {"pieces" in asked
                    ? asked.pieces <= samples.reduce((n, s) => n + s.pieces, 0)
                      ? "it is sure enough already"
                      : `sample ${sayNumber(asked.pieces)} pieces in all`
                    : `no sample gets there: it is ${SOURCES[asked.never].split(":")[0]}`}
                </strong>
              )}
            </p>
          </>
        ) : (
          <p>
            {"fault" in found
              ? inGrams && net !== null && net >= 0
                ? `${sayNumber(net, 2)} g. ${found.fault}`
                : found.fault
              : ""}
          </p>
        )}
      </div>
      {children(answer)}
    </div>
  );
}

function Step({ n, title, hint, children }: { n: number; title: string; hint: string; children: React.ReactNode }) {
  return (
    <section aria-label={title}>
      <h2>
        {n}. {title}
      </h2>
      <p className="pb-2 text-muted">{hint}</p>
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2">{children}</div>
    </section>
  );
}

/** Takes a weight from the scale once it is at rest; without a scale it is typed. */
function Take({
  label,
  onTake,
  disabled,
  children,
  typed,
  onTyped,
}: {
  label: string;
  onTake: (grams: number) => void;
  disabled?: boolean;
  children?: React.ReactNode;
  typed?: number | null;
  onTyped?: (n: number | null) => void;
}) {
  const { source, reading } = useScale();
  const [own, setOwn] = useState<number | null>(null);
  const [value, setValue] = onTyped ? [typed ?? null, onTyped] : [own, setOwn];
  const ready = reading?.stable && !reading.overload;
  return (
    <>
      {children ? (
        <Labelled label={label}>{children}</Labelled>
      ) : (
        <form
          className="flex items-end gap-2"
          onSubmit={(e) => {
            e.preventDefault();
            if (value === null) return;
            onTake(value);
            setValue(null);
          }}
        >
          <Labelled label={`Typed ${label}`}>
            <NumberField className="field w-24" optional value={value} onChange={setValue} />
          </Labelled>
          <Button type="submit" className="h-8!" disabled={disabled || value === null}>
            Add
          </Button>
        </form>
      )}
      {source !== "none" && (
        <Button
          className="h-8!"
          disabled={disabled || !ready}
          onClick={() => onTake(Math.round(reading!.grams * 10_000) / 10_000)}
        >
          <Scale size={15} aria-hidden />{" "}
          {ready ? `Take ${reading!.grams.toFixed(2)} g from the scale` : "Waiting for the scale to rest"}
        </Button>
      )}
    </>
  );
}

function List({ items, what, onDrop }: { items: readonly string[]; what: string; onDrop: (i: number) => void }) {
  return (
    <ul className="flex flex-wrap gap-2">
      {items.map((text, i) => (
        <li key={i} className="flex items-center rounded-md border border-rule pl-2">
          {text}{" "}
          <IconButton label={`Drop this ${what}: ${text}`} onClick={() => onDrop(i)}>
            <X size={14} />
          </IconButton>
        </li>
      ))}
    </ul>
  );
}
