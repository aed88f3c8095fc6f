import { FINISHES, type KeyEntry, type Per, ROLE_KINDS, SHAPES } from "@jar-count/core/contract";
import { keyFault } from "@jar-count/core/shorthand";
import { ArrowDown, ArrowUp, Trash2 } from "lucide-react";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { checkName, LengthField, NumberField, TextField } from "../../ui/fields.tsx";
import { Fold } from "../../ui/Fold.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { keysOf } from "./designs.ts";
import { countedKeys, EmptyMember, ItemList, KeySelect, PER_WORDS, Uses } from "./Lists.tsx";

const KIND_WORDS: Record<KeyEntry["kind"], string> = {
  bead: "bead",
  focal: "focal bead or charm",
  finding: "finding",
  stringing: "thread, cord, wire or chain",
  consumable: "used up: needle, glue",
  packaging: "packaging or paper",
  mix: "mix of others",
};

const W = "field w-full min-w-0";

/** Everything about one line of the key, open in its place. */
export function KeyDetails({ at }: { at: number }) {
  const { editKey, rename, state } = useBenchStore();
  const design = useBench((b) => b.frame);
  const looks = useBench((b) => b.looks);
  const entry = design.key[at]!;
  const id = entry.id ?? entry.key;
  const onChange = (change: Partial<KeyEntry>, group?: string) =>
    editKey((key) => key.map((e, i) => (i === at ? { ...e, ...change } : e)), group && `${group}-${id}`);
  const shift = (by: number) =>
    editKey((key) => {
      const list = [...key];
      const [moved] = list.splice(at, 1);
      list.splice(at + by, 0, moved!);
      return list;
    });
  const { kind, key } = entry;
  const drawn = kind !== "stringing" && kind !== "mix";
  const isTaken = (k: string) => keysOf(state.getState().design).has(k);
  const length = (label: string, field: LengthKey, placeholder?: string) => (
    <Labelled label={label}>
      <LengthField
        optional
        aria-label={`${label}, ${key}`}
        className={W}
        placeholder={placeholder}
        mm={entry[field] ?? null}
        onChange={(mm) => onChange({ [field]: mm }, field)}
      />
    </Labelled>
  );
  const look = looks.get(key);
  // The size across follows the size along by the form, until somebody measures it.
  const across = look && entry.acrossMm == null && entry.alongMm ? `${Number(look.acrossMm.toFixed(1))} mm` : undefined;
  return (
    <div className="my-1 flex flex-col gap-2.5 rounded-md bg-hush p-2.5">
      <div className="grid grid-cols-[3.5rem_1fr] gap-2">
        <Labelled label="Letter">
          <TextField
            aria-label={`Letter of ${entry.name}`}
            className={`${W} text-center font-mono font-bold`}
            value={key}
            onChange={(to) => rename(key, to)}
            check={(k) => keyFault(k) ?? (k !== key && isTaken(k) ? `${k} is a letter already.` : null)}
          />
        </Labelled>
        <Labelled label="Name">
          <TextField
            aria-label={`Name of ${key}`}
            className={W}
            value={entry.name}
            check={checkName}
            onChange={(name) => onChange({ name }, "name")}
          />
        </Labelled>
      </div>
      {drawn && (
        <div className="grid grid-cols-3 gap-2">
          {length("Along the thread", "alongMm")}
          {length("Across", "acrossMm", across && `about ${across}`)}
          {length("Hole", "holeMm")}
        </div>
      )}
      {kind === "stringing" && (
        <div className="grid grid-cols-3 items-end gap-2">
          {length("Thickness", "diameterMm")}
          {length("Chain: a link", "linkMm", "no chain")}
          {entry.linkMm ? (
            <Labelled label="Links lost a cut">
              <NumberField
                optional
                whole
                max={100}
                className={W}
                value={entry.lossLinks ?? null}
                onChange={(lossLinks) => onChange({ lossLinks })}
              />
            </Labelled>
          ) : (
            length("Wire in coils: a coil", "coilMm", "no coils")
          )}
        </div>
      )}
      {kind === "mix" && <Members entry={entry} onChange={onChange} />}
      {drawn && kind !== "bead" && <Beside entry={entry} />}
      {kind !== "mix" && (
        <Fold name={`key-fit/${kind}`} title="Measures that the checks of fit read">
          <MeasuresForFit entry={entry} length={length} onChange={onChange} />
        </Fold>
      )}
      <Fold name={`key/${kind}`} title="Kind, looks and what it hangs by">
        <div className="grid grid-cols-2 gap-2">
          <Labelled label="Kind">
            <select className={W} value={kind} onChange={(e) => onChange({ kind: e.target.value as KeyEntry["kind"] })}>
              {ROLE_KINDS.map((k) => (
                <option key={k} value={k}>
                  {KIND_WORDS[k]}
                </option>
              ))}
            </select>
          </Labelled>
          {kind !== "mix" && (
            <Labelled label="Colour">
              <input
                type="color"
                className="field w-full p-1"
                value={entry.colour ?? look?.colour ?? "#b9b2a4"}
                onChange={(e) => onChange({ colour: e.target.value })}
              />
            </Labelled>
          )}
          {drawn && (
            <>
              <Labelled label="Shape">
                <select
                  className={W}
                  value={entry.shape ?? ""}
                  onChange={(e) => onChange({ shape: (e.target.value || null) as KeyEntry["shape"] })}
                >
                  <option value="">by its name</option>
                  {SHAPES.map((s) => (
                    <option key={s}>{s}</option>
                  ))}
                </select>
              </Labelled>
              <Labelled label="Finish">
                <select
                  className={W}
                  value={entry.finish ?? ""}
                  onChange={(e) => onChange({ finish: (e.target.value || null) as KeyEntry["finish"] })}
                >
                  <option value="">usual</option>
                  {FINISHES.map((f) => (
                    <option key={f}>{f}</option>
                  ))}
                </select>
              </Labelled>
              {length("Tall, seen from the front", "heightMm", "by its form")}
              <Labelled label="Holes">
                <NumberField
                  className={W}
                  whole
                  optional
                  min={1}
                  max={20}
                  placeholder="1"
                  value={entry.holes ?? null}
                  onChange={(holes) => onChange({ holes })}
                />
              </Labelled>
            </>
          )}
        </div>
        {drawn && (
          <div className="mt-2 flex flex-col gap-2">
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-4"
                checked={entry.handed ?? false}
                onChange={(e) => onChange({ handed: e.target.checked || null })}
              />{" "}
              one-sided, slanted, or left and right
            </label>
            <Uses
              title={`${key} hangs by`}
              add="Add what it hangs by"
              uses={entry.hangsBy ?? []}
              choices={countedKeys(design).filter((c) => c.key !== key)}
              onChange={(hangsBy) => onChange({ hangsBy: hangsBy.length > 0 ? hangsBy : null })}
            />
          </div>
        )}
      </Fold>
      <span className="flex items-center">
        <IconButton label={`${key} further up`} disabled={at === 0} onClick={() => shift(-1)}>
          <ArrowUp size={16} />
        </IconButton>
        <IconButton label={`${key} further down`} disabled={at === design.key.length - 1} onClick={() => shift(1)}>
          <ArrowDown size={16} />
        </IconButton>
        <Button
          look="quiet"
          className="ml-auto h-8 text-short!"
          onClick={() => editKey((list) => list.filter((_, i) => i !== at))}
        >
          <Trash2 size={15} aria-hidden /> Take {key} out
        </Button>
      </span>
    </div>
  );
}

type LengthKey =
  | "alongMm"
  | "acrossMm"
  | "holeMm"
  | "heightMm"
  | "diameterMm"
  | "lengthMm"
  | "innerMm"
  | "thickMm"
  | "spreadMm"
  | "linkMm"
  | "coilMm";

/** What the checks of fit read beside sizes and holes: only what fits the kind. */
function MeasuresForFit({
  entry,
  length,
  onChange,
}: {
  entry: KeyEntry;
  length: (label: string, field: LengthKey, placeholder?: string) => React.ReactNode;
  onChange: (change: Partial<KeyEntry>, group?: string) => void;
}) {
  const { kind } = entry;
  const number = (label: string, field: "breakKg" | "massG" | "soft", most: number, placeholder?: string) => (
    <Labelled label={label}>
      <NumberField
        aria-label={`${label}, ${entry.key}`}
        className={W}
        optional
        max={most}
        placeholder={placeholder}
        value={entry[field] ?? null}
        onChange={(value) => onChange({ [field]: value || null }, field)}
      />
    </Labelled>
  );
  if (kind === "mix" || kind === "packaging" || kind === "consumable") return null;
  return (
    <div className="mt-2 grid grid-cols-2 items-end gap-2">
      {kind === "stringing" ? (
        <>
          {number("Breaks at, kg", "breakKg", 10_000)}
          {number("Packs to, of its thickness", "soft", 1, "by its form")}
          {entry.linkMm != null && (
            <label className="col-span-2 flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-4"
                checked={entry.twisted ?? false}
                onChange={(e) => onChange({ twisted: e.target.checked || null })}
              />{" "}
              twisted: every second link hangs the same way
            </label>
          )}
        </>
      ) : (
        <>
          {kind === "finding" && length("Length, of a pin or cone", "lengthMm")}
          {kind === "finding" && length("Width inside", "innerMm")}
          {kind === "finding" && length("Thickness of its wire", "diameterMm")}
          {kind === "focal" && length("Thick, where it hangs", "thickMm")}
          {kind === "bead" && length("Spread from bead to bead", "spreadMm", "trade default")}
          {number("One weighs, g", "massG", 100_000)}
        </>
      )}
    </div>
  );
}

/** What no row and no part names: how many of it the item, a kit or a box takes. */
function Beside({ entry: { key } }: { entry: KeyEntry }) {
  const { editDesign, state } = useBenchStore();
  const uses = useBench((b) => b.frame.uses) ?? [];
  const use = uses.find((u) => u.key === key);
  const set = (change: { per?: Per; count?: number } | null) => {
    const now = state.getState().design.uses ?? [];
    const others = now.filter((u) => u.key !== key);
    const own = now.find((u) => u.key === key) ?? { key, count: 1 };
    const next = change === null ? others : use ? now.map((u) => (u.key === key ? { ...u, ...change } : u)) : null;
    const list = next ?? [...others, { ...own, ...change }];
    editDesign({ uses: list.length > 0 ? list : null }, change?.count === undefined ? undefined : `use-${key}`);
  };
  return (
    <div className="flex items-end gap-2">
      <Labelled label="Taken beside rows and parts" className="min-w-0 flex-1">
        <select
          className={W}
          aria-label={`${key}, taken beside rows and parts`}
          value={use ? (use.per ?? "item") : ""}
          onChange={(e) => set(e.target.value === "" ? null : { per: e.target.value as Per })}
        >
          <option value="">not at all</option>
          {Object.entries(PER_WORDS).map(([per, words]) => (
            <option key={per} value={per}>
              {words}
            </option>
          ))}
        </select>
      </Labelled>
      {use && (
        <NumberField
          aria-label={`How many ${key}, ${PER_WORDS[use.per ?? "item"]}`}
          className="field w-16"
          whole
          min={1}
          max={100_000}
          value={use.count}
          onChange={(count) => count !== null && set({ count })}
        />
      )}
    </div>
  );
}

function Members({ entry, onChange }: { entry: KeyEntry; onChange: (change: Partial<KeyEntry>) => void }) {
  const design = useBench((b) => b.frame);
  const mixes = new Set(design.key.filter((e) => e.kind === "mix").map((e) => e.key));
  const list = entry.mix ?? [];
  const members = countedKeys(design).filter((c) => !mixes.has(c.key));
  return (
    <ItemList
      title="Made of"
      add="Add a member"
      items={list}
      empty={
        members.length > 0
          ? (close) => (
              <EmptyMember
                choices={members.filter((c) => !list.some((m) => m.key === c.key))}
                left={Math.max(0, 1 - list.reduce((sum, m) => sum + (m.share ?? 0), 0))}
                onAdd={(member) => {
                  onChange({ mix: [...list, member] });
                  close();
                }}
              />
            )
          : null
      }
      onRemove={(j) => onChange({ mix: list.filter((_, k) => k !== j) })}
    >
      {(member, j) => {
        const set = (change: Partial<typeof member>) =>
          onChange({ mix: list.map((m, k) => (k === j ? { ...m, ...change } : m)) });
        return (
          <>
            {member.count == null ? (
              <NumberField
                aria-label={`Share of ${member.key}, per cent`}
                className="field w-16"
                factor={100}
                min={1e-6}
                max={1000}
                value={member.share ?? null}
                onChange={(share) => set({ share: share! })}
              />
            ) : (
              <NumberField
                aria-label={`How many ${member.key} exactly`}
                className="field w-16"
                whole
                min={1}
                max={100_000}
                value={member.count}
                onChange={(count) => set({ count: count! })}
              />
            )}
            <select
              aria-label={`${member.key}: a share or an exact number`}
              className="field"
              value={member.count == null ? "share" : "count"}
              onChange={(e) =>
                set(e.target.value === "count" ? { share: null, count: 1 } : { share: 0.1, count: null })
              }
            >
              <option value="share">% of</option>
              <option value="count">exactly, of</option>
            </select>
            <KeySelect label="Member" value={member.key} choices={members} onChange={(k) => k && set({ key: k })} />
          </>
        );
      }}
    </ItemList>
  );
}
