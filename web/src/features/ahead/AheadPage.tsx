import { isLate, lastDayOf } from "@jar-count/core/buy";
import type { AheadComponent, BoxSummary, BuyList, Component, Order } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { Link, useSearchParams } from "react-router";
import { aheadQuery, boxesQuery, buyQuery, componentsQuery, ordersQuery, roomsQuery } from "../../api/queries.ts";
import { LateOrders, whyNotBought } from "../../ui/Coming.tsx";
import { Chip } from "../../ui/Bead.tsx";
import { Empty, Segmented } from "../../ui/controls.tsx";
import { sayNumber, Short, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { monthName, sayDay, useToday } from "../../ui/month.ts";
import { Leading, Page, PageHead, TallyHead, TallyRow } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { useWindowRows } from "../../ui/windowRows.ts";
import { LeftLine } from "./LeftLine.tsx";

/** A component ahead, with all that its row says. */
interface Row extends AheadComponent {
  of: Component;
  /** The least that is left on any day. */
  least: number;
}

/** Every component that runs out, or comes down to its reorder point, before everything that is planned is packed. */
export function AheadPage() {
  const [ahead, boxes, components, orders, rooms] = [
    useQuery(aheadQuery),
    useQuery(boxesQuery),
    useQuery(componentsQuery),
    useQuery(ordersQuery),
    useQuery(roomsQuery),
  ];
  const waiting = [ahead, boxes, components, orders, rooms].find((q) => !q.data);
  if (waiting) return <Waiting error={waiting.error} what="what lies ahead" retry={() => void waiting.refetch()} />;
  return (
    <Rows
      ahead={ahead.data!.components}
      boxes={boxes.data!}
      components={components.data!}
      orders={orders.data!}
      suppliers={rooms.data!.suppliers}
    />
  );
}

interface RowsProps {
  ahead: AheadComponent[];
  boxes: BoxSummary[];
  components: Component[];
  orders: Order[];
  suppliers: { id: string; name: string; leadDays?: number | null | undefined }[];
}

const SHOWN = ["short", "low", "all"] as const;

function Rows({ ahead, boxes, components, orders, suppliers }: RowsProps) {
  const [params, setParams] = useSearchParams();
  const shown = SHOWN.find((s) => s === params.get("show")) ?? "short";
  const rows = useMemo(() => {
    const byId = new Map(components.map((c) => [c.id, c]));
    return ahead
      .flatMap((a): Row[] => {
        const of = byId.get(a.component);
        return of ? [{ ...a, of, least: Math.min(...a.steps.map((s) => s.left)) }] : [];
      })
      .sort(
        (a, b) => (a.runsOutOn ?? "9999").localeCompare(b.runsOutOn ?? "9999") || a.of.name.localeCompare(b.of.name),
      );
  }, [ahead, components]);
  const out = rows.filter((r) => r.runsOutOn !== null);
  const low = rows.filter((r) => r.runsOutOn === null && r.of.reorderAt != null && r.least <= r.of.reorderAt);
  const list = shown === "short" ? out : shown === "low" ? low : rows;
  const stopped = new Map<string, number>();
  for (const r of out) for (const id of stoppedBy(r)) stopped.set(id, (stopped.get(id) ?? 0) + 1);
  const boxOf = useMemo(() => new Map(boxes.map((b) => [b.id, b])), [boxes]);
  const orderOf = useMemo(() => new Map(orders.map((o) => [o.id, o])), [orders]);
  const today = useToday();
  const buy = useQuery(buyQuery(null, null)).data;
  const late = orders.filter((o) =>
    o.lines.some((l) => l.due != null && l.due < today && (o.received[l.id] ?? 0) < l.quantity),
  );
  const tally = (
    <>
      <TallyHead what="All boxes that are not sent" />
      <Leading n={sayNumber(out.length)}>{out.length === 1 ? "thing runs out" : "things run out"}</Leading>
      <dl>
        {out[0] && <TallyRow label="The first">{sayDay(out[0].runsOutOn!)}</TallyRow>}
        <TallyRow label="Down to the reorder point">{sayNumber(low.length)}</TallyRow>
        {late.length > 0 && <TallyRow label="Orders past their day">{sayNumber(late.length)}</TallyRow>}
      </dl>
      {stopped.size > 0 && (
        <>
          <h3 className="mt-4 font-semibold">Boxes it stops</h3>
          <ul>
            {[...stopped].map(([id, n]) => (
              <li key={id} className="flex items-baseline justify-between gap-3 py-0.5">
                <Link to={`/months/${id}/counts`} className="link min-w-0 [overflow-wrap:anywhere]">
                  {nameOf(boxOf.get(id))}
                </Link>
                <span className="font-semibold whitespace-nowrap">
                  {n === 1 ? "1 thing" : `${sayNumber(n)} things`}
                </span>
              </li>
            ))}
          </ul>
        </>
      )}
    </>
  );
  return (
    <Page title="Ahead" tally={tally}>
      <PageHead
        title="Ahead"
        about="What is left of each component as boxes are packed and orders come, and the day on which it runs out."
      />
      <div className="px-6 pb-3">
        <Segmented
          label="Which components"
          value={shown}
          options={[
            { value: "short", label: `runs out, ${sayNumber(out.length)}` },
            { value: "low", label: `reorder point, ${sayNumber(low.length)}` },
            { value: "all", label: `everything that moves, ${sayNumber(rows.length)}` },
          ]}
          onChange={(show) => setParams(show === "short" ? {} : { show }, { replace: true })}
        />
      </div>
      {list.length === 0 ? (
        <Empty title={shown === "short" ? "Nothing runs out" : "Nothing here"}>
          {rows.length === 0
            ? "No box takes anything yet: plan a month, and what it takes of the jars stands here."
            : shown === "short"
              ? "Every box that is planned or committed can be packed by its day."
              : "Nothing comes down to its reorder point. It is set with each component."}
        </Empty>
      ) : (
        <List rows={list} {...{ boxOf, orderOf, suppliers, buy, today }} />
      )}
    </Page>
  );
}

const nameOf = (box: BoxSummary | undefined) => (box ? `${monthName(box.month)}, ${box.theme}` : "a box");

/** The boxes whose own step leaves less than nothing. */
const stoppedBy = (row: AheadComponent) => [
  ...new Set(row.steps.filter((s) => s.kind === "box" && s.left < 0).map((s) => s.id)),
];

interface ListProps {
  rows: Row[];
  boxOf: ReadonlyMap<string, BoxSummary>;
  orderOf: ReadonlyMap<string, Order>;
  suppliers: RowsProps["suppliers"];
  /** What to buy for all open boxes; not yet there at first. */
  buy: BuyList | undefined;
  today: string;
}

const TALL = 132;

/** Thousands of rows: only those in sight are drawn. */
function List({ rows, ...known }: ListProps) {
  const { frame, virtual, topOf } = useWindowRows<HTMLUListElement>({
    count: rows.length,
    estimateSize: () => TALL,
    overscan: 6,
    getItemKey: (i) => rows[i]!.component,
  });
  return (
    <section aria-label="Components ahead" className="px-6">
      <ul ref={frame} className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => (
          <li
            key={item.key}
            ref={virtual.measureElement}
            data-index={item.index}
            className="absolute top-0 left-0 w-full border-b border-rule py-3"
            style={{ transform: `translateY(${topOf(item)}px)` }}
          >
            <AheadRow row={rows[item.index]!} {...known} />
          </li>
        ))}
      </ul>
    </section>
  );
}

function AheadRow({ row, buy, boxOf, orderOf, suppliers, today }: { row: Row } & Omit<ListProps, "rows">) {
  const say = useSayQuantity();
  const { of, runsOutOn, short } = row;
  const stops = stoppedBy(row);
  return (
    <article
      data-testid={`ahead-${of.code}`}
      aria-label={of.name}
      className="grid grid-cols-1 items-start gap-x-5 gap-y-2 md:grid-cols-[minmax(0,1fr)_minmax(0,22rem)]"
    >
      <div className="min-w-0">
        <p className="flex items-start gap-2">
          <span className="grid w-6 shrink-0 place-items-center pt-0.5">
            <Chip of={of} />
          </span>
          <Link to={`/jars/${of.id}`} className="min-w-0 font-semibold [overflow-wrap:anywhere] hover:underline">
            {of.name}
          </Link>
        </p>
        <p className="mt-1">
          {runsOutOn === null ? (
            <span className="text-muted">
              Does not run out; the least that is left is {say(row.least, of.baseUnit)}.
            </span>
          ) : (
            <>
              <span className="text-short">
                <Triangle /> Runs out <strong className="font-semibold">{sayDay(runsOutOn)}</strong>
              </span>
              {", "}
              <Short>{say(short, of.baseUnit)}</Short> short
            </>
          )}
        </p>
        {stops.length > 0 && (
          <p>
            Stops{" "}
            {stops.map((id, i) => (
              <span key={id}>
                {i > 0 && ", "}
                <Link to={`/months/${id}/counts`} className="link">
                  {nameOf(boxOf.get(id))}
                </Link>
                {boxOf.get(id)?.state === "planned" ? "" : " (committed)"}
              </span>
            ))}
          </p>
        )}
        {runsOutOn !== null && <Covers row={row} {...{ buy, orderOf, suppliers, today }} />}
      </div>
      <LeftLine row={row} of={of} sayStep={(s) => sayStep(s, boxOf, orderOf, today)} />
    </article>
  );
}

function sayStep(
  step: AheadComponent["steps"][number],
  boxOf: ListProps["boxOf"],
  orderOf: ListProps["orderOf"],
  today: string,
): string {
  if (step.kind === "box") {
    const box = boxOf.get(step.id);
    return `${nameOf(box)}, ${box?.state ?? "planned"}`;
  }
  const order = orderOf.get(step.id);
  const late = order?.lines.some((l) => l.due != null && l.due < today && (order.received[l.id] ?? 0) < l.quantity);
  return `order ${order?.number ?? ""}${late ? ", past its day" : ""}`;
}

/** What would cover it, as Buy has it: what comes too late, which packs, and the last day to order them. */
function Covers({ row, buy, orderOf, suppliers, today }: { row: Row } & Omit<ListProps, "rows" | "boxOf">) {
  const say = useSayQuantity();
  const { of } = row;
  const line = buy?.lines.find((l) => l.component === of.id);
  if (!buy) return null;
  if (!line) return <p className="text-muted">Every box has what it takes of it; Buy has nothing to buy.</p>;
  const packs = line.chosen.map((c) => {
    const name = suppliers.find((s) => s.id === c.supplier)?.name;
    return `${sayNumber(c.packs)} × ${c.pack}${name ? ` from ${name}` : ""}`;
  });
  const day = line.chosen.some((c) => c.orderBy !== null) ? lastDayOf(line) : null;
  return (
    <p className="flex flex-col text-muted">
      <LateOrders line={line} component={of} orders={[...orderOf.values()]} />
      {packs.length > 0 ? (
        <span>
          {packs.join(" and ")} {packs.length === 1 && line.chosen[0]!.packs === 1 ? "covers" : "cover"} the{" "}
          {say(line.need, of.baseUnit)} lacking
          {isLate(line) || (day !== null && day < today)
            ? ": too late to order in time."
            : day === null
              ? "."
              : `: order by ${sayDay(day)}.`}
        </span>
      ) : (
        <span>
          <Link to={`/jars/${of.id}`} className="link">
            {whyNotBought(of)}
          </Link>
        </span>
      )}
    </p>
  );
}
