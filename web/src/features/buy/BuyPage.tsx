import { buyLine, type Buying, packsFor } from "@jar-count/core/buy";
import type { BuyLine, BuyList, Component, OpenBox } from "@jar-count/core/contract";
import { sumOfMoney } from "@jar-count/core/cost";
import { useQuery } from "@tanstack/react-query";
import { ChevronDown, ChevronRight, Mail } from "lucide-react";
import { useMemo, useState } from "react";
import { Link, useSearchParams } from "react-router";
import { buyQuery, componentsQuery, ordersQuery, roomsQuery } from "../../api/queries.ts";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, Labelled } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { Diamond, sayNumber, Short, Triangle, useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { monthName, sayDay } from "../../ui/month.ts";
import { Leading, Page, PageHead, TallyHead, TallyRow } from "../../ui/page.tsx";
import { LateOrders, whyNotBought } from "../../ui/Coming.tsx";
import { useKnown } from "../../ui/useKnown.ts";
import { Waiting } from "../../ui/Waiting.tsx";
import { useWindowRows } from "../../ui/windowRows.ts";
import { useByHand } from "./byHand.ts";
import { GiveSupplier } from "./GiveSupplier.tsx";
import { firstDay, lateLines, type LetterLine, lettersOf, type SupplierLetter, withHand } from "./letters.ts";
import { WriteDialog } from "./WriteDialog.tsx";

/** What boxes lack, as a letter to each supplier: which packs, why, by when, and what it comes to. */
export function BuyPage() {
  const [params, setParams] = useSearchParams();
  const named = params.get("boxes")?.split(",").filter(Boolean) ?? null;
  const until = params.get("until");
  const [list, components, rooms] = [
    useQuery({ ...buyQuery(named, until), placeholderData: (before: BuyList | undefined) => before }),
    useQuery(componentsQuery),
    useQuery(roomsQuery),
  ];
  const waiting = [list, components, rooms].find((q) => !q.data);
  if (waiting) return <Waiting error={waiting.error} what="what to buy" retry={() => void waiting.refetch()} />;
  const ask = (boxes: readonly string[] | null, day: string | null) =>
    setParams({ ...(boxes ? { boxes: boxes.join(",") } : {}), ...(day ? { until: day } : {}) }, { replace: true });
  return (
    <Letters
      list={list.data!}
      components={components.data!}
      suppliers={rooms.data!.suppliers}
      until={until}
      named={named}
      ask={ask}
    />
  );
}

interface Props {
  list: BuyList;
  components: Component[];
  suppliers: { id: string; name: string; leadDays?: number | null | undefined }[];
  named: string[] | null;
  until: string | null;
  ask: (boxes: readonly string[] | null, until: string | null) => void;
}

function Letters({ list, components, suppliers, named, until, ask }: Props) {
  const money = useSayMoney();
  const byHand = useByHand((s) => s.packs);
  const [writing, setWriting] = useState(false);
  const byId = useMemo(() => new Map(components.map((c) => [c.id, c])), [components]);
  useKnown(
    list.lines.map((l) => l.component),
    byId,
  );
  const { today, currency } = list;
  const buying = useMemo(
    (): Buying => ({ today, currency, suppliers: new Map(suppliers.map((s) => [s.id, s])) }),
    [today, currency, suppliers],
  );
  const lines = useMemo(() => withHand(list, byHand, byId, buying), [list, byHand, byId, buying]);
  const letters = useMemo(() => lettersOf(lines, byId, suppliers, currency), [lines, byId, suppliers, currency]);
  const left = useMemo(() => lines.filter((l) => l.chosen.length === 0), [lines]);
  const total = sumOfMoney(
    lines.map((l) => l.total),
    currency,
  );
  const over = sumOfMoney(
    lines.map((l) => l.overWorth),
    currency,
  );
  const late = lateLines(lines).length;
  const doubled = lines.filter((l) => l.late.length > 0).length;
  const day = firstDay(lines.filter((l) => l.chosen.length > 0));
  const sent = letters.filter((l) => l.supplier !== null);
  const set = new Set(list.boxes);
  const toggle = (id: string) => {
    const next = list.open.map((b) => b.id).filter((b) => (b === id ? !set.has(b) : set.has(b)));
    ask(next.length === list.open.length ? null : next, null);
  };
  const tally = (
    <>
      <TallyHead what={named || until ? `${list.boxes.length} of ${list.open.length} boxes` : "All open boxes"} />
      <Leading n={money(total)}>to buy it all</Leading>
      <dl>
        <TallyRow label="Things lacking">{sayNumber(lines.length)}</TallyRow>
        <TallyRow label="Suppliers">{sayNumber(sent.length)}</TallyRow>
        {late > 0 && (
          <TallyRow label="Too late already">
            <span className="text-short">
              <Triangle /> {sayNumber(late)}
            </span>
          </TallyRow>
        )}
        {day && late === 0 && <TallyRow label="The first to order by">{sayDay(day)}</TallyRow>}
        <TallyRow label="Left over, worth">{money(over)}</TallyRow>
      </dl>
      {doubled > 0 && (
        <p className="pt-3">
          <Diamond className="mr-1 text-low" />
          {doubled === 1 ? "One line is" : `${sayNumber(doubled)} lines are`} ordered already, too late: bought beside
          it, it is there twice.
        </p>
      )}
      {left.length > 0 && (
        <p className="pt-3">
          <Diamond className="mr-1 text-low" />
          {left.length === 1 ? "One thing is" : `${sayNumber(left.length)} things are`} not bought: nobody offers it, or
          it was left out.
        </p>
      )}
    </>
  );
  return (
    <Page title="Buy" tally={tally}>
      <PageHead
        title="Buy"
        about="What the boxes lack: the packs that cost least, by supplier."
        actions={
          <>
            <ButtonLink to="/orders">Orders</ButtonLink>
            {sent.length > 0 && (
              <Button look="main" onClick={() => setWriting(true)}>
                <Mail size={16} aria-hidden /> Write the orders
              </Button>
            )}
          </>
        }
      />
      <div className="flex flex-wrap items-end gap-x-4 gap-y-2 px-6 pb-3">
        <div role="group" aria-label="For which boxes" className="flex flex-wrap gap-1.5">
          {list.open.map((b) => (
            <button
              key={b.id}
              type="button"
              aria-pressed={set.has(b.id)}
              onClick={() => toggle(b.id)}
              title={`${b.theme}, packed by ${sayDay(b.packBy)}`}
              className={`h-9 max-w-56 truncate rounded-md border px-2.5 ${
                set.has(b.id) ? "border-ink bg-ink font-semibold text-paper" : "border-edge hover:bg-hush"
              }`}
            >
              {monthName(b.month)}, {b.theme}
            </button>
          ))}
        </div>
        <Labelled label="or all packed until">
          <input
            type="date"
            className="field h-9!"
            value={until ?? ""}
            onChange={(e) => ask(null, e.target.value || null)}
          />
        </Labelled>
        {(named || until) && (
          <Button look="quiet" onClick={() => ask(null, null)}>
            All boxes
          </Button>
        )}
      </div>
      {lines.length === 0 ? (
        <Empty title="Nothing to buy">
          {list.open.length === 0
            ? "No box is planned yet: plan a month, and what it lacks stands here."
            : list.boxes.length === 0
              ? "Choose a box, or a later day."
              : "Everything that these boxes take is there, or comes in time."}
        </Empty>
      ) : (
        <Rows {...{ letters, left, open: list.open, byId, buying, suppliers }} />
      )}
      {writing && <WriteDialog letters={sent} {...{ lines, today, currency }} onClose={() => setWriting(false)} />}
    </Page>
  );
}

interface RowsProps {
  letters: SupplierLetter[];
  left: BuyLine[];
  open: readonly OpenBox[];
  byId: ReadonlyMap<string, Component>;
  buying: Buying;
  suppliers: Props["suppliers"];
}

/** A row of the whole: a letter's head, one of its lines, or something that is not bought. */
type Shown =
  | { key: string; letter: SupplierLetter }
  | { key: string; of: LetterLine }
  | { key: string; left: BuyLine }
  | { key: string; words: string };

/** Thousands of lines: only those in sight are drawn. */
function Rows({ letters, left, ...known }: RowsProps) {
  const rows = useMemo(
    (): Shown[] => [
      ...letters.flatMap((letter): Shown[] => [
        { key: `letter ${letter.supplier}`, letter },
        ...letter.lines.map((of): Shown => ({ key: `${of.component.id} ${of.packs.offer}`, of })),
      ]),
      ...(left.length > 0 ? [{ key: "left", words: "Not bought" }] : []),
      ...left.map((line): Shown => ({ key: `left ${line.component}`, left: line })),
    ],
    [letters, left],
  );
  const { frame, virtual, topOf } = useWindowRows<HTMLDivElement>({
    count: rows.length,
    estimateSize: (i) => ("of" in rows[i]! ? 84 : 60),
    overscan: 8,
    getItemKey: (i) => rows[i]!.key,
  });
  return (
    <section aria-label="What to buy" className="px-6">
      <div ref={frame} className="relative" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index]!;
          return (
            <div
              key={item.key}
              ref={virtual.measureElement}
              data-index={item.index}
              className="absolute top-0 left-0 w-full"
              style={{ transform: `translateY(${topOf(item)}px)` }}
            >
              {"letter" in row ? (
                <LetterHead letter={row.letter} suppliers={known.suppliers} />
              ) : "of" in row ? (
                <Line of={row.of} {...known} />
              ) : "left" in row ? (
                <NotBought line={row.left} {...known} />
              ) : (
                <h2 className="pt-6 pb-1">{row.words}</h2>
              )}
            </div>
          );
        })}
      </div>
    </section>
  );
}

function LetterHead({ letter, suppliers }: { letter: SupplierLetter; suppliers: Props["suppliers"] }) {
  const money = useSayMoney();
  return (
    <header className="flex flex-wrap items-baseline justify-between gap-3 pt-5 pb-1">
      <h2 className="min-w-0 [overflow-wrap:anywhere]">
        {letter.supplier === null ? letter.name : `To ${letter.name}`}
      </h2>
      {letter.supplier === null && <GiveSupplier lines={letter.lines} suppliers={suppliers} />}
      <p className="text-muted">
        {letter.late > 0 ? (
          <span className="font-semibold text-short">
            <Triangle /> {letter.late === 1 ? "one line comes" : `${sayNumber(letter.late)} lines come`} too late
          </span>
        ) : letter.orderBy ? (
          <>order by {sayDay(letter.orderBy)}</>
        ) : (
          "no lead time known"
        )}
        {" · "}
        <strong className="text-base font-semibold text-ink">{money(letter.total)}</strong>
      </p>
    </header>
  );
}

type LineProps = Omit<RowsProps, "letters" | "left">;

/** What is lacking: the thing itself, how much of it, for which boxes and by when. */
function What({ component, line, open }: { component: Component; line: BuyLine; open: readonly OpenBox[] }) {
  const say = useSayQuantity();
  const orders = useQuery(ordersQuery).data ?? [];
  return (
    <div className="min-w-0">
      <p className="flex items-start gap-2">
        <span className="grid w-6 shrink-0 place-items-center pt-0.5">
          <Chip of={component} />
        </span>
        <Link
          to={`/jars/${component.id}`}
          className="inline-block min-h-6 font-medium [overflow-wrap:anywhere] hover:underline"
        >
          {component.name}
        </Link>
      </p>
      <p className="pl-8 text-xs text-muted">
        {say(line.need, component.baseUnit)} lacking, <Why line={line} open={open} />, by {sayDay(line.by)}
      </p>
      {line.late.length > 0 && (
        <p className="flex flex-col pl-8 text-xs">
          <LateOrders line={line} component={component} orders={orders} />
        </p>
      )}
    </div>
  );
}

function Why({ line, open }: { line: BuyLine; open: readonly OpenBox[] }) {
  const boxOf = new Map(open.map((b) => [b.id, b]));
  return (
    <>
      for{" "}
      {line.boxes.map(({ box }, i) => (
        <span key={box}>
          {i > 0 && ", "}
          <Link to={`/months/${box}/counts`} className="inline-block min-h-6 hover:underline">
            {monthName(boxOf.get(box)?.month ?? "2027-01")}
          </Link>
        </span>
      ))}
    </>
  );
}

function Line({ of, open, buying, suppliers }: { of: LetterLine } & LineProps) {
  const { line, component, packs } = of;
  const [others, setOthers] = useState(false);
  const say = useSayQuantity();
  const money = useSayMoney();
  const { set, reset } = useByHand();
  const hand = useByHand((s) => s.packs[component.id]);
  const now = Object.fromEntries(line.chosen.map((c) => [c.offer, c.packs]));
  const short = line.amount < line.need;
  const unit = component.baseUnit;
  return (
    <article aria-label={component.name} data-testid={`buy-${component.code}`} className="border-t border-rule py-2">
      <div
        className={
          "grid grid-cols-[minmax(0,1fr)_auto] items-start gap-x-4 gap-y-1 " +
          "md:grid-cols-[minmax(0,1fr)_10rem_5rem] lg:grid-cols-[minmax(0,1fr)_15rem_6rem]"
        }
      >
        <div className="col-span-2 md:col-span-1">
          <What component={component} line={line} open={open} />
        </div>
        <div className="flex items-center gap-2 pl-8 md:pl-0">
          <NumberField
            className="field w-16 text-right"
            aria-label={`Packs of ${packs.pack}, ${component.name}`}
            whole
            min={0}
            value={packs.packs}
            onChange={(n) => n !== null && set(component.id, { ...now, [packs.offer]: n })}
          />
          <span className="min-w-0 [overflow-wrap:anywhere]">× {packs.pack}</span>
        </div>
        <p className="text-right text-base font-semibold whitespace-nowrap">{money(packs.price)}</p>
      </div>
      <p className="flex flex-wrap items-center gap-x-4 pl-8 text-xs">
        {packs.late ? (
          <span className="font-semibold text-short">
            <Triangle /> comes {sayDay(packs.due!)}, too late
          </span>
        ) : packs.orderBy ? (
          <span>order by {sayDay(packs.orderBy)}</span>
        ) : (
          <span className="text-muted">nobody knows how long it takes</span>
        )}
        {short ? (
          <span>
            <Short>{say(line.need - line.amount, unit)}</Short> of what is needed
          </span>
        ) : (
          <span className="text-muted">
            {line.over > 0 ? `${say(line.over, unit)} left over, worth ${money(line.overWorth)}` : "nothing left over"}
          </span>
        )}
        {line.unstepped && (
          <span className="font-medium">stepped up: {money(line.unstepped)} without the lower price of more packs</span>
        )}
        {hand && (
          <button type="button" className="link min-h-6" onClick={() => reset([component.id])}>
            set by hand; back to the least
          </button>
        )}
        {component.offers.length > 1 && (
          <button
            type="button"
            className="inline-flex min-h-6 items-center gap-0.5 font-medium text-action hover:underline"
            aria-expanded={others}
            onClick={() => setOthers(!others)}
          >
            {others ? <ChevronDown size={13} aria-hidden /> : <ChevronRight size={13} aria-hidden />} other offers
          </button>
        )}
      </p>
      {others && <Others line={line} component={component} buying={buying} suppliers={suppliers} />}
    </article>
  );
}

/** What else covers it: each offer by itself, a click away. */
function Others({
  line,
  component,
  buying,
  suppliers,
}: { line: BuyLine; component: Component } & Pick<LineProps, "buying" | "suppliers">) {
  const money = useSayMoney();
  const say = useSayQuantity();
  const set = useByHand((s) => s.set);
  const nameOf = (id: string | null | undefined) => suppliers.find((s) => s.id === id)?.name ?? "nobody named";
  const each = component.offers.map((offer) => {
    const packs = offer.id ? packsFor(component, line, buying.currency, new Set([offer.id])) : null;
    return { offer, packs, alone: packs && buyLine(component, line, packs, buying) };
  });
  return (
    <ul className="mt-1 ml-8 max-w-2xl">
      {each.map(({ offer, packs, alone }) => {
        const row = alone?.chosen[0];
        return (
          <li key={offer.id} className="flex flex-wrap items-center justify-between gap-x-4 border-t border-rule py-1">
            <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">
              {row ? `${sayNumber(row.packs)} × ` : ""}
              {offer.pack} <span className="text-muted">from {nameOf(offer.supplier)}</span>
              {row && alone && (
                <span className="block text-xs text-muted">
                  {row.due
                    ? row.late
                      ? `too late, ${sayDay(row.due)}`
                      : `comes ${sayDay(row.due)}`
                    : "no lead time known"}
                  {alone.over > 0 && `; ${say(alone.over, component.baseUnit)} left over`}
                </span>
              )}
            </span>
            {row && packs ? (
              <>
                <strong className="font-semibold whitespace-nowrap">{money(row.price)}</strong>
                <Button onClick={() => set(component.id, Object.fromEntries(packs))}>Take this one</Button>
              </>
            ) : (
              <span className="text-muted">no pack is long enough, or nobody knows what one holds</span>
            )}
          </li>
        );
      })}
    </ul>
  );
}

/** Something lacking that is not bought: nobody offers it, or it was left out by hand. */
function NotBought({ line, byId, open }: { line: BuyLine } & LineProps) {
  const { reset } = useByHand();
  const hand = useByHand((s) => s.packs[line.component]);
  const component = byId.get(line.component);
  if (!component) return null;
  return (
    <article
      aria-label={component.name}
      data-testid={`buy-${component.code}`}
      className="flex flex-wrap items-start justify-between gap-3 border-t border-rule py-2"
    >
      <What component={component} line={line} open={open} />
      {hand ? (
        <Button onClick={() => reset([line.component])}>Buy it after all</Button>
      ) : (
        <ButtonLink to={`/jars/${component.id}`}>{whyNotBought(component)}</ButtonLink>
      )}
    </article>
  );
}
