import {
  type Component,
  type WhatIf,
  type WhatIfChange,
  WORK_STEPS,
  type WorkStep,
  workshopInputOf,
} from "@jar-count/core/contract";
import { boughtBy, changedBox, isOfBox, secondsFor } from "@jar-count/core/price";
import { inputOf } from "@jar-count/core/component";
import { coinPlaces } from "@jar-count/core/cost";
import { Plus, X } from "lucide-react";
import { useEffect, useMemo, useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { call } from "../../../api/client.ts";
import { queryClient, stockChanged, workshopQuery } from "../../../api/queries.ts";
import { refusalOf } from "../../../api/refusal.ts";
import { Button, Empty, Fault, IconButton } from "../../../ui/controls.tsx";
import { type Choice, Choose } from "../../../ui/Choose.tsx";
import { DataTable } from "../../../ui/DataTable.tsx";
import { NumberField, TextField } from "../../../ui/fields.tsx";
import { sayNumber, Triangle, useSayQuantity } from "../../../ui/marks.tsx";
import { useSayAbout, useSayMoney } from "../../../ui/money.ts";
import { MoneyField } from "../../../ui/MoneyField.tsx";
import type { TriedCost, WhatIfWorker } from "../../../workers/whatIf.ts";
import { useWorker } from "../../../workers/useWorker.ts";
import { useBox, useBoxStore } from "../boxStore.ts";
import { useSaveMoney } from "./useSaveMoney.ts";
import { sayPart, WORK_WORDS } from "../../../ui/costWords.ts";

const startWorker = () => new Worker(new URL("../../../workers/whatIf.ts", import.meta.url), { type: "module" });

const KINDS: { what: WhatIfChange["what"]; words: string }[] = [
  { what: "price", words: "a price" },
  { what: "boxes", words: "how many boxes" },
  { what: "component", words: "another component" },
  { what: "pack", words: "another pack" },
  { what: "rate", words: "how long work takes" },
  { what: "wage", words: "the wage" },
  { what: "spare", words: "a rule of spares" },
];

/** What would be if something were otherwise: beside the saved box, several kept under their names. */
export function WhatIfView() {
  const { edit } = useBoxStore();
  const whatIfs = useBox((w) => w.box.whatIfs);
  const results = useTried(whatIfs);
  const add = () =>
    edit((box) => ({
      ...box,
      whatIfs: [...box.whatIfs, { id: crypto.randomUUID(), name: `What if ${box.whatIfs.length + 1}`, changes: [] }],
    }));
  return (
    <section className="px-6" aria-label="What if">
      {whatIfs.length === 0 ? (
        <Empty
          title="Nothing is tried here yet"
          action={
            <Button look="main" onClick={add}>
              <Plus size={16} aria-hidden /> Try something
            </Button>
          }
        >
          A dearer price, fewer boxes, another clasp, a larger pack: whatever is tried stands beside the box as it is,
          and changes nothing until it is applied.
        </Empty>
      ) : (
        <>
          <Compared whatIfs={whatIfs} results={results} />
          {whatIfs.map((w) => (
            <Edited key={w.id} of={w} result={results.get(w.id) ?? null} />
          ))}
          <Button className="mt-4" onClick={add}>
            <Plus size={16} aria-hidden /> Try something else
          </Button>
        </>
      )}
    </section>
  );
}

/** What each what-if comes to, worked out beside the page: the last answer stands until the next is there. */
function useTried(whatIfs: readonly WhatIf[]) {
  const worker = useWorker<WhatIfWorker>(startWorker);
  const { detail, terms, components } = useBox(
    useShallow(({ detail, terms, components }) => ({ detail, terms, components })),
  );
  const [results, setResults] = useState<ReadonlyMap<string, TriedCost>>(new Map());
  const turn = useRef(0);
  /** What the worker holds, and what of it was answered: only what changed is asked for. */
  const held = useRef<{ of: unknown[]; answered: Map<string, { changes: unknown; cost: TriedCost }> }>(null);
  // Components come into it where a try names one.
  const named = whatIfs.flatMap((w) => w.changes.flatMap((c) => (c.what === "component" ? [c.with] : []))).join(" ");
  useEffect(() => {
    if (!terms) return;
    const mine = ++turn.current;
    const remote = worker.ask();
    const of = [worker, detail, terms, components, named];
    if (!held.current?.of.every((x, i) => x === of[i])) {
      const wanted = new Set(named.split(" "));
      void remote.hold(
        { detail, terms },
        components.filter((c) => wanted.has(c.id)),
      );
      held.current = { of, answered: new Map() };
    }
    const { answered } = held.current!;
    void (async () => {
      const found = new Map<string, TriedCost>();
      for (const { id, changes } of [{ id: "saved", changes: NOTHING }, ...whatIfs]) {
        const known = answered.get(id);
        const cost = known?.changes === changes ? known.cost : await remote.reckon(id, changes);
        if (mine !== turn.current) return;
        answered.set(id, { changes, cost });
        found.set(id, cost);
      }
      setResults(found);
    })();
  }, [worker, detail, terms, components, named, whatIfs]);
  return results;
}
const NOTHING: readonly WhatIfChange[] = [];

const mean = (cost: TriedCost, of: (v: TriedCost["variants"][number]) => number) => {
  const boxes = cost.variants.reduce((n, v) => n + v.boxes, 0);
  return boxes === 0 ? 0 : cost.variants.reduce((n, v) => n + of(v) * v.boxes, 0) / boxes;
};

interface Line {
  id: string;
  name: string;
  /** Null until it is worked out. */
  cost: TriedCost | null;
}

/** The saved box and every what-if side by side; a line has its place before its figures are there. */
function Compared({ whatIfs, results }: { whatIfs: readonly WhatIf[]; results: ReadonlyMap<string, TriedCost> }) {
  const money = useSayMoney();
  const about = useSayAbout();
  const base = results.get("saved") ?? null;
  const lines = [{ id: "saved", name: "As it is" }, ...whatIfs].map(({ id, name }): Line => ({
    id,
    name,
    cost: results.get(id) ?? null,
  }));
  const left = (c: TriedCost) => c.variants.reduce((n, v) => n + Number(v.sold?.margin ?? 0) * v.boxes, 0);
  const figure = (say: (cost: TriedCost) => string) => (line: Line) => (line.cost ? say(line.cost) : "…");
  /** A figure over how it differs from the box as it is; the second line is there too where nothing differs. */
  const compared =
    (say: (cost: TriedCost) => string, of: (c: TriedCost) => number, more: "better" | "worse") => (line: Line) => {
      if (line.id === "saved") return figure(say)(line);
      const by = line.cost && base ? of(line.cost) - of(base) : 0;
      const better = by > 0 === (more === "better");
      return (
        <>
          {figure(say)(line)}
          <span className={`ml-1.5 block text-xs ${better ? "text-action" : "text-short"}`}>
            {Math.abs(by) < 0.005 ? "\u00a0" : `${by > 0 ? "+" : ""}${about(by)} ${better ? "better" : "worse"}`}
          </span>
        </>
      );
    };
  const perBox = (c: TriedCost) => Number(c.perBox ?? 0);
  return (
    <DataTable
      className="mb-6 [&_td]:py-1.5 [&_td]:align-baseline [&_th]:align-baseline"
      scrolls="What-ifs compared"
      rows={lines}
      rowKey={(l) => l.id}
      testId={(l) => `tried-${l.name}`}
      columns={[
        {
          head: "What if",
          names: true,
          wide: true,
          look: "[overflow-wrap:anywhere]",
          cell: (l) => (l.id === "saved" ? <strong>{l.name}</strong> : l.name),
        },
        { head: "boxes", number: true, cell: figure((c) => sayNumber(c.boxes)) },
        {
          head: "a box costs",
          number: true,
          cell: compared((c) => (c.perBox === null ? "" : money(c.perBox)), perBox, "worse"),
        },
        {
          head: "price",
          number: true,
          cell: figure((c) => {
            const sold = c.variants.find((v) => v.sold)?.sold;
            return sold ? money(sold.price) : "";
          }),
        },
        {
          head: "left a box",
          number: true,
          look: "font-semibold",
          cell: figure((c) => about(mean(c, (v) => Number(v.sold?.margin ?? 0)))),
        },
        { head: "margin", number: true, cell: figure((c) => sayPart(mean(c, (v) => v.sold?.part ?? 0))) },
        {
          head: "the run earns",
          number: true,
          look: "font-semibold",
          cell: compared((c) => about(left(c)), left, "better"),
        },
        { head: "work", number: true, look: "text-muted", cell: figure((c) => `${sayNumber(c.seconds / 3600)} h`) },
      ]}
    />
  );
}

/** One what-if: its name, what it changes, and what is done with it. */
function Edited({ of, result }: { of: WhatIf; result: TriedCost | null }) {
  const { edit } = useBoxStore();
  const { apply, busy, fault } = useApply();
  const put = (change: Partial<WhatIf>, group?: string) =>
    edit(
      (box) => ({ ...box, whatIfs: box.whatIfs.map((w) => (w.id === of.id ? { ...w, ...change } : w)) }),
      group && `${group} ${of.id}`,
    );
  const drop = () => edit((box) => ({ ...box, whatIfs: box.whatIfs.filter((w) => w.id !== of.id) }));
  const change = (at: number, to: WhatIfChange) => put({ changes: of.changes.with(at, to) }, `change ${at}`);
  return (
    <section aria-label={of.name} className="border-t border-rule pt-3">
      <div className="mb-2 flex flex-wrap items-start gap-3">
        <TextField
          aria-label="Name of the what-if"
          className="field w-64 font-semibold"
          value={of.name}
          check={(text) => (text.trim() === "" ? "Give it a name." : null)}
          onChange={(name) => put({ name }, "name")}
        />
        <Button look="main" className="h-8!" disabled={busy || of.changes.length === 0} onClick={() => void apply(of)}>
          Apply to the box
        </Button>
        <Button className="h-8!" onClick={drop}>
          Drop it
        </Button>
        {fault && <Fault>{fault}</Fault>}
      </div>
      <ul className="flex flex-col gap-1">
        {of.changes.map((c, i) => (
          <li key={i} className="flex flex-wrap items-center gap-2">
            <IconButton
              label={`Take out: ${KINDS.find((k) => k.what === c.what)!.words}`}
              onClick={() => put({ changes: of.changes.toSpliced(i, 1) })}
            >
              <X size={15} />
            </IconButton>
            <ChangeFields change={c} onChange={(to) => change(i, to)} />
          </li>
        ))}
      </ul>
      <AddChange onAdd={(c) => put({ changes: [...of.changes, c] })} />
      {/* Its line is there before it: what stands below stays where it is. */}
      <p className="min-h-6 pt-1 text-sm text-short">
        {result && result.problems.length > 0 && (
          <>
            <Triangle /> {result.problems[0]}
          </>
        )}
      </p>
    </section>
  );
}

/** Begins another change, as things are now. */
function AddChange({ onAdd }: { onAdd: (change: WhatIfChange) => void }) {
  const { box, terms, detail, steps } = useBox((w) => w);
  const money = terms!.money;
  const first = detail.components[0];
  const packed = detail.components.find((c) => c.offers.filter((o) => o.id).length > 1);
  const make = (what: WhatIfChange["what"]): WhatIfChange | null => {
    switch (what) {
      case "price": {
        const price = box.prices[0];
        const channel = price?.channel ?? money.channels[0]?.id;
        return channel ? { what, channel, single: price?.single ?? "0" } : null;
      }
      case "boxes":
        return { what, boxes: steps!.boxes };
      case "component":
        return first ? { what, component: first.id, with: first.id } : null;
      case "pack":
        return packed ? { what, component: packed.id, offer: packed.offers.find((o) => o.id)!.id! } : null;
      case "rate":
        return { what, step: "count", seconds: secondsFor(money.rates, "count") };
      case "wage":
        return { what, wage: money.wage };
      case "spare":
        return detail.spares[0] ? { what, rule: detail.spares[0].id, add: detail.spares[0].add } : null;
    }
  };
  return (
    <label className="mt-1 inline-flex items-center gap-2 text-sm text-muted">
      Change
      <select
        className="field"
        value=""
        onChange={(e) => {
          const change = make(e.target.value as WhatIfChange["what"]);
          if (change) onAdd(change);
        }}
      >
        <option value="" disabled>
          something …
        </option>
        {KINDS.filter((k) => make(k.what)).map((k) => (
          <option key={k.what} value={k.what}>
            {k.words}
          </option>
        ))}
      </select>
    </label>
  );
}

/** A number that is typed or dragged; the bar goes from nothing to twice what it is now. */
function Dragged(props: { label: string; value: number; now: number; step: number; onChange: (n: number) => void }) {
  const { label, value, now, step, onChange } = props;
  const most = Math.max(2 * now, value, 10 * step);
  return (
    <input
      type="range"
      aria-label={`${label}, dragged`}
      className="h-6 w-40 accent-[var(--action-fill)]"
      min={0}
      max={most}
      step={step}
      value={value}
      onChange={(e) => onChange(Number(e.target.value))}
    />
  );
}

interface FieldsProps {
  change: WhatIfChange;
  onChange: (to: WhatIfChange) => void;
}

function ChangeFields({ change, onChange }: FieldsProps) {
  const { box, terms, detail, componentOf, steps } = useBox((w) => w);
  const money = terms!.money;
  const places = coinPlaces(terms!.currency);
  const say = useSayMoney();
  const quantity = useSayQuantity();
  const was = (text: string) => <span className="text-sm text-muted">now {text}</span>;
  switch (change.what) {
    case "price": {
      const now = box.prices.find((p) => p.channel === change.channel)?.single ?? null;
      return (
        <>
          <span>A price at</span>
          <select
            aria-label="Channel"
            className="field max-w-48"
            value={change.channel}
            onChange={(e) => onChange({ ...change, channel: e.target.value })}
          >
            {money.channels.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </select>
          <span>of</span>
          <MoneyField
            aria-label="Tried price"
            className="field w-24 text-right"
            value={change.single}
            onChange={(single) => onChange({ ...change, single: single! })}
          />
          <Dragged
            label="Tried price"
            value={Number(change.single)}
            now={Number(now ?? 20)}
            step={0.5}
            onChange={(n) => onChange({ ...change, single: n.toFixed(places) })}
          />
          {now !== null && was(say(now))}
        </>
      );
    }
    case "boxes":
      return (
        <>
          <NumberField
            aria-label="Tried boxes"
            className="field w-24 text-right"
            whole
            max={1_000_000}
            value={change.boxes}
            onChange={(boxes) => onChange({ ...change, boxes: boxes! })}
          />
          <Dragged
            label="Tried boxes"
            value={change.boxes}
            now={steps!.boxes}
            step={1}
            onChange={(boxes) => onChange({ ...change, boxes })}
          />
          <span>boxes in all, shared out as now</span>
          {was(sayNumber(steps!.boxes))}
        </>
      );
    case "component":
      return (
        <>
          <span>In place of</span>
          <ComponentChoice
            label="In place of"
            value={change.component}
            among={detail.components}
            onChoose={(component) => onChange({ ...change, component })}
          />
          <span>comes</span>
          <ComponentChoice
            label="What comes instead"
            value={change.with}
            among={insteadOf(componentOf.get(change.component), componentOf)}
            onChoose={(other) => onChange({ ...change, with: other })}
          />
        </>
      );
    case "pack": {
      const component = componentOf.get(change.component);
      return (
        <>
          <ComponentChoice
            label="Bought in another pack"
            value={change.component}
            among={detail.components.filter((c) => c.offers.filter((o) => o.id).length > 1)}
            onChoose={(id) => {
              const offer = componentOf.get(id)?.offers.find((o) => o.id)?.id;
              if (offer) onChange({ what: "pack", component: id, offer });
            }}
          />
          <span>bought by the</span>
          <select
            aria-label="Pack"
            className="field max-w-64"
            value={change.offer}
            onChange={(e) => onChange({ ...change, offer: e.target.value })}
          >
            {component?.offers
              .filter((o) => o.id)
              .map((o) => (
                <option key={o.id} value={o.id}>
                  {o.pack}, {quantity(o.amount, o.unit)}, {say(o.price)}
                </option>
              ))}
          </select>
        </>
      );
    }
    case "rate": {
      const now = secondsFor(money.rates, change.step);
      return (
        <>
          <select
            aria-label="Work"
            className="field"
            value={change.step}
            onChange={(e) => {
              const step = e.target.value as WorkStep;
              onChange({ ...change, step, seconds: secondsFor(money.rates, step) });
            }}
          >
            {WORK_STEPS.map((step) => (
              <option key={step} value={step}>
                {WORK_WORDS[step].name}
              </option>
            ))}
          </select>
          <span>takes</span>
          <NumberField
            aria-label="Tried seconds"
            className="field w-20 text-right"
            value={change.seconds}
            onChange={(seconds) => onChange({ ...change, seconds: seconds! })}
          />
          <Dragged
            label="Tried seconds"
            value={change.seconds}
            now={now}
            step={now > 100 ? 10 : 0.1}
            onChange={(seconds) => onChange({ ...change, seconds })}
          />
          <span>seconds each</span>
          {was(`${sayNumber(now)} s`)}
        </>
      );
    }
    case "wage":
      return (
        <>
          <span>An hour of work costs</span>
          <MoneyField
            aria-label="Tried wage"
            className="field w-24 text-right"
            value={change.wage}
            onChange={(wage) => onChange({ ...change, wage: wage! })}
          />
          <Dragged
            label="Tried wage"
            value={Number(change.wage)}
            now={Number(money.wage)}
            step={0.1}
            onChange={(n) => onChange({ ...change, wage: n.toFixed(places) })}
          />
          {was(say(money.wage))}
        </>
      );
    case "spare": {
      const rule = detail.spares.find((r) => r.id === change.rule);
      return (
        <>
          <span>To spare, by the rule</span>
          <select
            aria-label="Rule"
            className="field max-w-64"
            value={change.rule}
            onChange={(e) => {
              const next = detail.spares.find((r) => r.id === e.target.value)!;
              onChange({ ...change, rule: next.id, add: next.add });
            }}
          >
            {detail.spares.map((r) => (
              <option key={r.id} value={r.id}>
                {r.name}
              </option>
            ))}
          </select>
          <NumberField
            aria-label="Tried spares"
            className="field w-16 text-right"
            whole
            max={100_000}
            value={change.add}
            onChange={(add) => onChange({ ...change, add: add! })}
          />
          <span>more</span>
          {rule && was(sayNumber(rule.add))}
        </>
      );
    }
  }
}

/** What could come in place of a component: of its kind, kept in the same unit. */
const insteadOf = (of: Component | undefined, all: ReadonlyMap<string, Component>) =>
  [...all.values()].filter((c) => of && c.kind === of.kind && c.baseUnit === of.baseUnit);

interface ComponentChoiceProps {
  label: string;
  value: string;
  among: readonly Component[];
  onChoose: (id: string) => void;
}

function ComponentChoice({ label, value, among, onChoose }: ComponentChoiceProps) {
  const name = useBox((w) => w.componentOf.get(value)?.name);
  const [open, setOpen] = useState(false);
  const choices = useMemo(
    () => (open ? among.map((c): Choice => ({ id: c.id, label: c.name, words: c.code })) : []),
    [among, open],
  );
  return (
    <Choose label={label} open={open} onOpen={setOpen} choices={choices} onChoose={onChoose}>
      <button type="button" className="field max-w-64 truncate text-left" aria-label={`${label}: ${name ?? "choose"}`}>
        {name ?? "choose"}
      </button>
    </Choose>
  );
}

/** Makes a what-if real: in the box, and where it is of the workshop, there. */
function useApply() {
  const { edit, work } = useBoxStore();
  const { save, refusal } = useSaveMoney();
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState<string | null>(null);
  const apply = async (of: WhatIf) => {
    setBusy(true);
    setFault(null);
    try {
      const others = of.changes.filter((c) => !isOfBox(c));
      const money = others.filter((c) => c.what === "wage" || c.what === "rate");
      if (money.length > 0) {
        const done = await save((now) => ({
          ...now,
          wage: money.reduce((wage, c) => (c.what === "wage" ? c.wage : wage), now.wage),
          rates: money.reduce((rates, c) => {
            if (c.what !== "rate") return rates;
            const { step, seconds } = c;
            const next = { step, seconds, spread: 0, n: 0, from: "default" as const };
            return [...rates.filter((r) => r.step !== step), next];
          }, now.rates),
        }));
        if (!done) return setFault("The workshop could not be changed, so nothing was applied. Try again.");
      }
      for (const c of others) {
        if (c.what === "spare") await changeRule(c.rule, c.add);
        if (c.what === "pack") await changePack(c.component, c.offer, work.getState().componentOf);
      }
      edit((box) => ({ ...changedBox(box, of.changes), whatIfs: box.whatIfs.filter((w) => w.id !== of.id) }));
    } catch (error) {
      setFault(refusalOf(error)?.detail ?? "The server can't be reached: nothing more was applied.");
    } finally {
      setBusy(false);
    }
  };
  return { apply, busy, fault: refusal?.detail ?? fault };
}

async function changeRule(id: string, add: number) {
  const workshop = await call("readWorkshop");
  const spares = workshop.spares.map((r) => (r.id === id ? { ...r, add } : r));
  const { version } = workshop;
  const body = { requestKey: crypto.randomUUID(), version, workshop: { ...workshopInputOf(workshop), spares } };
  queryClient.setQueryData(workshopQuery.queryKey, await call("saveWorkshop", { body }));
  await stockChanged();
}

/** Puts the chosen offer first: by it a new one is bought. */
async function changePack(id: string, offer: string, known: ReadonlyMap<string, Component>) {
  const component = known.get(id);
  if (!component) return;
  const { offers } = boughtBy(component, offer);
  const { id: _id, ...input } = inputOf(component);
  const body = { requestKey: crypto.randomUUID(), version: component.version, component: { ...input, offers } };
  await call("saveComponent", { params: { id }, body });
  await stockChanged();
}
