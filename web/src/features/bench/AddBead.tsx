import { agrees, assumedAlong, type Said, understand, wordsOf } from "@jar-count/core/component";
import { type Component, type KeyEntry, SHAPES } from "@jar-count/core/contract";
import { type LengthUnit, sayNear } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Command } from "cmdk";
import { Plus } from "lucide-react";
import { Popover } from "radix-ui";
import { useMemo, useRef, useState } from "react";
import { componentsQuery } from "../../api/queries.ts";
import { Chip } from "../../ui/Bead.tsx";
import { useSettings } from "../../settings/index.ts";
import { useSayQuantity } from "../../ui/marks.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";

type Entry = Omit<KeyEntry, "key" | "id">;

/** A line of the key that stands for a component of the jars. */
function entryOfComponent(c: Component): Entry {
  const form = c.form == null ? {} : { form: c.form };
  if (c.kind === "stringing")
    return {
      name: c.name,
      component: c.id,
      kind: c.kind,
      ...form,
      colour: c.colour,
      linkMm: c.linkMm ?? null,
      coilMm: c.coilMm ?? null,
      diameterMm: c.diameterMm ?? null,
    };
  return {
    name: c.name,
    component: c.id,
    kind: c.kind,
    ...form,
    shape: SHAPES.find((s) => s === c.form) ?? null,
    colour: c.colour,
    finish: c.finish,
    alongMm: c.alongMm ?? null,
    acrossMm: c.acrossMm ?? null,
    holeMm: c.holeMm ?? null,
    lengthMm: c.lengthMm ?? null,
  };
}

/** A line of the key as its few words were understood; nothing in it that they don't say. */
function entryOfWords(said: Said): Entry {
  const { name, kind, form, shape, colour, finish, size: _s, transparency: _t, metal: _m, material: _u, ...mm } = said;
  const measures = Object.fromEntries(Object.entries(mm).filter(([, n]) => n !== null));
  return {
    name,
    kind,
    ...(form === null ? {} : { form }),
    ...(shape === null ? {} : { shape }),
    ...(colour === null ? {} : { colour }),
    ...(finish === null || kind === "stringing" ? {} : { finish }),
    ...measures,
  };
}

const MOST = 6;

/**
 * One field for everything that goes into the key: what is in the jars is offered first, else the words themselves
 * make a new line. Enter adds it and waits for the next.
 */
export function AddBead() {
  const { addEntry } = useBenchStore();
  const isEmpty = useBench((b) => b.design.key.length === 0);
  const unit = useSettings((s) => s.unit);
  const [words, setWords] = useState("");
  const [open, setOpen] = useState(false);
  const [chosen, setChosen] = useState("");
  const [added, setAdded] = useState("");
  const field = useRef<HTMLInputElement>(null);
  /** Whether somebody moved in the list: until then its first line is the one that Enter takes. */
  const moved = useRef(false);
  const components = useQuery({ ...componentsQuery, enabled: open || words !== "" });
  const said = useMemo(() => understand(words), [words]);
  const found = useMemo(() => {
    const terms = said.name
      .toLowerCase()
      .split(/[\s,]+/)
      .filter(Boolean);
    if (terms.length === 0) return [];
    const list = (components.data ?? []).filter((c) => {
      if (c.away) return false;
      const text = wordsOf(c);
      return terms.every((t) => text.includes(t));
    });
    // What is what the words say stands first, and is what Enter takes; else Enter makes what was said.
    const isMeant = new Map(list.map((c) => [c, agrees(said, c)]));
    return list.sort((a, b) => Number(isMeant.get(b)) - Number(isMeant.get(a))).slice(0, MOST);
  }, [components.data, said]);
  const add = (entry: Entry) => {
    const key = addEntry(entry);
    setAdded(`${key}: ${entry.name} added.`);
    setWords("");
    setOpen(false);
    field.current?.focus();
  };
  const first = found[0] && agrees(said, found[0]) ? found[0].id : "new";
  const isMix = /^mix\b/i.test(words.trim());
  return (
    <Command
      shouldFilter={false}
      label="Add to the bead key"
      value={chosen || first}
      onValueChange={(value) => moved.current && setChosen(value)}
      className="pt-2"
    >
      {/* The field names its list, so there is always one. */}
      {!(open && words.trim() !== "") && <Command.List hidden />}
      <Popover.Root open={open && words.trim() !== ""} onOpenChange={setOpen}>
        <Popover.Anchor asChild>
          <span className="relative block">
            <Plus size={15} aria-hidden className="absolute top-2 left-2 text-muted" />
            <Command.Input
              ref={field}
              value={words}
              aria-label="Add to the bead key"
              placeholder="Add: 6 mm red round, head pin 40 …"
              maxLength={200}
              className="field w-full pl-7!"
              onValueChange={(text) => {
                setWords(text);
                setChosen("");
                moved.current = false;
                setOpen(true);
              }}
              onKeyDown={(e) => {
                if (/^Arrow(Up|Down)$/.test(e.key)) moved.current = true;
                if (e.key === "Escape") setWords("");
                if (e.key === "Enter" && !open && words.trim() !== "") setOpen(true);
              }}
            />
          </span>
        </Popover.Anchor>
        <Popover.Portal>
          <Popover.Content
            align="end"
            sideOffset={2}
            collisionPadding={8}
            onOpenAutoFocus={(e) => e.preventDefault()}
            onInteractOutside={(e) => e.target === field.current && e.preventDefault()}
            className="z-50 w-[22rem] max-w-[94vw] rounded-md border border-edge bg-paper p-1 shadow-lg"
          >
            <Command.List className="max-h-80 overflow-y-auto" onPointerMove={() => void (moved.current = true)}>
              {found.map((c) => (
                <Command.Item key={c.id} value={c.id} className={ITEM} onSelect={() => add(entryOfComponent(c))}>
                  <Chip of={c} />
                  <span className="min-w-0 flex-1 truncate">{c.name}</span>
                  <OnHand c={c} />
                </Command.Item>
              ))}
              <Command.Item
                value="new"
                className={ITEM}
                onSelect={() =>
                  add(isMix ? { name: words.trim(), kind: "mix", mix: [] } : entryOfWords(understand(words)))
                }
              >
                {isMix ? <span className="w-5 text-center font-mono">%</span> : <Chip of={chipOf(said)} />}
                <span className="min-w-0 flex-1">
                  <span className="block truncate">{said.name}</span>
                  <span className="block text-xs text-muted">
                    {found.length > 0 ? "not from the jars: " : ""}
                    {isMix ? "a mix of others of the key" : describe(said, unit)}
                  </span>
                </span>
              </Command.Item>
            </Command.List>
          </Popover.Content>
        </Popover.Portal>
      </Popover.Root>
      <p role="status" className="h-4 pt-0.5 text-xs text-muted">
        {added || (isEmpty ? "Say it as you would: size, colour, form." : "")}
      </p>
    </Command>
  );
}

const ITEM = "flex cursor-pointer items-center gap-2 rounded px-2 py-1.5 data-[selected=true]:bg-hush";

const chipOf = (said: Said) => ({ ...said, kind: said.kind, name: said.name });

function OnHand({ c }: { c: Component }) {
  const say = useSayQuantity();
  return <span className="text-xs whitespace-nowrap text-muted">{say(c.onHand, c.baseUnit)} on hand</span>;
}

/** How a few words were understood, to be seen before they are taken: `round bead, 6 mm along`. */
function describe(said: Said, unit: LengthUnit): string {
  const mm = (n: number | null, what: string) => (n === null ? [] : [`${sayNear(n, unit)} ${unit} ${what}`]);
  const what = said.shape !== null && said.kind === "bead" ? `${said.shape} bead` : (said.form ?? said.kind);
  return [
    what,
    ...mm(said.alongMm, assumedAlong(said.name) === null ? "along" : "along (assumed: measure it)"),
    ...mm(said.acrossMm, "across"),
    ...mm(said.lengthMm, "long"),
    ...mm(said.diameterMm, "thick"),
    ...mm(said.linkMm, "a link"),
    ...mm(said.coilMm, "a coil"),
  ].join(", ");
}
