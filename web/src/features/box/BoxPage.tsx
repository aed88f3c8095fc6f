import { makeable } from "@jar-count/core/bom";
import type { BoxDetail, Component, DesignSummary } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Check, Redo2, Undo2 } from "lucide-react";
import { useEffect } from "react";
import { Link, useParams } from "react-router";
import { useStore } from "zustand";
import { boxQuery, componentsQuery, designsQuery } from "../../api/queries.ts";
import { IconButton } from "../../ui/controls.tsx";
import { later } from "../../ui/later.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { monthName } from "../../ui/month.ts";
import {
  DraftNotices,
  Leading,
  Page,
  Problems,
  type Said,
  SaveState,
  TallyHead,
  TallyRow,
  TallyRule,
  Waiting,
} from "../../ui/page.tsx";
import { CostStage } from "./CostStage.tsx";
import { CountsStage } from "./CountsStage.tsx";
import { ThemeStage } from "./ThemeStage.tsx";
import { type BoxWork, useBoxWork } from "./useBox.ts";

// The stages with a search in them come when they are opened.
const ColoursStage = later(async () => (await import("./ColoursStage.tsx")).ColoursStage);
const DesignsStage = later(async () => (await import("./DesignsStage.tsx")).DesignsStage);

const STAGES = [
  { key: "theme", name: "Theme", stage: ThemeStage },
  { key: "designs", name: "Designs", stage: DesignsStage },
  { key: "colours", name: "Colours", stage: ColoursStage },
  { key: "counts", name: "Counts", stage: CountsStage },
  { key: "cost", name: "Cost", stage: CostStage },
] as const;
type StageKey = (typeof STAGES)[number]["key"];

export function BoxPage() {
  const { id } = useParams() as { id: string };
  const found = useQuery(boxQuery(id));
  const library = useQuery(designsQuery);
  const components = useQuery(componentsQuery);
  if (!found.data || !library.data || !components.data) {
    const failed = [found, library, components].find((q) => q.error);
    return <Waiting error={failed?.error ?? null} what="the box" retry={() => void failed?.refetch()} />;
  }
  return <BoxOf key={id} found={found.data} library={library.data} components={components.data} />;
}

function BoxOf({
  found,
  library,
  components,
}: {
  found: BoxDetail;
  library: DesignSummary[];
  components: Component[];
}) {
  const { stage: asked } = useParams();
  const work = useBoxWork(found, library, components);
  const { box, store } = work;
  const past = useStore(store.temporal, (t) => t.pastStates.length);
  const future = useStore(store.temporal, (t) => t.futureStates.length);
  const marks = marksOf(work);
  const current = STAGES.find((s) => s.key === asked) ?? STAGES.find((s) => marks[s.key] !== "done") ?? STAGES[3];
  const Stage = current.stage;

  useEffect(() => {
    const { undo, redo } = store.temporal.getState();
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey)) return;
      const key = e.key.toLowerCase();
      if (key !== "z" && key !== "y") return;
      e.preventDefault();
      if (key === "y" || e.shiftKey) redo();
      else undo();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [store]);

  const boxes = box.variants.reduce((sum, v) => sum + v.boxes, 0);
  const said = [
    `${monthName(box.month, true)} box`,
    `${box.lines.length} ${box.lines.length === 1 ? "design" : "designs"}`,
    `${box.colourways.length} ${box.colourways.length === 1 ? "colourway" : "colourways"}`,
    `${sayNumber(boxes)} ${boxes === 1 ? "box" : "boxes"}`,
  ];
  return (
    <Page title={`${box.theme}, ${monthName(box.month, true)}`} tally={<BoxTally work={work} boxes={boxes} />}>
      <header className="flex items-start justify-between gap-3 px-6 pt-6">
        <div className="min-w-0">
          <h1 className="[overflow-wrap:anywhere]">{box.theme}</h1>
          <p className="text-muted">
            {said.join(" · ")} · <SaveState store={store} saved="saved" />
          </p>
        </div>
        <span className="no-print flex">
          <IconButton label="Undo" disabled={past === 0} onClick={() => store.temporal.getState().undo()}>
            <Undo2 size={17} />
          </IconButton>
          <IconButton label="Redo" disabled={future === 0} onClick={() => store.temporal.getState().redo()}>
            <Redo2 size={17} />
          </IconButton>
        </span>
      </header>
      <nav
        aria-label="Stages of the box"
        className="no-print mx-6 mt-2 flex h-12 items-stretch gap-7 overflow-x-auto border-b border-rule"
      >
        {STAGES.map((s) => (
          <Link
            key={s.key}
            to={`/months/${box.id}/${s.key}`}
            aria-current={s.key === current.key ? "page" : undefined}
            className={`flex items-center gap-2 border-b-2 whitespace-nowrap ${s.key === current.key ? "border-action font-semibold" : "border-transparent text-muted hover:text-ink"}`}
          >
            <StageMark mark={marks[s.key]} /> {s.name}
          </Link>
        ))}
      </nav>
      <DraftNotices store={store} what="box" />
      <Stage work={work} />
    </Page>
  );
}

/** Untouched, done, or so many open problems. */
type Mark = "open" | "done" | number;

function marksOf({ box, bill, cost }: BoxWork): Record<StageKey, Mark> {
  const begun = box.lines.length > 0 && box.variants.length > 0;
  const gaps = gapsOf(bill);
  const short = bill.totals.filter((t) => t.short > 0).length;
  return {
    theme: "done",
    designs:
      bill.problems.length > 0
        ? new Set(bill.problems.map((p) => p.line)).size
        : box.lines.length > 0
          ? "done"
          : "open",
    colours: !begun ? "open" : gaps > 0 ? gaps : "done",
    counts: !begun ? "open" : short > 0 ? short : "done",
    cost: !begun ? "open" : cost.unpriced.length > 0 ? cost.unpriced.length : "done",
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

function BoxTally({ work: { box, bill, cost, components }, boxes }: { work: BoxWork; boxes: number }) {
  const money = useSayMoney();
  const say = useSayQuantity();
  const can = makeable(bill);
  const short = bill.totals.filter((t) => t.short > 0);
  const gaps = gapsOf(bill);
  const perBox = cost.variants
    .flatMap((v) => (v.perBox === null ? [] : [v.perBox]))
    .sort((a, b) => Number(a) - Number(b));
  const problems: Said[] = [
    ...bill.problems.map((p): Said => ({
      level: "error",
      message: p.message,
      action: (
        <Link className="link ml-1 font-medium" to={`/designs/${box.lines.find((l) => l.id === p.line)?.designId}`}>
          Open the design
        </Link>
      ),
    })),
    ...(gaps > 0
      ? [
          {
            level: "warning" as const,
            message: `${gaps} ${gaps === 1 ? "cell" : "cells"} of the colour tray still open.`,
            action: (
              <Link className="link ml-1 font-medium" to={`/months/${box.id}/colours`}>
                Choose
              </Link>
            ),
          },
        ]
      : []),
    ...short.map((t): Said => ({
      level: "error",
      message: `${say(t.short, t.component.baseUnit)} of ${t.component.name} short.`,
      action: (
        <Link className="link ml-1 font-medium" to={`/jars/${t.component.id}`}>
          Open the jar
        </Link>
      ),
    })),
    ...cost.unpriced.slice(0, 5).map((c): Said => ({
      level: "warning",
      message: `${c.name} has no price, so the cost is too low.`,
      action: (
        <Link className="link ml-1 font-medium" to={`/jars/${c.id}`}>
          Give it one
        </Link>
      ),
    })),
  ];
  return (
    <>
      <TallyHead what={`${box.theme.slice(0, 60)}, ${sayNumber(boxes)} ${boxes === 1 ? "box" : "boxes"}`} />
      {boxes > 0 && box.lines.length > 0 ? (
        <>
          <Leading n={sayNumber(can.boxes)}>of {sayNumber(boxes)} can be made now</Leading>
          <dl>
            {can.heldBackBy && <TallyRow label="Held back by">{can.heldBackBy.name}</TallyRow>}
            <TallyRow label="Things short">{short.length}</TallyRow>
            {perBox.length > 0 && (
              <TallyRow label="A box's materials">
                {perBox[0] === perBox.at(-1) ? money(perBox[0]!) : `${money(perBox[0]!)} – ${money(perBox.at(-1)!)}`}
              </TallyRow>
            )}
            <TallyRow label="The run's materials">{money(cost.run)}</TallyRow>
          </dl>
        </>
      ) : (
        <p className="mt-3 text-muted">
          {box.lines.length === 0
            ? "Put a design into the box, and its counts appear here."
            : "Give it a colourway and a number of boxes, and its counts appear here."}
          {components.length === 0 && " There are no components to choose from yet."}
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
