import { COST_BASES, COST_STEPS, type CostBasis, type CostStep } from "@jar-count/core/contract";
import { dearerThan, type StepLine, type VariantSteps } from "@jar-count/core/price";
import { scaleLinear } from "d3-scale";
import { ChevronDown, ChevronRight } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { DataTable } from "../../../ui/DataTable.tsx";
import { Fault, Segmented } from "../../../ui/controls.tsx";
import { Diamond, sayNumber, Triangle, useSayQuantity } from "../../../ui/marks.tsx";
import { useSayAbout, useSayMoney } from "../../../ui/money.ts";
import { useBox } from "../boxStore.ts";
import { MaterialLines } from "./MaterialLines.tsx";
import { useSaveMoney } from "./useSaveMoney.ts";
import { useVariant, useVariantNames } from "./variants.ts";
import { BASIS_WORDS, isPostageSimulated, sayPart, STEP_WORDS, stepName, WORK_WORDS } from "../../../ui/costWords.ts";

/** What one box costs, from material to what is left of its price, and why colourways differ. */
export function CostView() {
  const steps = useBox((w) => w.steps)!;
  const names = useVariantNames();
  const [at, look] = useVariant();
  const variant = steps.variants[at]!;
  return (
    <section className="px-6" aria-label="Cost">
      <div className="mb-3 flex flex-wrap items-center justify-between gap-3">
        <h2>
          {names.length > 1 ? (
            <label className="flex items-center gap-2">
              A box of
              <select
                className="field max-w-64 font-sans text-sm font-semibold"
                value={at}
                onChange={(e) => look(Number(e.target.value))}
                aria-label="Colourway"
              >
                {names.map((name, i) => (
                  <option key={i} value={i}>
                    {name}
                  </option>
                ))}
              </select>
            </label>
          ) : (
            `A box of ${names[0]!}`
          )}
        </h2>
        <Basis />
      </div>
      <Lead variant={variant} />
      <Steps variant={variant} />
      <Drivers variant={variant} />
      <ParcelLine variant={variant} />
      <ByColourway />
      <MaterialLines at={at} />
    </section>
  );
}

/** By what a unit of material is counted: for the whole workshop, so that every box says the same. */
function Basis() {
  const basis = useBox((w) => w.terms!.money.basis);
  const { save, refusal } = useSaveMoney();
  return (
    <div className="flex flex-wrap items-center gap-2 text-sm text-muted">
      Material
      <Segmented
        label="Material at"
        value={basis}
        options={COST_BASES.map((value) => ({ value, label: BASIS_WORDS[value] }))}
        onChange={(next: CostBasis) => void save((money) => ({ ...money, basis: next }))}
      />
      {refusal && <Fault>{refusal.detail}</Fault>}
    </div>
  );
}

/** The figure first: what is left, or where no price stands yet, what it costs. */
function Lead({ variant }: { variant: VariantSteps }) {
  const money = useSayMoney();
  const { perBox, sold } = variant;
  const figure = "text-3xl leading-9 font-semibold";
  if (perBox === null) return <p className="mb-4 text-muted">No boxes of it yet: say how many under Colours.</p>;
  if (!sold) {
    return (
      <p className="mb-4 flex flex-wrap items-baseline gap-x-2">
        <strong className={figure} data-testid="money-lead">
          {money(perBox)}
        </strong>
        <span className="text-muted">
          a box costs. It has no price yet:{" "}
          <Link className="link" to="?view=price">
            ask for one
          </Link>
        </span>
      </p>
    );
  }
  const loses = Number(sold.margin) < 0;
  return (
    <p className="mb-4 flex flex-wrap items-baseline gap-x-2">
      <strong className={`${figure} ${loses ? "text-short" : ""}`} data-testid="money-lead">
        {loses && <Triangle className="mr-1" />}
        {money(sold.margin)}
      </strong>
      <span className="text-muted">
        {loses ? "is lost on a box at" : "is left of"} {money(sold.price)}, a margin of {sayPart(sold.part)} of the
        price without tax
      </span>
    </p>
  );
}

interface Bar {
  key: CostStep | "tax" | "left";
  name: string;
  /** Decimal text, a box. */
  amount: string;
  from: number;
  to: number;
}

/** The steps as bars that begin where the last one ended, up to the price. */
function Steps({ variant }: { variant: VariantSteps }) {
  const money = useSayMoney();
  const [open, setOpen] = useState<CostStep | null>(null);
  const terms = useBox((w) => w.terms!);
  const { sold, perBox } = variant;
  if (perBox === null) return null;
  let sum = 0;
  const bar = (key: Bar["key"], name: string, amount: string): Bar => {
    const from = sum;
    sum += Number(amount);
    return { key, name, amount, from, to: sum };
  };
  const bars = [
    ...variant.steps.map((s) => bar(s.step, stepName(s.step, terms), s.perBox!)),
    ...(sold ? [bar("tax", "Tax", sold.tax), bar("left", Number(sold.margin) < 0 ? "Lost" : "Left", sold.margin)] : []),
  ];
  const most = Math.max(...bars.map((b) => Math.max(b.from, b.to)), Number(sold?.price ?? 0), 0.01);
  const x = scaleLinear([0, most], [0, 100]);
  const whole = `${money(variant.run)} for the run ÷ ${sayNumber(variant.boxes)} boxes`;
  return (
    <div className="mb-6" data-testid="steps">
      {bars.map((b) => (
        <div key={b.key} className="border-t border-rule first:border-t-0">
          <StepRow bar={b} x={x} open={open === b.key} amount={money(b.amount)} onOpen={setOpen} />
          {open === b.key && <StepLines variant={variant} step={b.key as CostStep} />}
        </div>
      ))}
      <div className="flex items-center justify-between border-t border-ink py-1.5 font-semibold">
        <span>{sold ? "The price" : "A box costs"}</span>
        <span data-testid="steps-total">{money(sold ? sold.price : perBox)}</span>
      </div>
      {sold && (
        <p className="text-xs text-muted">
          A box costs <span data-testid="steps-cost">{money(perBox)}</span>, tax aside: {whole}.
        </p>
      )}
    </div>
  );
}

interface StepRowProps {
  bar: Bar;
  x: (n: number) => number;
  open: boolean;
  amount: string;
  onOpen: (step: CostStep | null) => void;
}

const isStep = (key: Bar["key"]): key is CostStep => (COST_STEPS as readonly string[]).includes(key);

function StepRow({ bar, x, open, amount, onOpen }: StepRowProps) {
  const { key, name, from, to } = bar;
  const [low, high] = [Math.min(from, to), Math.max(from, to)];
  const look =
    key === "left"
      ? to < from
        ? "bg-short"
        : "bg-action-fill"
      : key === "tax"
        ? "border border-dashed border-edge"
        : "bg-ink/75";
  const inside = (
    <>
      <span className="flex w-40 shrink-0 items-center gap-1">
        {isStep(key) ? open ? <ChevronDown size={14} aria-hidden /> : <ChevronRight size={14} aria-hidden /> : null}
        <span className={isStep(key) ? "" : "pl-[18px]"}>{name}</span>
      </span>
      <span className="relative h-4 min-w-16 flex-1" aria-hidden>
        <span
          className={`absolute top-0 h-4 rounded-[2px] ${look}`}
          style={{ left: `${x(low)}%`, width: `max(1px, ${x(high) - x(low)}%)` }}
        />
      </span>
      <span className={`w-20 shrink-0 text-right ${key === "left" ? "font-semibold" : ""}`} data-testid={`step-${key}`}>
        {amount}
      </span>
    </>
  );
  const row = "flex h-9 w-full items-center gap-2 text-left";
  if (!isStep(key)) return <div className={row}>{inside}</div>;
  return (
    <button
      type="button"
      aria-expanded={open}
      className={`${row} hover:bg-hush`}
      onClick={() => onOpen(open ? null : key)}
    >
      {inside}
    </button>
  );
}

/** What a step is made of, over the run. */
function StepLines({ variant, step }: { variant: VariantSteps; step: CostStep }) {
  const money = useSayMoney();
  const say = useSayQuantity();
  const zone = useBox((w) => w.terms!.money.zone);
  const band = variant.posted.band;
  const lines = variant.lines.filter((l) => l.step === step);
  const nameOf = (l: StepLine) => {
    if (l.work && l.component) return `${l.component.name}, made in the shop`;
    if (l.work) return WORK_WORDS[l.work].name;
    if (l.component) return l.component.name;
    if (step === "postage") return band ? `${band.service}, ${band.zone}, up to ${say(band.maxG, "g")}` : "Postage";
    return STEP_WORDS[step];
  };
  const much = (l: StepLine) => {
    if (l.work === "set-up") return `${sayNumber((l.seconds ?? 0) / 60)} min of it`;
    if (l.work && !l.component) return `${sayNumber(l.many, 0)} ${WORK_WORDS[l.work].unit}, ${minutes(l.seconds ?? 0)}`;
    if (l.component) return say(l.many, l.component.baseUnit);
    return `${sayNumber(l.many, 0)} boxes`;
  };
  const total = variant.steps.find((s) => s.step === step)!;
  if (lines.length === 0) {
    return (
      <p className="pb-3 pl-[18px] text-sm text-muted">
        {step === "fees"
          ? "No price, so no fees."
          : step === "postage"
            ? zone
              ? "No service takes it, or the carrier was never reached."
              : "Say in Workshop where parcels go."
            : step === "labour" || step === "overhead"
              ? "Nothing: the wage and the rest are set in Workshop."
              : "Nothing of it in this box."}
      </p>
    );
  }
  return (
    <DataTable
      className="mb-3 ml-[18px] w-[calc(100%-18px)]!"
      rows={lines}
      rowKey={(l) => `${l.component?.id ?? ""} ${l.work ?? ""}`}
      columns={[
        { head: "What", wide: true, names: true, cell: nameOf },
        { head: "the run takes", number: true, look: "text-muted", cell: much },
        {
          head: "cost of the run",
          number: true,
          cell: (l) =>
            l.cost === null ? (
              <span className="text-low">
                <Diamond /> no price
              </span>
            ) : (
              money(l.cost)
            ),
        },
      ]}
      foot={
        <tr className="font-semibold">
          <th scope="row" colSpan={2} className="text-left font-semibold!">
            The run, {sayNumber(variant.boxes)} boxes
          </th>
          <td className="num" data-testid="step-run">
            {money(total.run)}
          </td>
        </tr>
      }
    />
  );
}

/** The three things that bring most of a box's cost. */
function Drivers({ variant }: { variant: VariantSteps }) {
  const about = useSayAbout();
  const terms = useBox((w) => w.terms!);
  const { boxes, lines } = variant;
  if (boxes === 0) return null;
  const sums = new Map<string, { name: string; cost: number }>();
  for (const line of lines) {
    const name = line.work
      ? WORK_WORDS[line.work].name.toLowerCase()
      : (line.component?.name ?? stepName(line.step, terms).toLowerCase());
    sums.set(name, { name, cost: (sums.get(name)?.cost ?? 0) + Number(line.cost ?? 0) });
  }
  const most = [...sums.values()].sort((a, b) => b.cost - a.cost).slice(0, 3);
  const all = Number(variant.run);
  const part = most.reduce((n, m) => n + m.cost, 0) / Math.max(all, 1e-9);
  if (all === 0 || most.length < 2) return null;
  return (
    <p className="mb-6" data-testid="drivers">
      {sayPart(part)} of it is {most.map((m) => `${m.name} (${about(m.cost / boxes)})`).join(", ")}.
    </p>
  );
}

const minutes = (seconds: number) =>
  seconds < 90
    ? `${sayNumber(seconds, 0)} s`
    : seconds < 5400
      ? `${sayNumber(seconds / 60, 0)} min`
      : `${sayNumber(seconds / 3600)} h`;

/** What the packed box is for the carrier, and the cheaper band that it just misses. */
function ParcelLine({ variant }: { variant: VariantSteps }) {
  const money = useSayMoney();
  const about = useSayAbout();
  const { parcel, posted } = variant;
  const { missed, band, atWorst } = posted;
  const simulated = useBox((w) => isPostageSimulated(w.terms!));
  const grams = (g: number) => `${sayNumber(g, g < 20 ? 1 : 0)} g`;
  const mm = (n: number) => `${sayNumber(n, 1)} mm`;
  const less = missed && [
    ...(missed.byG > 0 ? [`${grams(Math.max(0.1, missed.byG))} lighter`] : []),
    ...(missed.byMm > 0 ? [`${mm(Math.max(0.1, missed.byMm))} thinner`] : []),
  ];
  const saving = missed && less && `${less.join(" and ")} saves ${about(missed.saves)} a box`;
  return (
    <div className="mb-8" data-testid="parcel">
      <h2 className="mb-1">In the post</h2>
      <p>
        A packed box weighs <strong>{grams(parcel.g)}</strong>{" "}
        <span className="text-xs">± {grams(parcel.plusMinus)}</span>
        {parcel.thickMm > 0 && (
          <>
            {" "}
            and is <strong>{mm(parcel.thickMm)}</strong> thick
            {parcel.thickest && <span className="text-muted">, {parcel.thickest} being the thickest thing in it</span>}
          </>
        )}
        {band ? `: ${band.service}, ${money(band.price)}${simulated ? " by the simulated carrier" : ""}.` : "."}
        {atWorst && ` Where it is as heavy as its ± allows, ${atWorst.service} at ${money(atWorst.price)}.`}
      </p>
      {missed && less && (
        <p className="font-medium">
          <Diamond className="text-low" /> {saving}: {missed.band.service} up to {grams(missed.band.maxG)}
          {missed.band.maxThickMm ? ` and ${mm(missed.band.maxThickMm)}` : ""}.
        </p>
      )}
      {parcel.unknown.length > 0 && (
        <p className="text-sm text-muted">
          Not in its mass, since nobody knows theirs: {parcel.unknown.slice(0, 4).join("; ")}
          {parcel.unknown.length > 4 && ` and ${parcel.unknown.length - 4} more`}.
        </p>
      )}
    </div>
  );
}

/** Every variant beside the others: what it costs more than the cheapest, and what makes it so. */
function ByColourway() {
  const steps = useBox((w) => w.steps)!;
  const currency = useBox((w) => w.terms!.currency);
  const names = useVariantNames();
  const money = useSayMoney();
  const priced = steps.variants.filter((v) => v.perBox !== null);
  const cheapest = priced.reduce<VariantSteps | null>(
    (best, v) => (best && Number(best.perBox) <= Number(v.perBox) ? best : v),
    null,
  );
  const why = (v: VariantSteps) => {
    const found = cheapest && v !== cheapest ? dearerThan(v, cheapest, currency) : null;
    if (!found) return v === cheapest && priced.length > 1 ? "the cheapest" : "";
    // Where other things are cheaper, one of them may bring more than the whole difference.
    const of = found.by && Number(found.by.more) <= Number(found.more) ? "of it" : "by";
    const most = found.by ? `, ${money(found.by.more)} ${of} ${found.by.component.name}` : "";
    return `${money(found.more)} more${most}`;
  };
  const rows = steps.variants.map((v, i) => {
    const { first, second, boxes, perBox, sold, run } = v;
    return { first, second, boxes, perBox, sold, run, name: names[i]!, why: why(v) };
  });
  return (
    <>
      <h2 className="mb-2">By colourway</h2>
      <DataTable
        className="mb-8"
        rows={rows}
        rowKey={(v) => `${v.first} ${v.second}`}
        columns={[
          {
            head: "Colourway",
            names: true,
            look: "[overflow-wrap:anywhere]",
            cell: (v) => <span className="block min-w-40">{v.name}</span>,
          },
          { head: "boxes", number: true, cell: (v) => sayNumber(v.boxes) },
          {
            head: "a box",
            number: true,
            look: "font-semibold",
            cell: (v) => <span data-testid={`box-cost-${v.name}`}>{v.perBox === null ? "" : money(v.perBox)}</span>,
          },
          { head: "Beside the cheapest", wide: true, look: "text-muted [overflow-wrap:anywhere]", cell: (v) => v.why },
          { head: "left", number: true, cell: (v) => (v.sold ? money(v.sold.margin) : "") },
          { head: "the run", number: true, cell: (v) => money(v.run) },
        ]}
        foot={
          <tr className="font-semibold">
            <th scope="row" className="text-left font-semibold!">
              All
            </th>
            <td data-head="boxes" className="num">
              {sayNumber(steps.boxes)}
            </td>
            <td data-head="a box" className="num">
              {steps.perBox === null ? "" : money(steps.perBox)}
            </td>
            <td colSpan={2} />
            <td data-head="the run" className="num" data-testid="run-cost">
              {money(steps.run)}
            </td>
          </tr>
        }
      />
    </>
  );
}
