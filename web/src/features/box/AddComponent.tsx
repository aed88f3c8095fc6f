import { codeOf, newComponent, wantedOf } from "@jar-count/core/component";
import { type BoxRole, ComponentInput, type KeyEntry, type StockEntry } from "@jar-count/core/contract";
import { useState } from "react";
import { z } from "zod";
import { stockChanged } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { AmountField } from "../../ui/fields.tsx";
import { Field, MendFirst, useContractForm } from "../../ui/form.tsx";
import { useBox } from "./boxStore.ts";

interface Props {
  name: string;
  /** The colourway that it is for; null for a whole row, or a role that is the same in all. */
  colourway: string | null;
  role: BoxRole;
  entries: readonly KeyEntry[];
  onClose: () => void;
  onAdded: (id: string) => void;
  /** The cell that asked, which gets the focus back. */
  at: HTMLElement;
}

interface Values {
  name: string;
  code: string;
  colour: string;
  onShelf: number | null;
  packAmount: number | null;
  price: string;
}

const UNIT = { piece: "pieces", mm: "length", g: "grams" };

/** What fits nowhere yet is added from the cell that asks for it: with what is on the shelf and its price, and back. */
export function AddComponent({ name, colourway, role, entries, onClose, onAdded, at }: Props) {
  const components = useBox((w) => w.components);
  const person = useSettings((s) => s.person);
  const [id] = useState(() => crypto.randomUUID());
  const [saved, setSaved] = useState(false);
  const saving = useSend("saveComponent");
  const moving = useSend("moveStock");
  const [wanted] = useState(() => wantedOf(role.name, role.kind, entries));
  const [start] = useState<Values>(() => ({
    name: name.slice(0, 200),
    code: codeOf(name, new Set(components.map((c) => c.code))),
    colour: newComponent(name, "X", wanted, entries, colourway).colour,
    onShelf: null,
    packAmount: null,
    price: "",
  }));
  const made = (v: Values): ComponentInput => {
    const base = newComponent(v.name, v.code, wanted, entries, colourway);
    const price = v.price.trim().replace(",", ".");
    const pack =
      price === "" && v.packAmount === null
        ? []
        : [{ pack: "pack", amount: v.packAmount ?? 0, unit: base.baseUnit, price, steps: [], minimum: 1 }];
    return { ...base, colour: v.colour, offers: pack };
  };
  const form = useContractForm<Values>({
    // The pack's fields stand at the form's own names.
    schema: z.custom<Values>().superRefine((v, ctx) => {
      const checked = ComponentInput.safeParse(made(v as Values));
      for (const issue of checked.error?.issues ?? []) {
        const [field, , inner] = issue.path;
        const path = field === "offers" ? (inner === "price" ? "price" : "packAmount") : String(field);
        ctx.addIssue({ code: "custom", path: [path], message: issue.message });
      }
    }),
    start,
    refusal: saving.refusal,
    at: "/component",
  });
  const { baseUnit } = made(form.watch());
  const add = form.handleSubmit(async (v) => {
    const component = made(v);
    const done =
      saved ||
      (await saving.send((requestKey) => ({ params: { id }, body: { requestKey, version: 0, component } }))) !== null;
    if (!done) return;
    setSaved(true);
    if (v.onShelf !== null && v.onShelf > 0) {
      // What is kept by length is one piece of it.
      const much = baseUnit === "mm" ? { quantity: 1, stretchMm: v.onShelf } : { quantity: v.onShelf };
      const entry = { kind: "counted", lot: "", note: "", u: 0, entered: "", ...much, person } as unknown as StockEntry;
      const moved = await moving.send((requestKey) => ({ params: { id }, body: { ...entry, requestKey } }));
      if (!moved) return;
    }
    await stockChanged();
    onAdded(id);
  });
  return (
    <Dialog title="Add a component" open onClose={onClose} returnTo={at}>
      <form onSubmit={add} noValidate className="flex flex-col gap-3" aria-label="The new component">
        <p className="text-muted">
          For {role.name}: its kind, form and measures are taken from the designs, and can be changed in its jar.
        </p>
        <Field form={form} name="name" label="Name">
          {(field) => <input className="field" autoComplete="off" autoFocus {...field} />}
        </Field>
        <div className="flex flex-wrap gap-3">
          <Field form={form} name="code" label="Code, for labels and lists">
            {(field) => <input className="field w-44" autoComplete="off" {...field} />}
          </Field>
          <Field form={form} name="colour" label="Colour">
            {(field) => <input type="color" className="field w-16 p-1" {...field} />}
          </Field>
        </div>
        <div className="flex flex-wrap gap-3">
          <Field form={form} name="onShelf" label={`On the shelf now, ${UNIT[baseUnit]}`}>
            {(field) => <AmountField className="field w-36" unit={baseUnit} optional zero {...amount(field)} />}
          </Field>
          <Field form={form} name="packAmount" label={`A pack holds, ${UNIT[baseUnit]}`}>
            {(field) => <AmountField className="field w-32" unit={baseUnit} optional {...amount(field)} />}
          </Field>
          <Field form={form} name="price" label="A pack costs">
            {(field) => <input className="field w-24" inputMode="decimal" autoComplete="off" {...field} />}
          </Field>
        </div>
        {moving.refusal && <Fault>{moving.refusal.detail}</Fault>}
        {saving.refusal && !saving.refusal.errors && <Fault>{saving.refusal.detail}</Fault>}
        <div className="flex items-center justify-end gap-2">
          <MendFirst form={form} />
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" look="main" disabled={saving.busy || moving.busy}>
            Add it and choose it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

/** A field of the form as one that knows amounts. */
const amount = ({
  value,
  ...field
}: {
  value: number | null;
  onChange: (value: number | null) => void;
  onBlur: () => void;
  name: string;
}) => ({ ...field, amount: value });
