import { DESIGN_KINDS, LEVELS, TECHNIQUES } from "@jar-count/core/contract";
import { useState } from "react";
import { Button, Labelled } from "../../ui/controls.tsx";
import { checkName, LengthField, NumberField, TextField } from "../../ui/fields.tsx";
import { Fold } from "../../ui/Fold.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { countedKeys, ItemList, Uses } from "./Lists.tsx";

const SIZE_KEY = /^[^\s(){}[\]#:|,]{1,20}$/;

/**
 * What holds for the whole design: its sizes, the options the maker may choose from, and what one item takes beside its
 * parts.
 */
export function WholeItem() {
  const { id, editDesign: onChange } = useBenchStore();
  const design = useBench((b) => b.frame);
  return (
    <div className="mx-6 mt-4 border-t border-rule pt-4">
      <Fold name={`whole/${id}`} title="The whole item: what it takes beside its parts, sizes, options, kind and time">
        <div className="flex flex-wrap items-start gap-4">
          <About
            label="Kind"
            list={DESIGN_KINDS}
            value={design.about?.kind}
            onChange={(kind) => onChange({ about: { ...design.about, kind } })}
          />
          <About
            label="Technique"
            list={TECHNIQUES}
            value={design.about?.technique}
            onChange={(technique) => onChange({ about: { ...design.about, technique } })}
          />
          <About
            label="Level"
            none="worked out"
            list={LEVELS}
            value={design.about?.level}
            onChange={(level) => onChange({ about: { ...design.about, level, levelReason: null } })}
          />
          {design.about?.level != null && (
            <Labelled label="Why this level">
              <TextField
                className="field w-52"
                value={design.about.levelReason ?? ""}
                check={() => null}
                onChange={(levelReason) => onChange({ about: { ...design.about, levelReason } }, "level-reason")}
              />
            </Labelled>
          )}
          <Labelled label="Minutes an item, hands on">
            <NumberField
              className="field w-24"
              optional
              max={10_000}
              placeholder="worked out"
              value={design.minutes ?? null}
              onChange={(minutes) => onChange({ minutes })}
            />
          </Labelled>
          <Labelled label="Minutes waiting">
            <NumberField
              className="field w-24"
              optional
              max={100_000}
              placeholder="by its glue"
              value={design.waitMinutes ?? null}
              onChange={(waitMinutes) => onChange({ waitMinutes })}
            />
          </Labelled>
          <label className="flex items-center gap-1.5 self-end pb-2">
            <input
              type="checkbox"
              className="size-4"
              checked={design.about?.forChild ?? false}
              onChange={(e) => onChange({ about: { ...design.about, forChild: e.target.checked || null } })}
            />{" "}
            made or worn by a child
          </label>
        </div>
        <div className="mt-4 grid gap-6 md:grid-cols-2">
          <Keyed
            title="Sizes"
            add="Add a size"
            letters={["S", "M", "L", "XL"]}
            items={design.sizes ?? []}
            onChange={(sizes) => onChange({ sizes: sizes.length > 0 ? sizes : null })}
          >
            {(size, set) => (
              <Labelled label="Fits, round the body">
                <LengthField
                  className="field w-24"
                  optional
                  placeholder="any"
                  mm={size.bodyMm ?? null}
                  onChange={(bodyMm) => set({ bodyMm })}
                />
              </Labelled>
            )}
          </Keyed>
          <Keyed
            title="Options the maker may choose from"
            add="Add an option"
            letters={["first", "second", "third"]}
            items={design.options ?? []}
            onChange={(options) => onChange({ options: options.length > 0 ? options : null })}
          />
          <Uses
            title="Taken beside rows and parts"
            add="Add what the whole takes"
            often
            uses={design.uses ?? []}
            choices={countedKeys(design)}
            onChange={(uses) => onChange({ uses: uses.length > 0 ? uses : null })}
          />
          <ItemList
            title="To have at hand, not in the kit"
            add="Add a tool or glue"
            items={design.atHand ?? []}
            empty={(close) => (
              <EmptyName
                onAdd={(name) => {
                  onChange({ atHand: [...(design.atHand ?? []), name] });
                  close();
                }}
              />
            )}
            onRemove={(i) => {
              const left = design.atHand!.filter((_, j) => j !== i);
              onChange({ atHand: left.length > 0 ? left : null });
            }}
          >
            {(name, i) => (
              <TextField
                aria-label="What the maker needs at hand"
                className="field w-52"
                value={typeof name === "string" ? name : name.name}
                check={checkName}
                onChange={(said) => onChange({ atHand: design.atHand!.map((x, j) => (j === i ? said : x)) })}
              />
            )}
          </ItemList>
        </div>
      </Fold>
    </div>
  );
}

/** A tool or so, to be named before it stands in the list. */
function EmptyName({ onAdd }: { onAdd: (name: string) => void }) {
  const [name, setName] = useState("");
  const add = () => checkName(name) === null && onAdd(name.trim());
  return (
    <>
      <input
        className="field w-44"
        aria-label="What the maker needs at hand, to add"
        placeholder="scissors"
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => e.key === "Enter" && add()}
      />
      <Button className="h-8!" disabled={checkName(name) !== null} onClick={add}>
        Add it
      </Button>
    </>
  );
}

function About<T extends string>({
  label,
  list,
  value,
  onChange,
  none = "not said",
}: {
  label: string;
  none?: string;
  list: readonly T[];
  value: T | null | undefined;
  onChange: (value: T | null) => void;
}) {
  return (
    <Labelled label={label}>
      <select className="field" value={value ?? ""} onChange={(e) => onChange((e.target.value || null) as T | null)}>
        <option value="">{none}</option>
        {list.map((x) => (
          <option key={x}>{x}</option>
        ))}
      </select>
    </Labelled>
  );
}

interface KeyedItem {
  key: string;
  label?: string | null | undefined;
  bodyMm?: number | null | undefined;
}

function Keyed<T extends KeyedItem>({
  title,
  add,
  letters,
  items,
  onChange,
  children,
}: {
  title: string;
  add: string;
  letters: string[];
  items: readonly T[];
  onChange: (items: T[]) => void;
  children?: (item: T, set: (change: Partial<KeyedItem>) => void) => React.ReactNode;
}) {
  const free = letters.find((l) => !items.some((s) => s.key === l)) ?? `${letters[0]}${items.length + 1}`;
  const check = (own: string) => (k: string) =>
    !SIZE_KEY.test(k)
      ? "1 to 20 characters, no spaces, brackets or : | , #."
      : k !== own && items.some((s) => s.key === k)
        ? `${k} is there already.`
        : null;
  return (
    <ItemList
      title={title}
      add={add}
      items={items}
      onAdd={() => onChange([...items, { key: free } as T])}
      onRemove={(i) => onChange(items.filter((_, j) => j !== i))}
    >
      {(item, i) => {
        const set = (change: Partial<KeyedItem>) => onChange(items.map((s, j) => (j === i ? { ...s, ...change } : s)));
        return (
          <>
            <Labelled label="Key">
              <TextField
                className="field w-20 font-mono"
                value={item.key}
                check={check(item.key)}
                onChange={(key) => set({ key })}
              />
            </Labelled>
            <Labelled label="Called">
              <TextField
                className="field w-32"
                value={item.label ?? item.key}
                check={checkName}
                onChange={(label) => set({ label })}
              />
            </Labelled>
            {children?.(item, set)}
          </>
        );
      }}
    </ItemList>
  );
}
