import { type ComponentDetail, type Reason, REASONS } from "@jar-count/core/contract";
import { sayRun } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { useFieldArray, useForm, type UseFormReturn } from "react-hook-form";
import { componentsQuery, roomsQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSettings } from "../../settings/index.ts";
import { Choose } from "../../ui/Choose.tsx";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Fault, IconButton } from "../../ui/controls.tsx";
import { AmountField, LengthField, NumberField } from "../../ui/fields.tsx";
import { Field, useRefusalAtFields } from "../../ui/form.tsx";
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

interface Filled {
  kind: Reason;
  quantity: number | null;
  cutMm: number | null;
  stretchMm: number | null;
  /** Which balance it goes out of, and where it comes in; null is the first that fits. */
  spot: string | null;
  place: string | null;
  to: string | null;
  lot: string;
  cost: string;
  note: string;
  minutes: number | null;
  from: { component: string; quantity: number | null }[];
}
const NOTHING: Filled = {
  kind: "received",
  quantity: null,
  cutMm: null,
  stretchMm: null,
  spot: null,
  place: null,
  to: null,
  lot: "",
  cost: "",
  note: "",
  minutes: null,
  from: [],
};

/** What happened to the jar: it came, went, was counted, cut, moved or made. Every change goes through the ledger. */
export function StockForm({ detail }: { detail: ComponentDetail }) {
  const { component, balances } = detail;
  const { id, baseUnit } = component;
  const linear = baseUnit === "mm";
  const rooms = useQuery(roomsQuery);
  const unit = useSettings((s) => s.unit);
  const { move, busy, refusal, clear } = useStock(id);
  const form = useForm<Filled>({ defaultValues: NOTHING });
  const { kind, quantity, cutMm, stretchMm, spot: chosen, place, to, lot, cost, note, minutes, from } = form.watch();
  const { effect } = REASONS[kind];
  const places = rooms.data?.places ?? [];
  const free = places.filter((p) => !p.held);
  useRefusalAtFields(form, refusal, "");
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
    for (const name of ["quantity", "note", "cost", "from"] as const) form.setValue(name, NOTHING[name]);
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
  // What is refused of a field that is not shown for this reason is said below.
  const shown = ["quantity", kind === "cut" && "cutMm", linear && incoming && "stretchMm", effect === "in" && "cost"];
  const atField = shown.includes(pointerOf(refusal).slice(1));
  const reasons = (Object.keys(REASONS) as Reason[]).filter((r) => r !== "reversed" && (r !== "cut" || linear));
  return (
    <form
      className="border-y border-rule bg-hush px-6 py-3"
      aria-label="Stock"
      onChange={clear}
      noValidate
      onSubmit={form.handleSubmit(() => submit())}
    >
      <div className="flex flex-wrap items-start gap-x-3 gap-y-2">
        <Field form={form} name="kind" label="What happened">
          {(field) => (
            <select className="field" {...field}>
              {reasons.map((r) => (
                <option key={r} value={r}>
                  {REASONS[r].label}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field form={form} name="quantity" label={what}>
          {(field) => (
            <NumberField className="field w-28" aria-label={what} optional whole={baseUnit !== "g"} {...field} />
          )}
        </Field>
        {kind === "cut" && (
          <Field form={form} name="cutMm" label="Each cut is">
            {({ value, ...field }) => (
              <LengthField className="field w-28" aria-label="Each cut is" optional mm={value} {...field} />
            )}
          </Field>
        )}
        {linear && incoming && (
          <Field form={form} name="stretchMm" label="Each piece is">
            {({ value, ...field }) => (
              <LengthField
                className="field w-28"
                aria-label="Each piece is"
                optional
                placeholder={unit === "in" ? "30ft" : "9m"}
                mm={value}
                {...field}
              />
            )}
          </Field>
        )}
        {effect === "in" && (
          <Field form={form} name="cost" label="Cost in all">
            {(field) => <input className="field w-24" inputMode="decimal" placeholder="not known" {...field} />}
          </Field>
        )}
        {incoming || !spot ? (
          <>
            <Field form={form} name="place" label="Where">
              {(field) => (
                <select className="field max-w-40" {...field} value={at.place ?? ""}>
                  {free.map((p) => (
                    <option key={p.id} value={p.id}>
                      {p.code}, {p.name}
                    </option>
                  ))}
                </select>
              )}
            </Field>
            <Field form={form} name="lot" label="Lot">
              {(field) => <input className="field w-24" placeholder="none" maxLength={40} {...field} />}
            </Field>
          </>
        ) : (
          <Field form={form} name="spot" label={linear ? "Of which piece" : "Of which jar"}>
            {(field) => (
              <select className="field max-w-60" {...field} value={spot.key}>
                {spots.map((s) => (
                  <option key={s.key} value={s.key}>
                    {s.label}
                  </option>
                ))}
              </select>
            )}
          </Field>
        )}
        {effect === "across" && (
          <Field
            form={form}
            name="to"
            label="To"
            hint={targets.length === 0 ? "no such place yet: add one in the workshop" : undefined}
          >
            {(field) => (
              <select className="field max-w-40" {...field} value={to ?? targets[0]?.id ?? ""}>
                {targets.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.code}, {p.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
        )}
        <Field form={form} name="note" label="Note">
          {(field) => <input className="field w-44" placeholder="may stay empty" maxLength={500} {...field} />}
        </Field>
        <Button type="submit" look="main" className="mt-5 h-8!" disabled={busy || !ready}>
          {SAYS[kind] ?? (effect === "in" ? "Write down what came" : "Take it out")}
        </Button>
      </div>
      {effect === "made" && <Recipe form={form} not={id} />}
      {refusal && !atField && (
        <p className="pt-2">
          <Fault>{sentenceOf(refusal)}</Fault>
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
function Recipe({ form, not }: { form: UseFormReturn<Filled>; not: string }) {
  const components = useQuery(componentsQuery);
  const [choosing, setChoosing] = useState(false);
  const from = useFieldArray({ control: form.control, name: "from" });
  const all = components.data ?? [];
  return (
    <div className="flex flex-wrap items-end gap-3 pt-3">
      {from.fields.map((f, i) => {
        const c = all.find((x) => x.id === f.component);
        const name = c?.name ?? "";
        return (
          <span key={f.id} className="flex items-end">
            <Field form={form} name={`from.${i}.quantity`} label={`${name}, used in all`}>
              {({ value, ...field }) => (
                <AmountField unit={c?.baseUnit} className="field w-24" optional amount={value} {...field} />
              )}
            </Field>
            <IconButton label={`Leave ${name} out`} onClick={() => from.remove(i)}>
              <X size={15} />
            </IconButton>
          </span>
        );
      })}
      <Choose
        label="Find what it was made of"
        open={choosing}
        onOpen={setChoosing}
        onChoose={(component) => from.append({ component, quantity: null }, { shouldFocus: false })}
        choices={all
          .filter((c) => c.id !== not && !c.away && !from.fields.some((f) => f.component === c.id))
          .map((c) => ({ id: c.id, label: c.name, words: c.code, mark: <Chip of={c} /> }))}
      >
        <Button className="h-8!">
          <Plus size={15} aria-hidden /> Made of
        </Button>
      </Choose>
      <Field form={form} name="minutes" label="Minutes it took">
        {(field) => <NumberField className="field w-24" optional {...field} />}
      </Field>
    </div>
  );
}
