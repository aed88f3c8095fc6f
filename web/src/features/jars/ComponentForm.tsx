import { codeOf, convert, filledIn, FORM_KNOWN, type FormField, formsOf } from "@jar-count/core/component";
import {
  BASE_UNITS,
  CAUTIONS,
  type Component,
  ComponentInput,
  COMPONENT_KINDS,
  FINISHES,
  type Form,
  MATERIALS,
  METALS,
  TRANSPARENCIES,
} from "@jar-count/core/contract";
import { expanded } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { useFieldArray } from "react-hook-form";
import { useNavigate } from "react-router";
import { componentsQuery, roomsQuery, stockChanged } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { LengthField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { Field, MendFirst, useContractForm } from "../../ui/form.tsx";
import { RefusalNotice } from "../../ui/page.tsx";

const UNIT_WORDS: Record<Component["baseUnit"], string> = { piece: "pieces", mm: "length", g: "grams" };

interface OfferText {
  /** The offer's own id; empty for a new one. */
  offer: string;
  supplier: string;
  pack: string;
  amount: string;
  unit: string;
  price: string;
  steps: string;
  minimum: string;
  leadDays: string;
}
type Texts = Record<
  | FormField
  | "code"
  | "name"
  | "kind"
  | "form"
  | "colour"
  | "finish"
  | "transparency"
  | "material"
  | "metal"
  | "baseUnit"
  | "reorderAt"
  | "notes",
  string
>;
type FormValues = Texts & { cautions: string[]; offers: OfferText[] };

const LENGTHS: readonly FormField[] = [
  "alongMm",
  "acrossMm",
  "holeMm",
  "linkMm",
  "coilMm",
  "diameterMm",
  "lengthMm",
  "innerMm",
  "thickMm",
];
const FIELD_WORDS: Record<FormField, string> = {
  size: "Size, as the trade says it",
  alongMm: "Along the thread",
  acrossMm: "Across",
  holeMm: "Hole",
  holes: "Holes",
  linkMm: "A link",
  coilMm: "A coil",
  diameterMm: "Thickness",
  lengthMm: "Length",
  innerMm: "Inside",
  thickMm: "Makes a parcel thicker by",
  breakKg: "Breaks at, kg",
  perGram: "Pieces a gram",
  massG: "A piece weighs, g",
};
const ALL_FIELDS = Object.keys(FIELD_WORDS) as FormField[];
const show = (n: unknown) => (n == null ? "" : String(n));

const toForm = (c: Component | null): FormValues => ({
  ...(Object.fromEntries(
    [...ALL_FIELDS, "transparency", "material", "metal", "form", "reorderAt"].map((f) => [
      f,
      show(c?.[f as keyof Component]),
    ]),
  ) as Texts),
  code: c?.code ?? "",
  name: c?.name ?? "",
  kind: c?.kind ?? "bead",
  colour: c?.colour ?? "#8a8f94",
  finish: c?.finish ?? "opaque",
  baseUnit: c?.baseUnit ?? "piece",
  notes: c?.notes ?? "",
  reorderAt: show(c?.reorderAt),
  cautions: c?.cautions ?? [],
  offers: (c?.offers ?? []).map((o) => ({
    offer: o.id ?? "",
    supplier: o.supplier ?? "",
    pack: o.pack,
    amount: show(o.amount),
    unit: o.unit,
    price: o.price,
    steps: o.steps.map((s) => `${s.from}: ${s.price}`).join("; "),
    minimum: show(o.minimum),
    leadDays: show(o.leadDays),
  })),
});

const number = (text: string) => (text.trim() === "" ? null : Number(text.replace(",", ".")));
const readSteps = (text: string) =>
  text
    .split(";")
    .map((s) => s.trim())
    .filter(Boolean)
    .map((s) => ({ from: Number(s.split(":")[0]), price: (s.split(":")[1] ?? "").trim() }));

/** Reads a form's texts, for the contract to check; an unreadable number becomes NaN, which it refuses. */
function fromForm(f: FormValues): unknown {
  const fits = f.form ? FORM_KNOWN[f.form as Form].fields : ALL_FIELDS;
  return {
    ...Object.fromEntries(
      ALL_FIELDS.filter((x) => fits.includes(x)).map((x) => [x, x === "size" ? f.size || null : number(f[x])]),
    ),
    code: f.code,
    name: f.name,
    kind: f.kind,
    form: f.form || null,
    colour: f.colour,
    finish: f.finish,
    transparency: f.transparency || null,
    material: f.material || null,
    metal: f.metal || null,
    baseUnit: f.baseUnit,
    reorderAt: number(f.reorderAt),
    cautions: f.cautions,
    notes: f.notes,
    offers: f.offers.map((o) => ({
      ...(o.offer ? { id: o.offer } : {}),
      supplier: o.supplier || null,
      pack: o.pack,
      amount: number(o.amount) ?? NaN,
      unit: o.unit,
      price: o.price.trim().replace(",", "."),
      steps: readSteps(o.steps),
      minimum: number(o.minimum) ?? 1,
      leadDays: number(o.leadDays),
    })),
  };
}

interface LengthTextProps {
  /** Millimetres as text, as the form keeps its numbers. */
  value: string;
  onChange: (value: string) => void;
  onBlur: () => void;
  name: string;
  className: string;
}

/** A length of the form in the unit that was chosen. */
const LengthText = ({ value, onChange, ...rest }: LengthTextProps) => (
  <LengthField
    {...rest}
    optional
    zero
    mm={value === "" ? null : number(value)}
    onChange={(mm) => onChange(mm === null ? "" : String(mm))}
  />
);

export function ComponentForm({ id, component }: { id: string | null; component: Component | null }) {
  const navigate = useNavigate();
  const rooms = useQuery(roomsQuery);
  // What the form was begun from: a save is based on that, however new what was fetched since may be.
  const [base, setBase] = useState(component);
  const [saved, setSaved] = useState(false);
  const [newId] = useState(() => id ?? crypto.randomUUID());
  const saving = useSend("saveComponent", () => stockChanged());
  const form = useContractForm<FormValues>({
    schema: ComponentInput,
    start: toForm(component),
    toSend: fromForm,
    refusal: saving.refusal,
    at: "/component",
  });
  const { register, handleSubmit, formState, watch, reset, setValue, getValues, control } = form;
  const offers = useFieldArray({ control, name: "offers" });
  const { isSubmitting, isDirty } = formState;
  const values = watch();
  const { kind, baseUnit } = values;
  // Another name keeps the code, which stands on labels; one that goes with the name is offered.
  const others = useQuery(componentsQuery).data;
  const isRenamed = base !== null && values.name.trim() !== base.name && values.name.trim() !== "";
  const byName = isRenamed && others ? codeOf(values.name, new Set(others.map((c) => c.code))) : null;
  const offered = byName !== null && byName !== values.code ? byName : null;
  const chosen = (values.form || null) as Form | null;
  const known = chosen ? FORM_KNOWN[chosen] : null;
  const fields = known?.fields ?? (["size", "alongMm", "acrossMm", "holeMm", "linkMm", "massG"] as const);

  /** Fills in what a form or its size brings, over nothing that was typed. */
  const fill = (of: Form, size: string | null) => {
    const now = getValues();
    const by = filledIn(
      Object.fromEntries(Object.entries(now).filter(([, v]) => v !== "")) as Partial<ComponentInput>,
      of,
      size,
    );
    for (const [name, value] of Object.entries(by))
      setValue(name as keyof Texts, (Array.isArray(value) ? value : show(value)) as never, { shouldDirty: true });
    if (!component?.moved) setValue("baseUnit", FORM_KNOWN[of].baseUnit, { shouldDirty: true });
  };

  const takeUp = (from: Component | null) => {
    setBase(from);
    reset(toForm(from));
  };
  const newer = component !== null && base !== null && component.version > base.version;
  if (newer && !isDirty) takeUp(component);
  const save = handleSubmit(async (texts) => {
    const input = fromForm(texts) as ComponentInput;
    const answer = await saving.send((requestKey) => ({
      params: { id: newId },
      body: { requestKey, version: base?.version ?? 0, component: input },
    }));
    // Where somebody saved first, what is there now is fetched, and offered beside what was typed.
    if (!answer) return void stockChanged();
    // The way back from the jar does not lead to the empty form again.
    if (id === null) await navigate(`/jars/${newId}`, { replace: true });
    else {
      takeUp(answer.component);
      setSaved(true);
    }
  });
  const field = (
    name: keyof Texts,
    label: string,
    width: string,
    more: { hint?: string; list?: string; onBlur?: () => void; isLength?: boolean } = {},
  ) => (
    <Field key={name} form={form} name={name} label={label} hint={more.hint}>
      {(bound) =>
        more.isLength ? (
          <LengthText className={`field ${width}`} {...bound} />
        ) : (
          <input
            className={`field ${width}`}
            autoComplete="off"
            list={more.list}
            {...bound}
            onBlur={() => {
              bound.onBlur();
              more.onBlur?.();
            }}
          />
        )
      }
    </Field>
  );
  const select = (
    name: keyof Texts,
    label: string,
    options: readonly string[],
    blank?: string,
    onChoose?: (value: string) => void,
  ) => (
    <Field key={name} form={form} name={name} label={label}>
      {(bound) => (
        <select
          className="field"
          {...bound}
          onChange={(e) => {
            bound.onChange(e);
            onChoose?.(e.target.value);
          }}
        >
          {blank !== undefined && <option value="">{blank}</option>}
          {options.map((o) => (
            <option key={o} value={o}>
              {name === "baseUnit" ? UNIT_WORDS[o as Component["baseUnit"]] : o}
            </option>
          ))}
        </select>
      )}
    </Field>
  );
  const line = "flex flex-wrap items-start gap-x-4 gap-y-4 px-6 pt-4";
  return (
    <form onSubmit={save} noValidate onChange={() => setSaved(false)} aria-label="The component">
      {saving.refusal && !newer && <RefusalNotice refusal={saving.refusal} />}
      {newer && isDirty && (
        <div role="alert" className="mx-6 mt-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
          <p className="font-semibold">This component was changed elsewhere since you opened it.</p>
          <p className="mb-2">
            Nothing is lost: what you typed is here, theirs is on the server. Choose which goes on.
          </p>
          <span className="flex flex-wrap gap-2">
            <Button onClick={() => setBase(component)}>Keep mine</Button>
            <Button onClick={() => takeUp(component)}>Take theirs</Button>
          </span>
        </div>
      )}
      <div className={line}>
        {field("name", "Name", "w-80 max-w-full")}
        <span className="flex flex-col gap-1">
          {field("code", "Code", "w-36")}
          {offered !== null && (
            <button
              type="button"
              className="link min-h-6 text-left text-xs"
              onClick={() => setValue("code", offered, { shouldDirty: true })}
            >
              by the new name: {offered}
            </button>
          )}
        </span>
        {select("kind", "Kind", COMPONENT_KINDS, undefined, () => setValue("form", ""))}
        {select("form", "Form", formsOf(kind as Component["kind"]), "by its name", (f) => f && fill(f as Form, null))}
        <Labelled label="Colour">
          <input type="color" className="field w-14 p-1" {...register("colour")} />
        </Labelled>
        {select("finish", "Finish", FINISHES)}
        {(kind === "bead" || kind === "focal") && select("transparency", "Transparency", TRANSPARENCIES, "not said")}
        {select("material", "Material", MATERIALS, "not said")}
        {(kind === "finding" || chosen === "chain" || chosen === "craft wire") &&
          select("metal", "Metal colour", METALS, "none")}
      </div>
      <div className={line}>
        {component?.moved ? (
          <Labelled label="Kept in" hint="fixed, since stock has moved">
            <input className="field w-28" value={UNIT_WORDS[component.baseUnit]} readOnly />
          </Labelled>
        ) : (
          select("baseUnit", "Kept in", BASE_UNITS)
        )}
        {fields.map((f) =>
          field(
            f,
            f === "thickMm" && kind !== "packaging" ? "Thick, where it hangs" : FIELD_WORDS[f],
            "w-28",
            f === "size" && known?.sizes
              ? { list: "sizes", onBlur: () => chosen && getValues("size") && fill(chosen, getValues("size")) }
              : { isLength: LENGTHS.includes(f) },
          ),
        )}
        <datalist id="sizes">
          {Object.keys(known?.sizes ?? {}).map((s) => (
            <option key={s} value={s} />
          ))}
        </datalist>
        {baseUnit === "g" && !fields.includes("perGram") && field("perGram", FIELD_WORDS.perGram, "w-28")}
        {field("reorderAt", "Order again at", "w-28", {
          hint: baseUnit === "mm" ? "such as 20m" : UNIT_WORDS[baseUnit as Component["baseUnit"]],
          isLength: baseUnit === "mm",
        })}
      </div>
      <fieldset className="px-6 pt-5">
        <legend className="font-serif text-[1.0625rem]">Packs and prices</legend>
        {offers.fields.length === 0 && (
          <p className="text-muted">No pack yet: with one, what is used has a cost, and what to buy a pack to buy.</p>
        )}
        {offers.fields.map((o, i) => {
          const off = values.offers[i];
          const amount = off && number(off.amount);
          const inBase =
            off && amount && component
              ? convert(amount, off.unit as Component["baseUnit"], component.baseUnit, component)
              : null;
          const input = (name: keyof OfferText, label: string, width: string, hint?: string) => (
            <Field form={form} name={`offers.${i}.${name}`} label={label} hint={hint}>
              {(bound) =>
                name === "amount" && off?.unit === "mm" ? (
                  <LengthText className={`field ${width}`} {...bound} />
                ) : (
                  <input className={`field ${width}`} autoComplete="off" {...bound} />
                )
              }
            </Field>
          );
          return (
            <div
              key={o.id}
              className="flex flex-wrap items-start gap-3 border-t border-rule pt-3 pb-1 first-of-type:border-t-0"
            >
              {input("pack", i === 0 ? "A pack is called (the first is the usual one)" : "A pack is called", "w-44")}
              <Labelled label="From">
                <select className="field max-w-44" {...register(`offers.${i}.supplier`)}>
                  <option value="">nobody named</option>
                  {rooms.data?.suppliers.map((s) => (
                    <option key={s.id} value={s.id}>
                      {s.name}
                    </option>
                  ))}
                </select>
              </Labelled>
              {input(
                "amount",
                "It holds",
                "w-24",
                inBase && inBase.u > 0
                  ? `${sayNumber(inBase.n, 0)} ± ${sayNumber(expanded(inBase.u), 0)} ` +
                      `${UNIT_WORDS[component!.baseUnit]}`
                  : undefined,
              )}
              <Labelled label="of">
                <select className="field" {...register(`offers.${i}.unit`)}>
                  {BASE_UNITS.map((u) => (
                    <option key={u} value={u}>
                      {UNIT_WORDS[u]}
                    </option>
                  ))}
                </select>
              </Labelled>
              {input("price", "It costs", "w-20")}
              {input("steps", "Price steps", "w-36", "10: 3.20; 50: 2.90")}
              {input("minimum", "At least", "w-16", "packs")}
              {input("leadDays", "Lead days", "w-16")}
              <IconButton
                className="mt-5"
                label={`Take the pack ${off?.pack ?? ""} out`}
                onClick={() => offers.remove(i)}
              >
                <X size={16} />
              </IconButton>
            </div>
          );
        })}
        <Button
          className="mt-2"
          onClick={() =>
            offers.append({
              offer: "",
              supplier: "",
              pack: "",
              amount: "",
              unit: baseUnit,
              price: "",
              steps: "",
              minimum: "1",
              leadDays: "",
            })
          }
        >
          <Plus size={16} aria-hidden /> Add a pack
        </Button>
      </fieldset>
      <fieldset className="px-6 pt-5">
        <legend className="font-serif text-[1.0625rem]">Cautions and notes</legend>
        <div className="flex flex-wrap gap-x-4 gap-y-1 pt-1">
          {CAUTIONS.map((c) => (
            <label key={c} className="flex items-center gap-1.5">
              <input type="checkbox" className="size-4" value={c} {...register("cautions")} /> {c}
            </label>
          ))}
        </div>
        <textarea
          aria-label="Notes"
          className="field mt-3 h-20! w-full max-w-2xl py-1"
          placeholder="Anything worth knowing about it"
          maxLength={4000}
          {...register("notes")}
        />
      </fieldset>
      <p className="flex items-center gap-3 px-6 pt-4">
        <Button type="submit" look="main" disabled={isSubmitting || (newer && isDirty) || (id !== null && !isDirty)}>
          {id === null ? "Add the component" : "Save the component"}
        </Button>
        {saved && (
          <span role="status" className="text-muted">
            Saved.
          </span>
        )}
        <MendFirst form={form} />
      </p>
    </form>
  );
}
