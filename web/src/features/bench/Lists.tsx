import type { Cut, Design, Use } from "@jar-count/core/contract";
import { Plus, X } from "lucide-react";
import type { ReactNode } from "react";
import { Button, IconButton } from "../../ui/controls.tsx";
import { LengthField, NumberField } from "../../ui/fields.tsx";

export interface KeyChoice {
  key: string;
  name: string;
}

/** The keys that can be counted: beads, findings, mixes and sub-assemblies. */
export const countedKeys = (design: Design): KeyChoice[] => [
  ...design.key.filter((e) => e.kind !== "stringing").map(({ key, name }) => ({ key, name })),
  ...design.parts.flatMap((p) => (p.as ? [{ key: p.as, name: p.name }] : [])),
];

export function KeySelect({
  label,
  value,
  choices,
  onChange,
  none,
}: {
  label: string;
  value: string | null;
  choices: readonly KeyChoice[];
  onChange: (key: string | null) => void;
  none?: string;
}) {
  const missing = value !== null && !choices.some((c) => c.key === value);
  return (
    <select
      aria-label={label}
      className="field max-w-52 min-w-0"
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value || null)}
    >
      {(none !== undefined || value === null) && <option value="">{none ?? "Choose …"}</option>}
      {missing && <option value={value}>{value}: not in the key</option>}
      {choices.map((c) => (
        <option key={c.key} value={c.key}>{`${c.key} · ${c.name.slice(0, 60)}`}</option>
      ))}
    </select>
  );
}

interface ListProps<T> {
  title: string;
  items: readonly T[];
  add: string;
  onAdd: (() => void) | null;
  onRemove: (index: number) => void;
  children: (item: T, index: number) => ReactNode;
}

export function ItemList<T>({ title, items, add, onAdd, onRemove, children }: ListProps<T>) {
  return (
    <fieldset className="min-w-0">
      <legend className="mb-1 text-xs text-muted">{title}</legend>
      <ul className="flex flex-col gap-1.5">
        {items.map((item, i) => (
          <li key={i} className="flex flex-wrap items-center gap-1.5">
            {children(item, i)}
            <IconButton label={`Take out of ${title.toLowerCase()}`} onClick={() => onRemove(i)}>
              <X size={15} />
            </IconButton>
          </li>
        ))}
      </ul>
      <Button look="quiet" className="mt-1 h-8 px-1.5" disabled={!onAdd} onClick={onAdd ?? undefined}>
        <Plus size={15} aria-hidden /> {add}
      </Button>
    </fieldset>
  );
}

type AnyUse = Use & { per?: "item" | "kit" | null | undefined };

export function Uses<U extends AnyUse>({
  title,
  add,
  uses,
  choices,
  onChange,
  perKit,
}: {
  title: string;
  add: string;
  uses: readonly U[];
  choices: readonly KeyChoice[];
  onChange: (uses: U[]) => void;
  perKit?: boolean;
}) {
  const set = (i: number, change: Partial<AnyUse>) => onChange(uses.map((u, j) => (j === i ? { ...u, ...change } : u)));
  return (
    <ItemList
      title={title}
      items={uses}
      add={add}
      onAdd={choices.length > 0 ? () => onChange([...uses, { key: choices[0]!.key, count: 1 } as U]) : null}
      onRemove={(i) => onChange(uses.filter((_, j) => j !== i))}
    >
      {(use, i) => (
        <>
          <NumberField
            aria-label={`How many ${use.key}`}
            className="field w-16"
            whole
            min={1}
            max={100_000}
            value={use.count}
            onChange={(count) => set(i, { count: count! })}
          />
          <KeySelect
            label={`What, ${title.toLowerCase()}`}
            value={use.key}
            choices={choices}
            onChange={(key) => key && set(i, { key })}
          />
          {perKit && (
            <select
              aria-label={`${use.key}: for each item or once a kit`}
              className="field"
              value={use.per ?? "item"}
              onChange={(e) => set(i, { per: e.target.value as "item" | "kit" })}
            >
              <option value="item">for each item</option>
              <option value="kit">once a kit</option>
            </select>
          )}
        </>
      )}
    </ItemList>
  );
}

export function Cuts({
  cuts,
  choices,
  onChange,
}: {
  cuts: readonly Cut[];
  choices: readonly KeyChoice[];
  onChange: (cuts: Cut[]) => void;
}) {
  const set = (i: number, cut: Cut) => onChange(cuts.map((c, j) => (j === i ? cut : c)));
  return (
    <ItemList
      title="Lengths cut for it"
      items={cuts}
      add="Add a cut length"
      onAdd={choices.length > 0 ? () => onChange([...cuts, { key: choices[0]!.key, count: 1, mm: 100 }]) : null}
      onRemove={(i) => onChange(cuts.filter((_, j) => j !== i))}
    >
      {(cut, i) => {
        const by = cut.links != null ? "links" : cut.coils != null ? "coils" : "mm";
        const plain = { key: cut.key, count: cut.count };
        return (
          <>
            <NumberField
              aria-label="How many of this cut"
              className="field w-14"
              whole
              min={1}
              max={100_000}
              value={cut.count}
              onChange={(count) => set(i, { ...cut, count: count! })}
            />
            <KeySelect
              label="What is cut"
              value={cut.key}
              choices={choices}
              onChange={(key) => key && set(i, { ...cut, key })}
            />
            {by === "mm" && (
              <LengthField
                aria-label="Length of the cut"
                className="field w-24"
                mm={cut.mm!}
                onChange={(mm) => set(i, { ...plain, mm })}
              />
            )}
            {by === "links" && (
              <NumberField
                aria-label="Links of the cut"
                className="field w-16"
                whole
                min={1}
                max={100_000}
                value={cut.links!}
                onChange={(links) => set(i, { ...plain, links })}
              />
            )}
            {by === "coils" && (
              <NumberField
                aria-label="Coils of the cut"
                className="field w-16"
                min={0.01}
                max={1000}
                value={cut.coils!}
                onChange={(coils) => set(i, { ...plain, coils })}
              />
            )}
            <select
              aria-label="The cut is measured by"
              className="field"
              value={by}
              onChange={(e) =>
                set(
                  i,
                  e.target.value === "mm"
                    ? { ...plain, mm: 100 }
                    : e.target.value === "links"
                      ? { ...plain, links: 5 }
                      : { ...plain, coils: 1 },
                )
              }
            >
              <option value="mm">long</option>
              <option value="links">links</option>
              <option value="coils">coils</option>
            </select>
          </>
        );
      }}
    </ItemList>
  );
}
