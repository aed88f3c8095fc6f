import { wordsOf } from "@jar-count/core/component";
import { FINISHES, type KeyEntry, ROLE_KINDS, SHAPES } from "@jar-count/core/contract";
import { lengthOrigins, type Origin, originsOf } from "@jar-count/core/count";
import { keyFault } from "@jar-count/core/shorthand";
import { useQuery } from "@tanstack/react-query";
import { ArrowDown, ArrowUp, ChevronDown, ChevronRight, Plus, Trash2 } from "lucide-react";
import { Fragment, memo, useCallback, useState } from "react";
import { useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { componentsQuery } from "../../api/queries.ts";
import { Bead, Chip } from "../../ui/Bead.tsx";
import { Choose } from "../../ui/Choose.tsx";
import { Button, IconButton, Labelled } from "../../ui/controls.tsx";
import { checkName, LengthField, NumberField, TextField } from "../../ui/fields.tsx";
import { sayNumber, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { DRAGGED_KEY } from "../../ui/StrandPicture.tsx";
import { useSayOrigin, WhereFrom } from "../../ui/WhereFrom.tsx";
import { countedKeys, ItemList, KeySelect, Uses } from "./Lists.tsx";
import { type BenchState, useBench, useBenchStore } from "./benchStore.ts";
import { freeKey, keysOf } from "./designs.ts";
import { TableHead } from "../../ui/DataTable.tsx";

const ADD: { kind: KeyEntry["kind"]; label: string; fresh: Partial<KeyEntry> }[] = [
  { kind: "bead", label: "Bead", fresh: { alongMm: 4, acrossMm: 4, holeMm: 1 } },
  { kind: "finding", label: "Finding", fresh: {} },
  { kind: "stringing", label: "Stringing", fresh: {} },
  { kind: "mix", label: "Mix", fresh: { mix: [] } },
];

interface RowProps {
  entry: KeyEntry;
  open: boolean;
  onToggle: (id: string) => void;
  /** Puts a bead on the strand. */
  onPut: (key: string) => void;
}

/** How many of an entry each column takes: pieces, or millimetres of what is cut. */
const amountsOf = (entry: KeyEntry) => (b: BenchState) =>
  b.columns.map(({ counting: { answer } }) =>
    entry.kind === "stringing"
      ? (answer.lengthsMm[entry.key] ?? 0)
      : (answer.counts[entry.key] ?? 0) + (answer.perKit[entry.key] ?? 0),
  );

const passesOf = (key: string) => (b: BenchState) =>
  Math.max(0, ...b.columns.flatMap(({ counting }) => counting.answer.parts.map((p) => p.passes[key] ?? 0)));

const KeyRow = memo(function KeyRow({ entry, open, onToggle, onPut }: RowProps) {
  const { set: look, rename, editKey, state } = useBenchStore();
  const amounts = useBench(useShallow(amountsOf(entry)));
  const passes = useBench(passesOf(entry.key));
  const appearance = useBench((b) => b.looks.get(entry.key)!);
  const lit = useBench((b) => b.lit?.key === entry.key);
  const unused = useBench((b) => b.unused.includes(entry.key));
  const id = entry.id ?? entry.key;
  const set = (change: Partial<KeyEntry>, group: string) =>
    editKey((key) => key.map((e) => (e.key === entry.key ? { ...e, ...change } : e)), group);
  const isTaken = (key: string) => keysOf(state.getState().design).has(key);
  return (
    <tr
      onPointerEnter={() => look({ pointed: { key: entry.key } })}
      onPointerLeave={() => look({ pointed: null })}
      className={lit ? "bg-hush" : undefined}
    >
      <td className="w-14">
        <TextField
          aria-label={`Key of ${entry.name}`}
          className="cell-field w-12 bg-hush text-center font-mono font-bold"
          value={entry.key}
          onChange={(key) => rename(entry.key, key)}
          check={(k) => keyFault(k) ?? (k !== entry.key && isTaken(k) ? `${k} is a key already.` : null)}
        />
      </td>
      <td>
        <span className="flex items-center gap-2">
          {entry.kind === "stringing" ? (
            <span className="w-7" />
          ) : (
            <button
              type="button"
              draggable
              aria-label={`Put ${entry.key} on the strand`}
              title="Click, or drag it onto the strand"
              className="grid size-7 shrink-0 cursor-grab place-items-center rounded hover:bg-hush"
              onDragStart={(e) => e.dataTransfer.setData(DRAGGED_KEY, entry.key)}
              onClick={() => onPut(entry.key)}
            >
              {entry.kind === "mix" ? (
                <span aria-hidden className="font-mono text-xs">
                  %
                </span>
              ) : (
                <Bead look={appearance} />
              )}
            </button>
          )}
          <span className="min-w-0 flex-1">
            <TextField
              aria-label={`Name of ${entry.key}`}
              className="cell-field min-w-32"
              value={entry.name}
              check={checkName}
              onChange={(name) => set({ name }, `name-${id}`)}
            />
          </span>
          {unused && <span className="text-xs whitespace-nowrap text-muted">not used</span>}
        </span>
      </td>
      <td className="num">
        {entry.kind !== "stringing" && (
          <LengthField
            always="mm"
            optional
            aria-label={`Along the thread, ${entry.key}`}
            className="cell-field w-16 text-right"
            mm={entry.alongMm ?? null}
            onChange={(alongMm) => set({ alongMm }, `along-${id}`)}
          />
        )}
      </td>
      <td className="num">
        {entry.kind !== "stringing" && entry.kind !== "mix" && (
          <LengthField
            always="mm"
            optional
            aria-label={`Hole of ${entry.key}`}
            className="cell-field w-14 text-right"
            mm={entry.holeMm ?? null}
            onChange={(holeMm) => set({ holeMm }, `hole-${id}`)}
          />
        )}
      </td>
      {amounts.map((n, j) => (
        <td key={j} className="num font-semibold" data-testid={`count-${entry.key}-${j}`}>
          {entry.kind === "mix" ? (
            <span className="font-normal text-muted">shared</span>
          ) : n === 0 ? (
            <span className="font-normal text-muted">0</span>
          ) : (
            <Origins entry={entry} n={n} column={j} />
          )}
        </td>
      ))}
      <td className="num text-muted">{passes || ""}</td>
      <td className="w-8 px-0!">
        <IconButton label={`More about ${entry.key}`} aria-expanded={open} onClick={() => onToggle(id)}>
          {open ? <ChevronDown size={16} /> : <ChevronRight size={16} />}
        </IconButton>
      </td>
    </tr>
  );
});

/** The bead key: every role of the design, its measures, and how many of it each size takes. */
export function BeadKey({ onPut }: { onPut: (key: string) => void }) {
  const [open, setOpen] = useState<string | null>(null);
  const entries = useBench((b) => b.frame.key);
  const labels = useBench(useShallow((b) => b.columns.map((c) => c.label)));
  const toggle = useCallback((id: string) => setOpen((now) => (now === id ? null : id)), []);
  return (
    <section className="px-6 pt-6" aria-label="Bead key">
      <div className="overflow-x-auto">
        <table className="row-table">
          <TableHead
            columns={[
              { head: "Key" },
              { head: "What it is", wide: true },
              { head: "along\u00a0mm", number: true },
              { head: "hole\u00a0mm", number: true },
              ...labels.map((head) => ({ head, number: true })),
              { head: "passes", number: true },
              { head: "More", silent: true },
            ]}
          />
          <tbody>
            {entries.map((entry, i) => {
              const id = entry.id ?? entry.key;
              return (
                <Fragment key={id}>
                  <KeyRow entry={entry} open={open === id} onToggle={toggle} onPut={onPut} />
                  {open === id && (
                    <tr>
                      <td colSpan={6 + labels.length} className="h-auto! border-t-0! pb-4">
                        <Details at={i} />
                      </td>
                    </tr>
                  )}
                </Fragment>
              );
            })}
          </tbody>
        </table>
      </div>
      {entries.length === 0 && (
        <p className="py-3 text-muted">No beads yet. Add the first: its key is what you write in the rows.</p>
      )}
      <KeyTools />
    </section>
  );
}

/** What brings beads into the key; typing rows leaves it as it is. */
function KeyTools() {
  const { state, editKey } = useBenchStore();
  const missing = useBench(useShallow((b) => b.missing.slice(0, 12)));
  const append = (entry: KeyEntry) => editKey((key) => [...key, entry]);
  const free = () => freeKey(keysOf(state.getState().design));
  const [choosing, setChoosing] = useState(false);
  const components = useQuery({ ...componentsQuery, enabled: choosing });
  const addComponent = (id: string) => {
    const c = components.data?.find((x) => x.id === id);
    if (!c) return;
    const shape = SHAPES.find((s) => s === c.form) ?? null;
    append({
      key: free(),
      id: crypto.randomUUID(),
      name: c.name,
      kind: c.kind,
      ...(c.kind === "stringing"
        ? { linkMm: c.linkMm ?? null, coilMm: c.coilMm ?? null }
        : {
            shape,
            colour: c.colour,
            finish: c.finish,
            alongMm: c.alongMm ?? null,
            acrossMm: c.acrossMm ?? null,
            holeMm: c.holeMm ?? null,
          }),
    });
  };
  const add = (kind: KeyEntry["kind"], label: string, fresh: Partial<KeyEntry>) => {
    const key = free();
    append({ key, id: crypto.randomUUID(), name: `${label} ${key}`, kind, ...fresh });
  };
  return (
    <>
      {missing.length > 0 && (
        <p className="flex flex-wrap items-center gap-2 pt-2">
          <Triangle className="text-short" /> In the rows and not in the key:
          {missing.map((k) => (
            <Button
              key={k}
              className="h-7!"
              onClick={() =>
                append({
                  key: k,
                  id: crypto.randomUUID(),
                  name: `Bead ${k}`,
                  kind: "bead",
                  alongMm: 4,
                  acrossMm: 4,
                  holeMm: 1,
                })
              }
            >
              Add <code className="font-mono font-bold">{k}</code>
            </Button>
          ))}
        </p>
      )}
      <div className="mt-2 flex flex-wrap gap-2">
        <Choose
          label="Find a jar"
          open={choosing}
          onOpen={setChoosing}
          onChoose={addComponent}
          choices={(components.data ?? []).map((c) => ({
            id: c.id,
            label: c.name,
            words: wordsOf(c),
            mark: <Chip of={c} />,
            note: c.alongMm ? `${c.alongMm} mm` : "",
          }))}
        >
          <Button>
            <Plus size={15} aria-hidden /> Add from the jars
          </Button>
        </Choose>
        {ADD.map(({ kind, label, fresh }) => (
          <Button key={kind} onClick={() => add(kind, label, fresh)}>
            Add a {label.toLowerCase()}
          </Button>
        ))}
      </div>
    </>
  );
}

/** What a number of the key is made of, each place leading to its rows. */
function Origins({ entry, n, column }: { entry: KeyEntry; n: number; column: number }) {
  const { state, show } = useBenchStore();
  const [, setParams] = useSearchParams();
  const go = ({ part, place }: Origin) => {
    const size = state.getState().sizes[column];
    if (size !== undefined) {
      setParams(
        (before) => {
          before.set("size", size);
          return before;
        },
        { replace: true },
      );
    }
    if (part) show(part.id, entry.key, place);
  };
  const say = useSayQuantity();
  const linear = entry.kind === "stringing";
  const least = useBench((b) => b.columns[column]?.counting.answer.countsLeast[entry.key]);
  const sayOrigin = useSayOrigin(linear);
  const amount = (x: number) => (linear ? say(x, "length") : sayNumber(x));
  const rows = () =>
    (linear ? lengthOrigins : originsOf)(state.getState().columns[column]!.counting, entry.key).map((o, i) => ({
      id: String(i),
      ...sayOrigin(o),
      total: amount(o.total),
      go: o.part ? () => go(o) : undefined,
    }));
  return (
    <WhereFrom label={`Where ${amount(n)} of ${entry.key} come from`} title={entry.name} rows={rows} total={amount(n)}>
      {least !== undefined && (
        <span className="font-normal text-muted" title={`From ${sayNumber(least)} to ${sayNumber(n)}`}>
          {sayNumber(least)}–
        </span>
      )}
      {amount(n)}
    </WhereFrom>
  );
}

/** Everything else about an entry, and where it stands in the key. */
function Details({ at }: { at: number }) {
  const { editKey } = useBenchStore();
  const design = useBench((b) => b.frame);
  const entry = design.key[at]!;
  const onChange = (change: Partial<KeyEntry>) =>
    editKey((key) => key.map((e, i) => (i === at ? { ...e, ...change } : e)));
  const onRemove = () => editKey((key) => key.filter((_, i) => i !== at));
  const shift = (by: number) =>
    editKey((key) => {
      const list = [...key];
      const [moved] = list.splice(at, 1);
      list.splice(at + by, 0, moved!);
      return list;
    });
  const onUp = at > 0 ? () => shift(-1) : null;
  const onDown = at < design.key.length - 1 ? () => shift(1) : null;
  const { kind } = entry;
  const drawn = kind !== "stringing" && kind !== "mix";
  const mixes = new Set(design.key.filter((e) => e.kind === "mix").map((e) => e.key));
  const members = countedKeys(design).filter((c) => !mixes.has(c.key));
  return (
    <div className="flex flex-wrap items-start gap-x-4 gap-y-3 rounded-md bg-hush p-3">
      <Labelled label="Kind">
        <select className="field" value={kind} onChange={(e) => onChange({ kind: e.target.value as KeyEntry["kind"] })}>
          {ROLE_KINDS.map((k) => (
            <option key={k}>{k}</option>
          ))}
        </select>
      </Labelled>
      {drawn && (
        <>
          <Labelled label="Shape">
            <select
              className="field"
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
              className="field"
              value={entry.finish ?? ""}
              onChange={(e) => onChange({ finish: (e.target.value || null) as KeyEntry["finish"] })}
            >
              <option value="">usual</option>
              {FINISHES.map((f) => (
                <option key={f}>{f}</option>
              ))}
            </select>
          </Labelled>
          <Labelled label="Colour">
            <input
              type="color"
              className="field w-14 p-1"
              value={entry.colour ?? "#9a9a9a"}
              onChange={(e) => onChange({ colour: e.target.value })}
            />
          </Labelled>
          <Labelled label="Across, mm">
            <LengthField
              always="mm"
              optional
              className="field w-20"
              mm={entry.acrossMm ?? null}
              onChange={(acrossMm) => onChange({ acrossMm })}
            />
          </Labelled>
          <Labelled label="Tall, mm">
            <LengthField
              always="mm"
              optional
              placeholder="by its form"
              className="field w-24"
              mm={entry.heightMm ?? null}
              onChange={(heightMm) => onChange({ heightMm })}
            />
          </Labelled>
          <Labelled label="Holes">
            <NumberField
              className="field w-16"
              whole
              optional
              min={1}
              max={20}
              placeholder="1"
              value={entry.holes ?? null}
              onChange={(holes) => onChange({ holes })}
            />
          </Labelled>
          <label className="flex items-center gap-1.5 pt-6">
            <input
              type="checkbox"
              className="size-4"
              checked={entry.handed ?? false}
              onChange={(e) => onChange({ handed: e.target.checked || null })}
            />{" "}
            one-sided, slanted or left and right
          </label>
          <Uses
            title="It hangs by"
            add="Add what it hangs by"
            uses={entry.hangsBy ?? []}
            choices={countedKeys(design).filter((c) => c.key !== entry.key)}
            onChange={(hangsBy) => onChange({ hangsBy: hangsBy.length > 0 ? hangsBy : null })}
          />
        </>
      )}
      {kind === "stringing" && (
        <>
          <Labelled label="Chain: a link, mm">
            <LengthField
              always="mm"
              optional
              placeholder="no chain"
              className="field w-24"
              mm={entry.linkMm ?? null}
              onChange={(linkMm) => onChange({ linkMm })}
            />
          </Labelled>
          <Labelled label="Links lost a cut">
            <NumberField
              optional
              whole
              max={100}
              className="field w-24"
              value={entry.lossLinks ?? null}
              onChange={(lossLinks) => onChange({ lossLinks })}
            />
          </Labelled>
          <Labelled label="Memory wire: a coil, mm">
            <LengthField
              always="mm"
              optional
              placeholder="no coils"
              className="field w-28"
              mm={entry.coilMm ?? null}
              onChange={(coilMm) => onChange({ coilMm })}
            />
          </Labelled>
        </>
      )}
      {kind === "mix" && (
        <ItemList
          title="Made of"
          add="Add a member"
          items={entry.mix ?? []}
          onAdd={
            members.length > 0
              ? () => onChange({ mix: [...(entry.mix ?? []), { key: members[0]!.key, share: 0.1 }] })
              : null
          }
          onRemove={(j) => onChange({ mix: entry.mix!.filter((_, k) => k !== j) })}
        >
          {(member, j) => {
            const set = (change: Partial<typeof member>) =>
              onChange({ mix: entry.mix!.map((m, k) => (k === j ? { ...m, ...change } : m)) });
            return (
              <>
                {member.count == null ? (
                  <NumberField
                    aria-label={`Share of ${member.key}, per cent`}
                    className="field w-20"
                    factor={100}
                    min={1e-6}
                    max={1000}
                    value={member.share ?? null}
                    onChange={(share) => set({ share: share! })}
                  />
                ) : (
                  <NumberField
                    aria-label={`How many ${member.key} exactly`}
                    className="field w-20"
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
                <KeySelect
                  label="Member"
                  value={member.key}
                  choices={members}
                  onChange={(key) => key && set({ key })}
                />
              </>
            );
          }}
        </ItemList>
      )}
      <span className="ml-auto flex items-center self-end">
        <IconButton label={`${entry.key} further up`} disabled={!onUp} onClick={onUp ?? undefined}>
          <ArrowUp size={16} />
        </IconButton>
        <IconButton label={`${entry.key} further down`} disabled={!onDown} onClick={onDown ?? undefined}>
          <ArrowDown size={16} />
        </IconButton>
      </span>
      <Button look="quiet" className="self-end text-short" onClick={onRemove}>
        <Trash2 size={15} aria-hidden /> Take {entry.key} out
      </Button>
    </div>
  );
}
