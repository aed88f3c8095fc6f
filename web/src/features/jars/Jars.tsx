import {
  colourWord,
  freeOf,
  isLow,
  isShort,
  SEARCH_NUMBERS,
  SEARCH_STATES,
  searchOf,
  wordsOf,
} from "@jar-count/core/component";
import type { Component } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { BookmarkPlus, FileInput, Plus, Tag, X } from "lucide-react";
import { memo, useCallback, useDeferredValue, useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { componentsQuery, stockChanged } from "../../api/queries.ts";
import { refusalOf } from "../../api/refusal.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, Fault, IconButton } from "../../ui/controls.tsx";
import { usePlanned } from "../../ui/planned.ts";
import { CountMark, JarGauge, sayNumber, Short, useSayQuantity } from "../../ui/marks.tsx";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { useWindowRows } from "../../ui/windowRows.ts";
import { changeMany, type ManyChanges, type Undo } from "./changeMany.ts";
import { LabelDialog } from "./LabelDialog.tsx";
import { ManyDialog } from "./ManyDialog.tsx";

/** Searches that this person keeps by a name, in this browser. */
const useViews = create<{
  views: { name: string; search: string }[];
  keep: (name: string, search: string) => void;
  drop: (name: string) => void;
}>()(
  persist(
    (set) => ({
      views: [],
      keep: (name, search) => set((s) => ({ views: [...s.views.filter((v) => v.name !== name), { name, search }] })),
      drop: (name) => set((s) => ({ views: s.views.filter((v) => v.name !== name) })),
    }),
    { name: "jar-count/views" },
  ),
);

const FIND_HINT =
  `Words of name, code, colour, size, kind. Numbers: ${SEARCH_NUMBERS.join(", ")} with < or >. ` +
  `States: ${SEARCH_STATES.join(", ")}. Arrow down goes to the list.`;

/** Everything on the shelf, found as fast as typing. */
export function Jars() {
  const components = useQuery(componentsQuery);
  if (!components.data)
    return <Waiting error={components.error} what="the jars" retry={() => void components.refetch()} />;
  return <Shelf all={components.data} />;
}

function Shelf({ all }: { all: readonly Component[] }) {
  const [search, setSearch] = useState("");
  const [labelling, setLabelling] = useState(false);
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  const { views, keep, drop } = useViews();
  const words = useMemo(() => new Map(all.map((c) => [c, wordsOf(c)])), [all]);
  const found = useMemo(() => {
    const fits = searchOf(search);
    // What is put away is found when it is asked for.
    const away = /(^|\s)away(\s|$)/.test(search);
    return all.filter((c) => (away || !c.away) && fits(c, words.get(c)!));
  }, [all, words, search]);
  // The rows first; what is counted beside them may come a moment later.
  const facets = useDeferredValue({ found, search });
  const add = useCallback(
    (term: string) =>
      setSearch((s) =>
        s.split(/\s+/).includes(term)
          ? s
              .split(/\s+/)
              .filter((t) => t !== term)
              .join(" ")
          : `${s} ${term}`.trim(),
      ),
    [],
  );
  const short = useMemo(() => all.filter(isShort).length, [all]);
  const low = useMemo(() => all.filter(isLow).length, [all]);
  return (
    <Page title="Jars">
      <PageHead
        title="Jars"
        about={
          <span role="status">
            {found.length === all.length
              ? `${sayNumber(all.length)} components`
              : `${sayNumber(found.length)} of ${sayNumber(all.length)}`}
            {short > 0 && (
              <>
                {" "}
                ·{" "}
                <button type="button" className="link" onClick={() => setSearch("short")}>
                  {short} short
                </button>
              </>
            )}
            {low > 0 && (
              <>
                {" "}
                ·{" "}
                <button type="button" className="link" onClick={() => setSearch("low")}>
                  {low} to order again
                </button>
              </>
            )}
          </span>
        }
        actions={
          <>
            <div className="flex flex-wrap items-center gap-2">
              <ButtonLink to="/tables">
                <FileInput size={16} aria-hidden /> Tables in and out
              </ButtonLink>
              <Button disabled={found.length === 0} onClick={() => setLabelling(true)}>
                <Tag size={16} aria-hidden /> Labels
              </Button>
              <ButtonLink look="main" to="/jars/new">
                <Plus size={16} aria-hidden /> Add a component
              </ButtonLink>
            </div>
          </>
        }
      />
      {all.length === 0 ? (
        <Empty
          title="No jars yet"
          action={
            <span className="flex justify-center gap-2">
              <ButtonLink look="main" to="/jars/new">
                Add the first component
              </ButtonLink>
              <ButtonLink to="/tables/components">Bring in a table</ButtonLink>
            </span>
          }
        >
          Every bead, finding, wire and bag that goes into a box has its own jar here: what it is, what a pack costs,
          how much is on hand and how sure that is.
        </Empty>
      ) : (
        <>
          <div className="px-6 pb-2">
            <div className="flex gap-2">
              <input
                type="search"
                className="field h-9! min-w-0 flex-1"
                aria-label="Find a component"
                aria-describedby="find-hint"
                placeholder="honey 11/0, hole>0.9, free<100, short"
                value={search}
                onChange={(e) => setSearch(e.target.value)}
                onKeyDown={(e) =>
                  e.key === "ArrowDown" &&
                  (e.preventDefault(), document.querySelector<HTMLElement>("[data-jar]")?.focus())
                }
              />
              <IconButton
                label="Keep this search"
                disabled={search.trim() === "" || views.some((v) => v.search === search.trim())}
                onClick={() => keep(search.trim().slice(0, 60), search.trim())}
              >
                <BookmarkPlus size={17} />
              </IconButton>
            </div>
            <p id="find-hint" className="sr-only">
              {FIND_HINT}
            </p>
            <Facets found={facets.found} search={facets.search} onAdd={add} />
            {views.length > 0 && (
              <p className="flex flex-wrap items-center gap-1 pt-1 text-sm">
                <span className="mr-1 text-xs text-muted">Kept</span>
                {views.map((v) => (
                  <span key={v.name} className="inline-flex items-center">
                    <button type="button" className="link" onClick={() => setSearch(v.search)}>
                      {v.name}
                    </button>
                    <button
                      type="button"
                      aria-label={`Forget ${v.name}`}
                      className="grid size-6 place-items-center text-muted hover:text-ink"
                      onClick={() => drop(v.name)}
                    >
                      <X size={12} />
                    </button>
                  </span>
                ))}
              </p>
            )}
          </div>
          <Many all={all} found={found} chosen={chosen} onChoose={setChosen} />
          {found.length === 0 ? (
            <p className="px-6 py-3 text-muted">
              Nothing fits that. Try fewer words, or{" "}
              <button type="button" className="link" onClick={() => setSearch("")}>
                show everything
              </button>
              .
            </p>
          ) : (
            <Rows list={found} chosen={chosen} onChoose={setChosen} />
          )}
        </>
      )}
      {labelling && <LabelDialog components={found} onClose={() => setLabelling(false)} />}
    </Page>
  );
}

/** What is found, counted by kind, colour and state: each a word to add to the search. */
const Facets = memo(function Facets({
  found,
  search,
  onAdd,
}: {
  found: readonly Component[];
  search: string;
  onAdd: (term: string) => void;
}) {
  const facets = useMemo(() => {
    const count = (of: (c: Component) => string | null | undefined) => {
      const n = new Map<string, number>();
      for (const c of found) {
        const key = of(c);
        if (key) n.set(key, (n.get(key) ?? 0) + 1);
      }
      return [...n].sort((a, b) => b[1] - a[1]);
    };
    return [
      ["Kind", count((c) => c.kind).slice(0, 6)],
      ["Form", count((c) => (c.form && !c.form.includes(" ") ? c.form : null)).slice(0, 8)],
      ["Size", count((c) => (c.size && !c.size.includes(" ") ? c.size : null)).slice(0, 5)],
      ["Colour", count((c) => (c.kind === "bead" || c.kind === "focal" ? colourWord(c.colour) : null)).slice(0, 8)],
    ] as const;
  }, [found]);
  const terms = search.toLowerCase().split(/\s+/);
  return (
    <div className="hidden flex-wrap gap-x-5 gap-y-1 pt-2 sm:flex">
      {facets.map(([title, list]) =>
        list.length < 2 && !list.some(([word]) => terms.includes(word)) ? null : (
          <div key={title} role="group" aria-label={title} className="flex flex-wrap items-center gap-1">
            <span className="text-xs text-muted">{title}</span>
            {list.map(([word, n]) => (
              <button
                key={word}
                type="button"
                aria-pressed={terms.includes(word)}
                onClick={() => onAdd(word)}
                className={`h-6 rounded px-1.5 text-xs ${
                  terms.includes(word) ? "bg-ink text-paper" : "bg-hush hover:bg-rule"
                }`}
              >
                {word} <span className={terms.includes(word) ? "" : "text-muted"}>{n}</span>
              </button>
            ))}
          </div>
        ),
      )}
    </div>
  );
});

interface Choosing {
  chosen: ReadonlySet<string>;
  onChoose: (chosen: ReadonlySet<string>) => void;
}

/** What can be done with several at once: what was done stands here until something else is, with its way back. */
function Many({ all, found, chosen, onChoose }: { all: readonly Component[]; found: readonly Component[] } & Choosing) {
  const person = useSettings((s) => s.person);
  const [asking, setAsking] = useState(false);
  const [done, setDone] = useState<{ said: string; undo: Undo | null } | null>(null);
  const [fault, setFault] = useState<string | null>(null);
  const [busy, setBusy] = useState(false);
  const list = useMemo(() => all.filter((c) => chosen.has(c.id)), [all, chosen]);
  const run = async (work: () => Promise<{ said: string; undo: Undo | null }>) => {
    setBusy(true);
    setFault(null);
    setDone(null);
    try {
      setDone(await work());
    } catch (error) {
      setFault(refusalOf(error)?.detail ?? (error as Error).message);
    } finally {
      await stockChanged();
      setBusy(false);
    }
  };
  const set = (changes: ManyChanges) => {
    setAsking(false);
    void run(() => changeMany(list, changes, person));
  };
  const areAll = found.length > 0 && found.every((c) => chosen.has(c.id));
  const allAway = list.length > 0 && list.every((c) => c.away);
  return (
    <div className="flex min-h-9 flex-wrap items-center gap-x-4 gap-y-1 px-6 pb-1">
      <label className="flex items-center gap-2">
        <input
          type="checkbox"
          className="size-4"
          checked={areAll}
          ref={(box) => {
            if (box) box.indeterminate = !areAll && list.length > 0;
          }}
          onChange={() => onChoose(areAll ? new Set() : new Set([...chosen, ...found.map((c) => c.id)]))}
        />
        {list.length === 0 ? "Choose all" : `${sayNumber(list.length)} chosen`}
      </label>
      {list.length > 0 && (
        <>
          <Button className="h-8!" disabled={busy} onClick={() => setAsking(true)}>
            Change …
          </Button>
          <Button className="h-8!" disabled={busy} onClick={() => set({ away: !allAway })}>
            {allAway ? "Take out again" : "Put away"}
          </Button>
          <button type="button" className="link min-h-6" onClick={() => onChoose(new Set())}>
            choose none
          </button>
        </>
      )}
      {done && (
        <span role="status">
          <span className="inline-block first-letter:uppercase">{done.said}.</span>{" "}
          {done.undo && (
            <button
              type="button"
              className="link min-h-6 font-medium"
              disabled={busy}
              onClick={() =>
                void run(async () => {
                  await done.undo!();
                  return { said: "as it was before", undo: null };
                })
              }
            >
              Undo
            </button>
          )}
        </span>
      )}
      {fault && <Fault>{fault}</Fault>}
      {asking && <ManyDialog list={list} onSet={set} onClose={() => setAsking(false)} />}
    </div>
  );
}

const ROW = 40;

function Rows({ list, chosen, onChoose }: { list: Component[] } & Choosing) {
  const { frame, virtual, topOf } = useWindowRows<HTMLDivElement>({
    count: list.length,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const say = useSayQuantity();
  const planned = usePlanned();
  const navigate = useNavigate();
  const [at, setAt] = useState(0);
  const go = (e: React.KeyboardEvent, index: number) => {
    const to = {
      ArrowDown: index + 1,
      ArrowUp: index - 1,
      PageDown: index + 10,
      PageUp: index - 10,
      Home: 0,
      End: list.length - 1,
    }[e.key];
    if (e.key === "c") return void navigate(`/jars/${list[index]!.id}/count`);
    if (to === undefined) return;
    e.preventDefault();
    const next = Math.max(0, Math.min(list.length - 1, to));
    setAt(next);
    virtual.scrollToIndex(next);
    requestAnimationFrame(() => frame.current?.querySelector<HTMLElement>(`[data-jar="${next}"]`)?.focus());
  };
  return (
    <div role="table" aria-label="Components" aria-rowcount={list.length + 1} className="px-6">
      <div role="row" aria-rowindex={1} className={`${COLUMNS} pb-1.5 text-xs text-muted`}>
        <span role="columnheader">
          <span className="sr-only">Chosen</span>
        </span>
        <span role="columnheader">Component</span>
        <span role="columnheader" className="hidden sm:block">
          Code
        </span>
        <span role="columnheader" className="text-right">
          free
        </span>
        <span role="columnheader">
          <span className="sr-only">Level</span>
        </span>
        <span role="columnheader" className="hidden text-right lg:block">
          on hand
        </span>
        <span role="columnheader" className="hidden text-right lg:block">
          spoken for
        </span>
        <span
          role="columnheader"
          className="hidden text-right lg:block"
          title="What boxes would take that are not committed"
        >
          planned
        </span>
        <span role="columnheader" className="hidden text-right lg:block">
          on the way
        </span>
      </div>
      <div ref={frame} role="rowgroup" style={{ height: virtual.getTotalSize() }} className="relative">
        {virtual.getVirtualItems().map((item) => {
          const { index } = item;
          const c = list[index]!;
          const free = freeOf(c);
          return (
            <div
              key={c.id}
              role="row"
              aria-rowindex={index + 2}
              className={`${COLUMNS} absolute inset-x-0 border-t border-rule hover:bg-hush`}
              style={{ height: ROW, top: topOf(item) }}
            >
              <span role="cell">
                <input
                  type="checkbox"
                  className="block size-4"
                  aria-label={`Choose ${c.name}`}
                  checked={chosen.has(c.id)}
                  onChange={() => {
                    const next = new Set(chosen);
                    if (!next.delete(c.id)) next.add(c.id);
                    onChoose(next);
                  }}
                />
              </span>
              <span role="cell" className="flex min-w-0 items-center gap-2">
                <span className="grid w-6 shrink-0 place-items-center">
                  <Chip of={c} />
                </span>
                <Link
                  to={`/jars/${c.id}`}
                  data-jar={index}
                  tabIndex={index === Math.min(at, list.length - 1) ? 0 : -1}
                  onFocus={() => setAt(index)}
                  onKeyDown={(e) => go(e, index)}
                  className="truncate font-medium hover:underline"
                  title={c.name}
                >
                  {c.name}
                </Link>
              </span>
              <span role="cell" className="hidden truncate font-mono text-sm text-muted sm:block" title={c.code}>
                {c.code}
              </span>
              <span role="cell" className="text-right">
                {free < 0 ? <Short>{say(-free, c.baseUnit)}</Short> : <CountMark n={free} u={c.u} of={c.baseUnit} />}
              </span>
              <span role="cell" className="text-right">
                <JarGauge stock={c} planned={planned.of(c.id)} />
                {isLow(c) && <span className="sr-only">to order again</span>}
              </span>
              <span role="cell" className="hidden text-right whitespace-nowrap text-muted lg:block">
                {say(c.onHand, c.baseUnit)}
              </span>
              <span role="cell" className="hidden text-right whitespace-nowrap text-muted lg:block">
                {c.spokenFor > 0 ? say(c.spokenFor, c.baseUnit) : ""}
              </span>
              <span role="cell" className="hidden text-right whitespace-nowrap text-muted lg:block">
                {planned.of(c.id) > 0 ? say(planned.of(c.id), c.baseUnit) : ""}
              </span>
              <span role="cell" className="hidden text-right whitespace-nowrap text-muted lg:block">
                {c.onTheWay > 0 ? say(c.onTheWay, c.baseUnit) : ""}
              </span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

const COLUMNS =
  "grid items-center gap-3 grid-cols-[20px_minmax(0,1fr)_96px_28px] " +
  "sm:grid-cols-[20px_minmax(0,1fr)_100px_120px_28px] " +
  "lg:grid-cols-[20px_minmax(0,1fr)_96px_130px_28px_88px_88px_88px_88px]";
