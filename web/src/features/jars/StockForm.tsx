import { type ComponentDetail, type Reason, REASONS } from "@jar-count/core/contract";
import { sayRun } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { componentsQuery, roomsQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSettings } from "../../settings/index.ts";
import { Choose } from "../../ui/Choose.tsx";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Fault, IconButton, Labelled } from "../../ui/controls.tsx";
import { LengthField, NumberField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { type JarEntry, pointerOf, useStock } from "./useStock.ts";

const SAYS: Partial<Record<Reason, string>> = {
  received: "Write down what came",
  counted: "Set to what was counted",
  used: "Take it out",
  moved: "Move it",
  "held back": "Hold it back",
  cut: "Cut it",
  made: "Write down what was made",
};

/** What happened to the jar: it came, went, was counted, cut, moved or made. Every change goes through the ledger. */
export function StockForm({ detail }: { detail: ComponentDetail }) {
  const { component, balances } = detail;
  const { id, baseUnit } = component;
  const linear = baseUnit === "mm";
  const rooms = useQuery(roomsQuery);
  const unit = useSettings((s) => s.unit);
  const { move, busy, refusal, clear } = useStock(id);
  const fault = refusal && { detail: sentenceOf(refusal), pointer: pointerOf(refusal) };
  const [kind, setKind] = useState<Reason>("received");
  const [quantity, setQuantity] = useState<number | null>(null);
  const [cutMm, setCutMm] = useState<number | null>(null);
  const [stretchMm, setStretch] = useState<number | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [place, setPlace] = useState<string | null>(null);
  const [to, setTo] = useState<string | null>(null);
  const [lot, setLot] = useState("");
  const [cost, setCost] = useState("");
  const [note, setNote] = useState("");
  const [minutes, setMinutes] = useState<number | null>(null);
  const [from, setFrom] = useState<{ component: string; quantity: number | null }[]>([]);
  const { effect } = REASONS[kind];
  const places = rooms.data?.places ?? [];
  const free = places.filter((p) => !p.held);
  const incoming = effect === "in" || effect === "made";
  // What goes out, is counted or cut goes out of something that is there.
  const spots = balances.map((b, i) => ({
    ...b,
    key: String(i),
    label: [
      b.placeCode,
      b.lot && `lot ${b.lot}`,
      b.stretchMm !== null ? `${sayRun(b.stretchMm, unit)} × ${sayNumber(b.quantity)}` : sayNumber(b.quantity),
    ]
      .filter(Boolean)
      .join(", "),
  }));
  const spot = spots.find((s) => s.key === chosen) ?? spots.find((s) => s.quantity > 0 && !s.held) ?? spots[0];
  const at =
    incoming || !spot
      ? { place: place ?? spot?.place ?? free[0]?.id ?? null, lot, ...(linear ? { stretchMm } : {}) }
      : { place: spot.place, lot: spot.lot, ...(linear ? { stretchMm: spot.stretchMm } : {}) };
  const targets = places.filter((p) => (kind === "held back" ? p.held : p.id !== at.place));

  // What is not filled in yet is sent as it is: the contract says what is missing, in its place.
  const entry = (more: object = {}): JarEntry => {
    if (kind === "cut") return { kind, ...at, cutMm, count: quantity, note } as JarEntry;
    const base = { kind, ...at, quantity, note, ...more };
    if (effect === "across") return { ...base, to: to ?? targets[0]?.id } as JarEntry;
    if (effect === "made") return { ...base, minutes, from } as JarEntry;
    return (
      effect === "in" && cost.trim() !== "" ? { ...base, cost: cost.trim().replace(",", ".") } : base
    ) as JarEntry;
  };
  const submit = async (more?: object) => {
    if (!(await move(entry(more)))) return;
    setQuantity(null);
    setNote("");
    setCost("");
    setFrom([]);
  };
  const ready =
    (kind === "counted" ? quantity !== null : (quantity ?? 0) > 0) &&
    (kind !== "cut" || cutMm !== null) &&
    (!incoming || !linear || stretchMm !== null) &&
    (effect !== "made" || from.length > 0);
  const what = linear
    ? kind === "cut"
      ? "How many cuts"
      : "How many pieces"
    : baseUnit === "g"
      ? "Grams"
      : kind === "counted"
        ? "How many are in it"
        : "How many";
  const reasons = (Object.keys(REASONS) as Reason[]).filter((r) => r !== "reversed" && (r !== "cut" || linear));
  return (
    <form
      className="border-y border-rule bg-hush px-6 py-3"
      aria-label="Stock"
      onChange={clear}
      onSubmit={(e) => {
        e.preventDefault();
        void submit();
      }}
    >
      <div className="flex flex-wrap items-start gap-x-3 gap-y-2">
        <Labelled label="What happened">
          <select className="field" value={kind} onChange={(e) => setKind(e.target.value as Reason)}>
            {reasons.map((r) => (
              <option key={r} value={r}>
                {REASONS[r].label}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label={what} fault={fault && /quantity|count$/.test(fault.pointer) ? fault.detail : null}>
          <NumberField
            className="field w-28"
            aria-label={what}
            optional
            whole={baseUnit !== "g"}
            value={quantity}
            onChange={setQuantity}
          />
        </Labelled>
        {kind === "cut" && (
          <Labelled label="Each cut is" fault={fault?.pointer === "/cutMm" ? fault.detail : null}>
            <LengthField className="field w-28" aria-label="Each cut is" optional mm={cutMm} onChange={setCutMm} />
          </Labelled>
        )}
        {linear && incoming && (
          <Labelled label="Each piece is">
            <LengthField
              className="field w-28"
              aria-label="Each piece is"
              optional
              placeholder={unit === "in" ? "30ft" : "9m"}
              mm={stretchMm}
              onChange={setStretch}
            />
          </Labelled>
        )}
        {effect === "in" && (
          <Labelled label="Cost in all">
            <input
              className="field w-24"
              inputMode="decimal"
              placeholder="not known"
              value={cost}
              onChange={(e) => setCost(e.target.value)}
            />
          </Labelled>
        )}
        {incoming || !spot ? (
          <>
            <Labelled label="Where">
              <select className="field max-w-40" value={at.place ?? ""} onChange={(e) => setPlace(e.target.value)}>
                {free.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.code}, {p.name}
                  </option>
                ))}
              </select>
            </Labelled>
            <Labelled label="Lot">
              <input
                className="field w-24"
                placeholder="none"
                maxLength={40}
                value={lot}
                onChange={(e) => setLot(e.target.value)}
              />
            </Labelled>
          </>
        ) : (
          <Labelled label={linear ? "Of which piece" : "Of which jar"}>
            <select className="field max-w-60" value={spot.key} onChange={(e) => setChosen(e.target.value)}>
              {spots.map((s) => (
                <option key={s.key} value={s.key}>
                  {s.label}
                </option>
              ))}
            </select>
          </Labelled>
        )}
        {effect === "across" && (
          <Labelled label="To" hint={targets.length === 0 ? "no such place yet: add one in the workshop" : undefined}>
            <select
              className="field max-w-40"
              value={to ?? targets[0]?.id ?? ""}
              onChange={(e) => setTo(e.target.value)}
            >
              {targets.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.code}, {p.name}
                </option>
              ))}
            </select>
          </Labelled>
        )}
        <Labelled label="Note">
          <input
            className="field w-44"
            placeholder="may stay empty"
            maxLength={500}
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
        </Labelled>
        <Button type="submit" look="main" className="mt-5 h-8!" disabled={busy || !ready}>
          {SAYS[kind] ?? (effect === "in" ? "Write down what came" : "Take it out")}
        </Button>
      </div>
      {effect === "made" && <Recipe from={from} minutes={minutes} onFrom={setFrom} onMinutes={setMinutes} not={id} />}
      {fault && !/quantity|count$|cutMm/.test(fault.pointer) && (
        <p className="pt-2">
          <Fault>{fault.detail}</Fault>
        </p>
      )}
      {refusal?.holds !== undefined && effect === "out" && quantity !== null && (
        <p className="pt-2">
          If there were more in the jar than the book says:{" "}
          <button type="button" className="link font-medium" onClick={() => void submit({ countFirst: true })}>
            count it up to {sayNumber(quantity)} and take it out
          </button>
        </p>
      )}
    </form>
  );
}

/** What something was made of: other components, and minutes. */
function Recipe({
  from,
  minutes,
  onFrom,
  onMinutes,
  not,
}: {
  from: { component: string; quantity: number | null }[];
  minutes: number | null;
  onFrom: (from: { component: string; quantity: number | null }[]) => void;
  onMinutes: (n: number | null) => void;
  not: string;
}) {
  const components = useQuery(componentsQuery);
  const [choosing, setChoosing] = useState(false);
  const all = components.data ?? [];
  return (
    <div className="flex flex-wrap items-end gap-3 pt-3">
      {from.map((f, i) => {
        const c = all.find((x) => x.id === f.component);
        const set = (quantity: number | null) => onFrom(from.with(i, { ...f, quantity }));
        return (
          <Labelled key={f.component} label={`${c?.name ?? ""}, used in all`}>
            <span className="flex items-center">
              {c?.baseUnit === "mm" ? (
                <LengthField className="field w-24" optional mm={f.quantity} onChange={set} />
              ) : (
                <NumberField
                  className="field w-24"
                  optional
                  whole={c?.baseUnit === "piece"}
                  value={f.quantity}
                  onChange={set}
                />
              )}
              <IconButton label={`Leave ${c?.name ?? ""} out`} onClick={() => onFrom(from.filter((_, j) => j !== i))}>
                <X size={15} />
              </IconButton>
            </span>
          </Labelled>
        );
      })}
      <Choose
        label="Find what it was made of"
        open={choosing}
        onOpen={setChoosing}
        onChoose={(component) => onFrom([...from, { component, quantity: null }])}
        choices={all
          .filter((c) => c.id !== not && !from.some((f) => f.component === c.id))
          .map((c) => ({ id: c.id, label: c.name, words: c.code, mark: <Chip of={c} /> }))}
      >
        <Button className="h-8!">
          <Plus size={15} aria-hidden /> Made of
        </Button>
      </Choose>
      <Labelled label="Minutes it took">
        <NumberField className="field w-24" optional value={minutes} onChange={onMinutes} />
      </Labelled>
    </div>
  );
}
