import type { Also, Cut, Design, KeyEntry, Per } from "@jar-count/core/contract";
import { definitionsIn } from "@jar-count/core/method";
import { Plus, X } from "lucide-react";
import { type ReactNode, useState } from "react";
import { Button, IconButton } from "../../ui/controls.tsx";
import { LengthField, NumberField } from "../../ui/fields.tsx";
import { useBench } from "./benchStore.ts";

export interface KeyChoice {
  key: string;
  name: string;
  /** How it is said in a list, where not by its name. */
  said?: string;
}

/** What wrote a line, where a method did. */
function By({ by }: { by: unknown }) {
  const methods = useBench((b) => definitionsIn(b.frame));
  if (typeof by !== "string") return null;
  return <span className="text-xs text-muted">by {methods.find((m) => m.id === by)?.name.toLowerCase() ?? by}</span>;
}

/** How often what no part names is taken, in the words of every place that says it. */
export const PER_WORDS: Record<Per, string> = {
  item: "once an item",
  kit: "once a kit of this design",
  box: "once a box",
};

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
        <option key={c.key} value={c.key}>
          {c.said ?? `${c.key} · ${c.name.slice(0, 60)}`}
        </option>
      ))}
    </select>
  );
}

interface ListProps<T> {
  title: string;
  items: readonly T[];
  add: string;
  /** Adds one at once, where there is nothing to choose about it. */
  onAdd?: () => void;
  /** The line in which what is added is chosen first: nothing counts that nobody chose. Null: nothing to choose. */
  empty?: ((close: () => void) => ReactNode) | null;
  onRemove: (index: number) => void;
  children: (item: T, index: number) => ReactNode;
}

export function ItemList<T>({ title, items, add, onAdd, empty, onRemove, children }: ListProps<T>) {
  const [adding, setAdding] = useState(false);
  const close = () => setAdding(false);
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
        {adding && empty && (
          <li className="flex flex-wrap items-center gap-1.5 rounded border border-dashed border-edge p-1">
            {empty(close)}
            <IconButton label="Add nothing" onClick={close}>
              <X size={15} />
            </IconButton>
          </li>
        )}
      </ul>
      {!(adding && empty) && (
        <Button
          look="quiet"
          className="mt-1 h-8 px-1.5"
          disabled={!onAdd && !empty}
          onClick={onAdd ?? (() => setAdding(true))}
        >
          <Plus size={15} aria-hidden /> {add}
        </Button>
      )}
    </fieldset>
  );
}

/** A number that may differ by size. */
type Sized = number | Readonly<Record<string, number>>;

interface SizedProps {
  value: Sized | null;
  sizes: readonly string[];
  /** Called with one number for all sizes, with one a size, or with null where nothing is said. */
  onChange: (value: number | Record<string, number> | null) => void;
  /** What a size that nothing was said for begins with. */
  begin: number;
  children: (field: { value: number | null; of: string; onChange: (n: number | null) => void }) => ReactNode;
}

/** A field for a number that may differ by size: one for all, or one a size. */
export function BySize({ value, sizes, onChange, begin, children }: SizedProps) {
  const apart = value !== null && typeof value !== "number";
  return (
    <>
      {!apart && children({ value, of: "", onChange })}
      {apart &&
        [...new Set([...sizes, ...Object.keys(value)])].map((size) => (
          <span key={size} className="inline-flex items-center gap-1">
            <span className="text-xs text-muted">{size}</span>
            {children({
              value: value[size] ?? null,
              of: `, size ${size}`,
              onChange: (n) => {
                const { [size]: _gone, ...rest } = value;
                onChange(n === null ? rest : { ...rest, [size]: n });
              },
            })}
          </span>
        ))}
      {((sizes.length > 0 && value !== null) || apart) && (
        <button
          type="button"
          className="link text-xs"
          onClick={() =>
            onChange(
              apart
                ? (Object.values(value)[0] ?? begin)
                : Object.fromEntries(sizes.map((s) => [s, (value as number | null) ?? begin])),
            )
          }
        >
          {apart ? "same for all" : "by size"}
        </button>
      )}
    </>
  );
}

/** How many of something: a whole number, that may differ by size and be none in one of them. */
function HowMany({
  label,
  value,
  sizes,
  onChange,
}: {
  label: string;
  value: Sized;
  sizes: readonly string[];
  onChange: (count: number | Record<string, number>) => void;
}) {
  return (
    <BySize value={value} sizes={sizes} begin={1} onChange={(count) => onChange(count ?? 1)}>
      {({ value: n, of, onChange: put }) => (
        <NumberField
          aria-label={`${label}${of}`}
          className="field w-16"
          whole
          min={of ? 0 : 1}
          max={100_000}
          value={n}
          onChange={put}
        />
      )}
    </BySize>
  );
}

/** A member of a mix that is chosen: which, and how much of the mix it is. */
export function EmptyMember({
  choices,
  left,
  onAdd,
}: {
  choices: readonly KeyChoice[];
  /** The share that is not given yet. */
  left: number;
  onAdd: (member: NonNullable<KeyEntry["mix"]>[number]) => void;
}) {
  const [key, setKey] = useState<string | null>(null);
  const [share, setShare] = useState<number | null>(null);
  return (
    <>
      <KeySelect label="Member to add" value={key} choices={choices} onChange={setKey} />
      <NumberField
        aria-label="Its share, per cent"
        className="field w-16"
        factor={100}
        min={1e-6}
        max={1000}
        optional
        placeholder={left > 0 ? `${Math.round(left * 100)} %` : "%"}
        value={share}
        onChange={setShare}
      />
      <Button
        className="h-8!"
        disabled={key === null || share === null}
        onClick={() => onAdd({ key: key!, share: share! })}
      >
        Add it
      </Button>
    </>
  );
}

/** A cut that is chosen: of what, and how long; only then does it count. */
function EmptyCut({ choices, onAdd }: { choices: readonly KeyChoice[]; onAdd: (cut: Cut) => void }) {
  const [key, setKey] = useState<string | null>(null);
  const [mm, setMm] = useState<number | null>(null);
  return (
    <>
      <KeySelect label="What is cut" value={key} choices={choices} onChange={setKey} />
      <LengthField
        aria-label="How long it is cut"
        className="field w-28"
        optional
        placeholder="how long"
        mm={mm}
        onChange={setMm}
      />
      <Button
        className="h-8!"
        disabled={key === null || mm === null}
        onClick={() => onAdd({ key: key!, count: 1, mm: mm! })}
      >
        Add it
      </Button>
    </>
  );
}

interface AnyUse {
  key: string;
  count: Sized;
  per?: Per | null | undefined;
  forEach?: string | null | undefined;
  by?: unknown;
}

interface UsesProps<U extends AnyUse> {
  title: string;
  add: string;
  uses: readonly U[];
  choices: readonly KeyChoice[];
  onChange: (uses: U[]) => void;
  /** Of the whole design: how often it is taken can be chosen. */
  often?: boolean;
  /** Of a part: the design's sizes, by which a number may differ. */
  sizes?: readonly string[];
  /** Of a part: keys of which it may be so many for each. */
  each?: readonly KeyChoice[];
}

export function Uses<U extends AnyUse>({ title, add, uses, choices, onChange, often, sizes = [], each }: UsesProps<U>) {
  const set = (i: number, change: Partial<AnyUse>) => onChange(uses.map((u, j) => (j === i ? { ...u, ...change } : u)));
  return (
    <ItemList
      title={title}
      items={uses}
      add={add}
      empty={
        choices.length > 0
          ? (close) => (
              <KeySelect
                label={`What, ${title.toLowerCase()}`}
                value={null}
                choices={choices}
                onChange={(key) => {
                  if (key) onChange([...uses, { key, count: 1 } as unknown as U]);
                  close();
                }}
              />
            )
          : null
      }
      onRemove={(i) => onChange(uses.filter((_, j) => j !== i))}
    >
      {(use, i) => (
        <>
          <HowMany
            label={`How many ${use.key}`}
            value={use.count}
            sizes={sizes}
            onChange={(count) => set(i, { count })}
          />
          <KeySelect
            label={`What, ${title.toLowerCase()}`}
            value={use.key}
            choices={choices}
            onChange={(key) => key && set(i, { key })}
          />
          {each && (
            <ForEach of={use.key} value={use.forEach} choices={each} onChange={(forEach) => set(i, { forEach })} />
          )}
          <By by={use.by} />
          {often && (
            <select
              aria-label={`${use.key}: how often`}
              className="field"
              value={use.per ?? "item"}
              onChange={(e) => set(i, { per: e.target.value as Per })}
            >
              {Object.entries(PER_WORDS).map(([per, words]) => (
                <option key={per} value={per}>
                  {words}
                </option>
              ))}
            </select>
          )}
        </>
      )}
    </ItemList>
  );
}

/** Once in the part, or so many for each of a key that its rows take. */
function ForEach({
  of,
  value,
  choices,
  onChange,
}: {
  of: string;
  value: string | null | undefined;
  choices: readonly KeyChoice[];
  onChange: (key: string | null) => void;
}) {
  return (
    <KeySelect
      label={`${of}: once, or for each of which key`}
      value={value ?? null}
      choices={choices.map((c) => ({ ...c, key: c.key, said: `for each ${c.key}` }))}
      none="once"
      onChange={onChange}
    />
  );
}

type Measure = "mm" | "links" | "coils";
const FIRST: Record<Measure, number> = { mm: 100, links: 5, coils: 1 };

export function Cuts({
  cuts,
  choices,
  onChange,
  sizes,
  each,
}: {
  cuts: readonly Cut[];
  choices: readonly KeyChoice[];
  onChange: (cuts: Cut[]) => void;
  sizes: readonly string[];
  each: readonly KeyChoice[];
}) {
  const set = (i: number, change: Partial<Cut>) => onChange(cuts.map((c, j) => (j === i ? { ...c, ...change } : c)));
  return (
    <ItemList
      title="Lengths cut for it"
      items={cuts}
      add="Add a cut length"
      empty={
        choices.length > 0
          ? (close) => (
              <EmptyCut
                choices={choices}
                onAdd={(cut) => {
                  onChange([...cuts, cut]);
                  close();
                }}
              />
            )
          : null
      }
      onRemove={(i) => onChange(cuts.filter((_, j) => j !== i))}
    >
      {(cut, i) => {
        const by: Measure = cut.links != null ? "links" : cut.coils != null ? "coils" : "mm";
        const measured = (value: Cut[Measure], measure = by) =>
          set(i, { mm: null, links: null, coils: null, [measure]: value });
        return (
          <>
            <HowMany
              label="How many of this cut"
              value={cut.count}
              sizes={sizes}
              onChange={(count) => set(i, { count })}
            />
            <KeySelect
              label="What is cut"
              value={cut.key}
              choices={choices}
              onChange={(key) => key && set(i, { key })}
            />
            <BySize value={cut[by] ?? null} sizes={sizes} begin={FIRST[by]} onChange={(n) => measured(n ?? FIRST[by])}>
              {({ value, of, onChange: put }) =>
                by === "mm" ? (
                  <LengthField aria-label={`Length of the cut${of}`} className="field w-24" mm={value} onChange={put} />
                ) : (
                  <NumberField
                    aria-label={`${by === "links" ? "Links" : "Coils"} of the cut${of}`}
                    className="field w-16"
                    whole={by === "links"}
                    min={by === "links" ? 1 : 0.01}
                    max={by === "links" ? 100_000 : 1000}
                    value={value}
                    onChange={put}
                  />
                )
              }
            </BySize>
            <select
              aria-label="The cut is measured by"
              className="field"
              value={by}
              onChange={(e) => measured(FIRST[e.target.value as Measure], e.target.value as Measure)}
            >
              <option value="mm">long</option>
              <option value="links">links</option>
              <option value="coils">coils</option>
            </select>
            <By by={cut.by} />
            <ForEach of={cut.key} value={cut.forEach} choices={each} onChange={(forEach) => set(i, { forEach })} />
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={cut.from === "offcut"}
                onChange={(e) => set(i, { from: e.target.checked ? "offcut" : null })}
              />
              from what another cut leaves
            </label>
          </>
        );
      }}
    </ItemList>
  );
}

/** Stringing that runs the same way beside the first: a second wire through the same beads, say. */
export function Beside({
  also,
  choices,
  sizes,
  onChange,
}: {
  also: readonly Also[];
  choices: readonly KeyChoice[];
  sizes: readonly string[];
  onChange: (also: Also[]) => void;
}) {
  const set = (i: number, change: Partial<Also>) => onChange(also.map((a, j) => (j === i ? { ...a, ...change } : a)));
  return (
    <ItemList
      title="Runs along the same way"
      items={also}
      add="Add what runs along"
      empty={
        choices.length > 0
          ? (close) => (
              <KeySelect
                label="What runs along"
                value={null}
                choices={choices}
                onChange={(key) => {
                  if (key) onChange([...also, { key }]);
                  close();
                }}
              />
            )
          : null
      }
      onRemove={(i) => onChange(also.filter((_, j) => j !== i))}
    >
      {(one, i) => {
        const by = one.coils != null ? "coils" : one.cutMm != null ? "mm" : "path";
        return (
          <>
            <KeySelect
              label="What runs along"
              value={one.key}
              choices={choices}
              onChange={(key) => key && set(i, { key })}
            />
            <select
              aria-label="What runs along is as long as"
              className="field"
              value={by}
              onChange={(e) =>
                set(i, {
                  cutMm: e.target.value === "mm" ? 100 : null,
                  coils: e.target.value === "coils" ? 1 : null,
                })
              }
            >
              <option value="path">as the path asks</option>
              <option value="mm">long</option>
              <option value="coils">coils</option>
            </select>
            {by === "path" ? (
              <>
                <LengthField
                  aria-label="Each tail of what runs along"
                  className="field w-28"
                  optional
                  zero
                  placeholder="no tails"
                  mm={one.tailMm ?? null}
                  onChange={(tailMm) => set(i, { tailMm })}
                />
                <NumberField
                  aria-label="Extra for stitches of what runs along, %"
                  className="field w-16"
                  optional
                  factor={100}
                  max={100}
                  placeholder="0 %"
                  value={one.takeUp ?? null}
                  onChange={(takeUp) => set(i, { takeUp })}
                />
              </>
            ) : (
              <BySize
                value={(by === "mm" ? one.cutMm : one.coils) ?? null}
                sizes={sizes}
                begin={by === "mm" ? 100 : 1}
                onChange={(n) => set(i, by === "mm" ? { cutMm: n ?? 100 } : { coils: n ?? 1 })}
              >
                {({ value, of, onChange: put }) =>
                  by === "mm" ? (
                    <LengthField
                      aria-label={`Length of what runs along${of}`}
                      className="field w-24"
                      mm={value}
                      onChange={put}
                    />
                  ) : (
                    <NumberField
                      aria-label={`Coils of what runs along${of}`}
                      className="field w-16"
                      min={0.01}
                      max={1000}
                      value={value}
                      onChange={put}
                    />
                  )
                }
              </BySize>
            )}
          </>
        );
      }}
    </ItemList>
  );
}
