import { packByOf, sharingNow } from "@jar-count/core/ahead";
import { makeable, type Makeable, totalsOf } from "@jar-count/core/bom";
import type { BoxDetail, Component, DesignSummary, Run } from "@jar-count/core/contract";
import type { Terms } from "@jar-count/core/price";
import { useQuery } from "@tanstack/react-query";
import { Check } from "lucide-react";
import { useEffect, useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import {
  boxQuery,
  componentsQuery,
  designsQuery,
  moneyQuery,
  postageQuery,
  sharesQuery,
  workshopQuery,
} from "../../api/queries.ts";
import { DraftNotices, SaveState, UndoButtons } from "../../draft/index.ts";
import { later } from "../../ui/later.tsx";
import { isPostageSimulated } from "../../ui/costWords.ts";
import { sayNumber } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { monthName, sayDay } from "../../ui/month.ts";
import { Leading, Page, PageHead, Problems, type Said, TallyHead, TallyRow, TallyRule } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import {
  BoxContext,
  boxesOf,
  type BoxWork,
  holdsSomething,
  makeBoxStore,
  saveByItself,
  useBox,
  useBoxStore,
} from "./boxStore.ts";
import { CommitButtons, loadCommitting, RunNotice, StateMark, useRun } from "./Commit.tsx";
import { CountsStage } from "./CountsStage.tsx";
import { useSayShortage } from "./shared.tsx";
import { ThemeStage } from "./ThemeStage.tsx";

// The stages with a search in them come when they are opened.
const ColoursStage = later(async () => (await import("./ColoursStage.tsx")).ColoursStage);
const DesignsStage = later(async () => (await import("./DesignsStage.tsx")).DesignsStage);

const MoneyStage = later(async () => (await import("./money/MoneyStage.tsx")).MoneyStage);
const ListsStage = later(async () => (await import("./ListsStage.tsx")).ListsStage);
const PackStage = later(async () => (await import("./PackStage.tsx")).PackStage);

const STAGES = [
  { key: "theme", name: "Theme", stage: ThemeStage },
  { key: "designs", name: "Contents", stage: DesignsStage },
  { key: "colours", name: "Colours", stage: ColoursStage },
  { key: "counts", name: "Counts", stage: CountsStage },
  { key: "cost", name: "Money", stage: MoneyStage },
  { key: "lists", name: "Lists", stage: ListsStage },
  { key: "pack", name: "Pack", stage: PackStage },
] as const;
type StageKey = (typeof STAGES)[number]["key"];

export function BoxPage() {
  const { id } = useParams() as { id: string };
  const found = useQuery(boxQuery(id));
  const library = useQuery(designsQuery);
  const components = useQuery(componentsQuery);
  // What others take is known before the first number is told: what is short without it is something else.
  const shares = useQuery(sharesQuery(id));
  if (!found.data || !library.data || !components.data || (!shares.data && !shares.error)) {
    const failed = [found, library, components].find((q) => q.error);
    return <Waiting error={failed?.error ?? null} what="the box" retry={() => void failed?.refetch()} />;
  }
  return <BoxOf key={id} found={found.data} library={library.data} components={components.data} />;
}

interface Found {
  found: BoxDetail;
  library: DesignSummary[];
  components: Component[];
}

function BoxOf({ found, library, components }: Found) {
  // Made once: the page is keyed by the box's id, and later states of the same box are followed.
  const shares = useQuery(sharesQuery(found.box.id)).data;
  const [store] = useState(() => {
    const made = makeBoxStore(found, library, components);
    if (shares) made.share(shares);
    return made;
  });
  useEffect(() => store.follow(found, library, components), [store, found, library, components]);
  useEffect(() => saveByItself(store.draft), [store]);
  // Fetched before it is asked for: what commits a box must not wait for a connection.
  useEffect(() => void loadCommitting(), []);
  const terms = useTerms();
  useEffect(() => {
    if (terms) store.reckon(terms);
  }, [store, terms]);
  useEffect(() => shares && store.share(shares), [store, shares]);
  return (
    <BoxContext value={store}>
      <BoxFrame />
    </BoxContext>
  );
}

/** What costs go by; null until all of it is here, so that no cost is told without its postage. */
function useTerms(): Terms | null {
  const currency = useQuery(workshopQuery).data?.currency;
  const money = useQuery(moneyQuery).data;
  const bands = useQuery(postageQuery).data?.bands;
  return useMemo(() => (currency && money && bands ? { currency, money, bands } : null), [currency, money, bands]);
}

/** What every stage stands in: title, path of the stages, tally. */
function BoxFrame() {
  const { draft } = useBoxStore();
  const { stage: asked } = useParams();
  const { id, theme, month } = useBox(useShallow(({ box }) => ({ id: box.id, theme: box.theme, month: box.month })));
  const run = useRun();
  const marks = { ...useBox(useShallow(marksOf)), pack: packMark(run) };
  const firm = run !== undefined && run.state !== "planned";
  const current =
    STAGES.find((s) => s.key === asked) ??
    STAGES.find((s) => s.key !== "pack" && marks[s.key] !== "done") ??
    STAGES.find((s) => s.key === (firm ? "pack" : "counts"))!;
  const Stage = current.stage;
  return (
    <Page title={`${theme}, ${monthName(month, true)}`} tally={<BoxTally />}>
      <PageHead
        title={theme}
        about={<BoxAbout />}
        actions={
          <>
            <UndoButtons draft={draft} />
            <CommitButtons />
          </>
        }
      />
      <nav
        aria-label="Stages of the box"
        className="no-print mx-6 flex flex-wrap items-stretch gap-x-4 border-b border-rule xl:gap-x-7"
      >
        {STAGES.map((s) => {
          const here = s.key === current.key;
          const look = here ? "border-action font-semibold" : "border-transparent text-muted hover:text-ink";
          return (
            <Link
              key={s.key}
              to={`/months/${id}/${s.key}`}
              aria-current={here ? "page" : undefined}
              className={`flex h-11 items-center gap-1.5 border-b-2 whitespace-nowrap md:h-12 md:gap-2 ${look}`}
            >
              <StageMark mark={marks[s.key]} /> {s.name}
            </Link>
          );
        })}
      </nav>
      <DraftNotices store={draft} what="box" />
      <RunNotice />
      <Stage />
    </Page>
  );
}

const many = (n: number, one: string, several: string) => `${sayNumber(n)} ${n === 1 ? one : several}`;

function BoxAbout() {
  const { draft } = useBoxStore();
  const about = useBox(({ box }) =>
    [
      `${monthName(box.month, true)} box`,
      many(box.lines.length, "design", "designs"),
      many(box.colourways.length, "colourway", "colourways"),
      many(boxesOf(box), "box", "boxes"),
    ].join(" · "),
  );
  const run = useRun();
  return (
    <>
      {run && <StateMark state={run.state} />} {about} · <SaveState store={draft} saved="saved" />
    </>
  );
}

/** Untouched, done, or so many open problems. */
type Mark = "open" | "done" | number;

const packMark = (run: Run | undefined): Mark =>
  run?.state === "sent" || (run && run.packed > 0 && run.packed === run.boxes) ? "done" : "open";

function marksOf({ box, bill, cost }: BoxWork): Record<Exclude<StageKey, "pack">, Mark> {
  const begun = holdsSomething(box) && box.variants.length > 0;
  const broken = new Set(bill.problems.map((p) => p.line)).size;
  const gaps = gapsOf(bill);
  // A tick says that it is done: with no boxes, a cell open or something broken, counts and cost are not.
  const whole = begun && boxesOf(box) > 0 && gaps === 0 && broken === 0;
  const left = (n: number): Mark => (n > 0 ? n : whole ? "done" : "open");
  return {
    theme: "done",
    designs: broken > 0 ? broken : holdsSomething(box) ? "done" : "open",
    colours: gaps > 0 ? gaps : begun && boxesOf(box) > 0 ? "done" : "open",
    counts: left(begun ? bill.totals.filter((t) => t.short > 0).length : 0),
    cost: cost.unpriced.length === 0 && Number(cost.run) === 0 ? "open" : left(cost.unpriced.length),
    lists: whole ? "done" : "open",
  };
}

/** Cells of the colour tray that nobody has filled: a role that is the same everywhere is one cell. */
function gapsOf(bill: BoxWork["bill"]): number {
  const cells = new Set<string>();
  for (const v of bill.variants) {
    for (const { boxRole } of v.gaps)
      cells.add(`${boxRole.id} ${boxRole.follows === "first" || boxRole.follows === "both" ? v.first : ""}`);
  }
  return cells.size;
}

function StageMark({ mark }: { mark: Mark }) {
  if (mark === "done")
    return (
      <>
        <Check size={14} aria-hidden />
        <span className="sr-only">done:</span>
      </>
    );
  if (mark === "open")
    return (
      <>
        <span aria-hidden className="size-2.5 rounded-full border-[1.5px] border-muted" />
        <span className="sr-only">not begun:</span>
      </>
    );
  return (
    <span className="grid h-5 min-w-5 place-items-center rounded-full bg-short px-1 text-xs font-semibold text-paper">
      {mark}
      <span className="sr-only"> open:</span>
    </span>
  );
}

function BoxTally() {
  const { box, bill, cost, steps } = useBox(useShallow(({ box, bill, cost, steps }) => ({ box, bill, cost, steps })));
  const simulated = useBox((w) => w.terms !== null && isPostageSimulated(w.terms));
  const noComponents = useBox((w) => w.components.length === 0);
  const money = useSayMoney();
  const boxes = boxesOf(box);
  const { now, byDay } = useMakeable();
  const run = useRun();
  const gaps = gapsOf(bill);
  // Nor is it told what can be made before it is known whether it is made already.
  const underway = run === undefined || run.state === "sent" || run.state === "packing";
  const short = bill.totals.filter((t) => t.short > 0);
  const lowAndHigh = (amounts: readonly (string | null | undefined)[]) => {
    const sorted = amounts.flatMap((a) => (a == null ? [] : [a])).sort((a, b) => Number(a) - Number(b));
    const [low, high] = [sorted[0], sorted.at(-1)];
    return low === undefined ? null : low === high ? money(low) : `${money(low)} – ${money(high!)}`;
  };
  const aBox = steps && lowAndHigh(steps.variants.map((v) => v.perBox));
  const left = lowAndHigh((steps?.variants ?? []).map((v) => v.sold?.margin));
  const problems = useProblems(box, bill, cost);
  return (
    <>
      <TallyHead what={`${box.theme.slice(0, 60)}, ${many(boxes, "box", "boxes")}`} />
      {boxes > 0 && holdsSomething(box) ? (
        <>
          {run === undefined ? (
            <Leading n="…">of {sayNumber(boxes)}</Leading>
          ) : run.state === "sent" ? (
            <Leading n={sayNumber(run.packed || boxes)}>boxes, sent</Leading>
          ) : run.state === "packing" ? (
            <Leading n={sayNumber(run.packed)}>of {sayNumber(run.boxes)} packed</Leading>
          ) : (
            <Leading n={sayNumber(now.boxes)}>of {sayNumber(boxes)} can be made now</Leading>
          )}
          <dl>
            {underway ? null : now.limitedBy.length > 0 ? (
              <TallyRow label="Held back by">{sayLimit(now)}</TallyRow>
            ) : (
              gaps > 0 && (
                <TallyRow label="Held back by">
                  {many(gaps, "bead or finding", "beads and findings")} not chosen yet
                </TallyRow>
              )
            )}
            {!underway && byDay.boxes > now.boxes && (
              <TallyRow label={`By ${sayDay(packByOf(box))}, with what is ordered`}>
                {byDay.boxes === boxes ? `all ${sayNumber(boxes)}` : `${sayNumber(byDay.boxes)} of ${sayNumber(boxes)}`}
                {byDay.limitedBy.length > 0 && `, held back by ${sayLimit(byDay)}`}
              </TallyRow>
            )}
            <TallyRow label="Things short">{short.length}</TallyRow>
            {(!steps || aBox !== null) && (
              <TallyRow
                label={
                  <>
                    A box costs
                    {simulated && <span className="block text-xs text-muted">with simulated postage</span>}
                  </>
                }
              >
                {aBox ?? "…"}
              </TallyRow>
            )}
            {left !== null && <TallyRow label="Of its price is left">{left}</TallyRow>}
            <TallyRow label="The run costs">{steps ? money(steps.run) : "…"}</TallyRow>
          </dl>
        </>
      ) : (
        <p className="mt-3 text-muted">
          {!holdsSomething(box)
            ? "Put a design into the box, and its counts appear here."
            : box.colourways.length === 0
              ? "Give it a colourway and a number of boxes, and its counts appear here."
              : "Say how many boxes of each colourway go out, and its counts appear here."}
          {noComponents && " There are no components to choose from yet."}
        </p>
      )}
      {problems.length > 0 && (
        <>
          <TallyRule />
          <Problems list={problems.slice(0, 10)} />
          {problems.length > 10 && <p className="mt-2 text-muted">and {problems.length - 10} more</p>}
        </>
      )}
    </>
  );
}

/** How many of a box can be made with what is there now, and with what comes until it is packed. */
function useMakeable(): { now: Makeable; byDay: Makeable } {
  const { box, bill, shares } = useBox(useShallow(({ box, bill, shares }) => ({ box, bill, shares })));
  const { id, month } = box;
  const packBy = packByOf(box);
  const sharing = useMemo(() => shares && sharingNow(shares, { id, packBy, month }), [shares, id, packBy, month]);
  return useMemo(() => {
    const { variants } = bill;
    const byDay = makeable(variants, bill.totals);
    return { byDay, now: sharing ? makeable(variants, totalsOf(variants, sharing)) : byDay };
  }, [bill, sharing]);
}

/** What limits the boxes, and how many it allows: two by name, the rest by number. */
function sayLimit({ limitedBy }: Makeable): string {
  const names = limitedBy.slice(0, 2).map((l) => l.component.name);
  const more = limitedBy.length - names.length;
  const all = more > 0 ? `${names.join(", ")} and ${sayNumber(more)} more` : names.join(" and ");
  return `${all}: ${names.length > 1 ? "each allows" : "allows"} ${sayNumber(limitedBy[0]!.boxes)}`;
}

/** What is wrong in a box or missing, each with the way there. */
function useProblems(box: BoxWork["box"], bill: BoxWork["bill"], cost: BoxWork["cost"]): Said[] {
  const sayShortage = useSayShortage(useBox((w) => w.shares?.boxes));
  const to = (address: string, words: string) => (
    <Link className="link ml-1 font-medium" to={address}>
      {words}
    </Link>
  );
  const gaps = gapsOf(bill);
  return [
    ...bill.problems.map((p): Said => {
      const design = box.lines.find((l) => l.id === p.line)?.designId ?? "";
      return { level: "error", message: p.message, action: to(`/designs/${design}`, "Open the design") };
    }),
    ...(gaps === 0
      ? []
      : [
          {
            level: "warning" as const,
            message: `${many(gaps, "cell", "cells")} of the colour tray still open.`,
            action: to(`/months/${box.id}/colours`, "Choose"),
          },
        ]),
    ...bill.totals
      .filter((t) => t.short > 0)
      .map((t): Said => ({
        level: "error",
        message: `${t.component.name}: ${sayShortage(t)}`,
        action: to(`/jars/${t.component.id}`, "Open the jar"),
      })),
    ...cost.unpriced.slice(0, 5).map((c): Said => ({
      level: "warning",
      message: `${c.name} has no price, so the cost is too low.`,
      action: to(`/jars/${c.id}`, "Give it one"),
    })),
  ];
}
