import { coinPlaces } from "@jar-count/core/cost";
import type { SoldMonth } from "@jar-count/core/contract";
import { SHAPES_OF_DEMAND, type ShapeOfDemand, sharesOf, weightOfPast } from "@jar-count/core/demand";
import { offByOne } from "@jar-count/core/price";
import { useQuery } from "@tanstack/react-query";
import { scaleLinear } from "d3-scale";
import { useEffect, useMemo, useRef, useState } from "react";
import { Link } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { soldMonthsQuery } from "../../../api/queries.ts";
import { ButtonLink } from "../../../ui/ButtonLink.tsx";
import { Button, Empty, Labelled, Segmented } from "../../../ui/controls.tsx";
import { DataTable } from "../../../ui/DataTable.tsx";
import { NumberField } from "../../../ui/fields.tsx";
import { useLeft } from "../../../ui/kept.ts";
import { Diamond, sayNumber } from "../../../ui/marks.tsx";
import { useSayAbout } from "../../../ui/money.ts";
import { monthName } from "../../../ui/month.ts";
import { Waiting } from "../../../ui/Waiting.tsx";
import type { Asked, Found, HowManyWorker } from "../../../workers/howMany.ts";
import { useWorker } from "../../../workers/useWorker.ts";
import { boxesOf, useBox, useBoxStore } from "../boxStore.ts";
import { useRun } from "../Commit.tsx";
import { useVariantNames } from "./variants.ts";
import { sayPart } from "../../../ui/costWords.ts";

const startWorker = () => new Worker(new URL("../../../workers/howMany.ts", import.meta.url), { type: "module" });

const SHAPE_WORDS: Record<ShapeOfDemand, string> = {
  empirical: "as months were",
  normal: "normal",
  "negative binomial": "negative binomial",
  "three-point": "three guesses",
};

/** How many boxes to make, overall and by colourway, from what past months sold and this one has sold so far. */
export function HowManyView() {
  const sold = useQuery(soldMonthsQuery);
  if (!sold.data) return <Waiting error={sold.error} what="the sales" retry={() => void sold.refetch()} />;
  return <HowMany months={sold.data.months} />;
}

function HowMany({ months }: { months: readonly SoldMonth[] }) {
  const { edit } = useBoxStore();
  const { box, terms } = useBox(useShallow((w) => ({ box: w.box, terms: w.terms! })));
  const names = useVariantNames();
  const run = useRun();
  const about = useSayAbout();
  const places = coinPlaces(terms.currency);
  const past = months.filter((m) => m.month < box.month && m.box !== box.id);
  const now = months.find((m) => m.box === box.id);
  // Months that went out are gone by, unless somebody says otherwise of one.
  const [turned, setTurned] = useLeft<string>(`how many turned ${box.id}`, "");
  const otherwise = new Set(turned.split("|").filter(Boolean));
  const without = new Set(past.filter((m) => m.open !== otherwise.has(keyOf(m))).map(keyOf));
  const taken = past.filter((m) => !without.has(keyOf(m)));
  const [shape, setShape] = useLeft<ShapeOfDemand>("how many by", "empirical");
  const sales = taken.map((m) => m.sold).sort((a, b) => a - b);
  const [guess, setGuess] = useState({
    least: sales[0] ?? 50,
    likely: sales[Math.floor(sales.length / 2)] ?? 100,
    most: sales.at(-1) ?? 150,
  });
  const steps = useBox((w) => w.steps)!;
  const stakesNow = offByOne(steps, terms.money);
  const [typed, setTyped] = useState<{ over: number | null; under: number | null }>({ over: null, under: null });
  const stakes = { over: typed.over ?? stakesNow.over, under: typed.under ?? stakesNow.under };
  const [instead, setInstead] = useState<number | null>(null);
  const variants = useMemo(
    () =>
      names.map((name) => ({
        name,
        sold: Math.max(
          0,
          now?.colourways.find((c) => [c.colourway, c.second].filter(Boolean).join(", ") === name)?.sold ?? 0,
        ),
      })),
    [names, now],
  );
  const pastShares = taken.map((m) =>
    m.colourways.map((c) => ({ name: [c.colourway, c.second].filter(Boolean).join(", "), sold: Math.max(0, c.sold) })),
  );
  const weight = weightOfPast(pastShares);
  const shares = sharesOf(variants, pastShares, weight);
  const presold = Math.max(0, now?.sold ?? 0);
  const able = stakes.over > 0 && stakes.under > 0 && (shape === "three-point" || taken.length > 0) && names.length > 0;
  const guessed = guess.least <= guess.likely && guess.likely <= guess.most && guess.least < guess.most;
  const asked: Asked | null =
    able && (shape !== "three-point" || guessed)
      ? {
          shape,
          months: taken.map(({ sold, soldOut }) => ({ sold: Math.max(0, sold), soldOut })),
          guess,
          stakes,
          presold,
          shares,
          weight,
          claims: terms.money.claims,
          instead,
        }
      : null;
  const found = useFound(asked);
  const [askedAtOnce] = useState(asked !== null);
  if (past.length === 0 && shape !== "three-point") {
    return (
      <Empty
        title="No past month to go by"
        action={
          <span className="flex justify-center gap-2">
            <ButtonLink look="main" to="/tables/sales">
              Bring sales in
            </ButtonLink>
            <Button onClick={() => setShape("three-point")}>Go by three guesses</Button>
          </span>
        }
      >
        What past months sold says how many this one may sell: as a table, or from the shop.
      </Empty>
    );
  }
  // The answer comes in above what can be pressed: nothing of that is there to be missed before it.
  if (askedAtOnce && asked && !found) return <p className="px-6 font-medium">Counting …</p>;
  const turn = (key: string) => {
    const next = new Set(otherwise);
    if (!next.delete(key)) next.add(key);
    setTurned([...next].join("|"));
  };
  const carry = () =>
    edit((b) => ({
      ...b,
      variants: b.variants.map((v, i) => ({ ...v, boxes: found!.colourways[i]?.make ?? v.boxes })),
    }));
  const packed = run?.state === "packing" || run?.state === "sent";
  const planned = boxesOf(box);
  const same = found && box.variants.every((v, i) => v.boxes === found.colourways[i]?.make);
  return (
    <section className="px-6" aria-label="How many">
      {found ? (
        <Answer found={found} presold={presold} planned={planned}>
          {packed ? (
            <span className="text-muted">Its boxes are packed by a frozen bill: the number stands.</span>
          ) : same ? (
            <span className="text-muted">The box has these numbers.</span>
          ) : (
            <Button look="main" className="h-8!" onClick={carry}>
              Carry {sayNumber(found.make)} to the box
            </Button>
          )}
        </Answer>
      ) : (
        <p className="mb-4 font-medium">
          <Diamond className="text-low" />{" "}
          {!guessed && shape === "three-point"
            ? "The least, the likeliest and the most must rise."
            : asked
              ? "Counting …"
              : stakes.under <= 0
                ? "A box earns nothing yet: give it a price, or say below what one too few costs."
                : "Say below what one too many costs, more than nothing."}
        </p>
      )}
      {found && <Chart found={found} onChoose={setInstead} />}
      <div className="mb-6 flex flex-wrap items-end gap-4">
        <Labelled label="One too few costs">
          <NumberField
            className="field w-24 text-right"
            aria-label="One too few costs"
            places={places}
            value={Number(stakes.under.toFixed(places))}
            onChange={(under) => setTyped((t) => ({ ...t, under }))}
          />
        </Labelled>
        <Labelled label="One too many costs">
          <NumberField
            className="field w-24 text-right"
            aria-label="One too many costs"
            places={places}
            value={Number(stakes.over.toFixed(places))}
            onChange={(over) => setTyped((t) => ({ ...t, over }))}
          />
        </Labelled>
        <Labelled label="Make instead">
          <NumberField
            className="field w-24 text-right"
            aria-label="Make instead"
            whole
            optional
            max={100_000}
            value={instead}
            onChange={setInstead}
          />
        </Labelled>
        <p className="max-w-md flex-1 text-xs text-muted">
          Too few: what is left of a box that could have been sold. Too many: what it cost ({about(stakesNow.cost)}
          {") "}
          less what it still brings ({about(stakesNow.worth)}): {sayPart(terms.money.takenApart)} of leftovers are taken
          apart and go back to the jars, the others sell at {sayPart(terms.money.sellsAt)} of the price.{" "}
          <Link className="link" to="/workshop/money">
            Change this
          </Link>
        </p>
      </div>
      {found && <ByColourway found={found} shares={shares} names={names} planned={box.variants.map((v) => v.boxes)} />}
      <div className="mb-2 flex flex-wrap items-center justify-between gap-3">
        <h2>What it goes by</h2>
        <Segmented
          label="Demand"
          value={shape}
          options={SHAPES_OF_DEMAND.map((value) => ({ value, label: SHAPE_WORDS[value] }))}
          onChange={setShape}
        />
      </div>
      {shape === "three-point" ? (
        <div className="mb-4 flex flex-wrap gap-4">
          {(["least", "likely", "most"] as const).map((which) => (
            <Labelled key={which} label={{ least: "At least", likely: "Most likely", most: "At most" }[which]}>
              <NumberField
                className="field w-24 text-right"
                aria-label={{ least: "At least", likely: "Most likely", most: "At most" }[which]}
                whole
                max={100_000}
                value={guess[which]}
                onChange={(n) => setGuess((g) => ({ ...g, [which]: n! }))}
              />
            </Labelled>
          ))}
        </div>
      ) : (
        <Months past={past} without={without} onTurn={turn} shape={shape} />
      )}
    </section>
  );
}

const keyOf = (m: SoldMonth) => `${m.month} ${m.theme}`;

/** The answer worked out beside the page; the last one stands until the next is there. */
function useFound(asked: Asked | null): Found | null {
  const worker = useWorker<HowManyWorker>(startWorker);
  const [found, setFound] = useState<Found | null>(null);
  const turn = useRef(0);
  const text = JSON.stringify(asked);
  useEffect(() => {
    const mine = ++turn.current;
    const now = JSON.parse(text) as Asked | null;
    if (!now) return;
    void worker
      .ask()
      .find(now)
      .then((next) => mine === turn.current && setFound(next));
  }, [worker, text]);
  return asked ? found : null;
}

interface AnswerProps {
  found: Found;
  presold: number;
  planned: number;
  children: React.ReactNode;
}

/** The number, and what it comes to, in a sentence. */
function Answer({ found, presold, planned, children }: AnswerProps) {
  const say = useSayAbout();
  const { make, best, outcome, reserve, resampled, profit } = found;
  const range = `${sayNumber(resampled.from)} to ${sayNumber(resampled.to)}`;
  return (
    <div className="mb-4">
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <strong className="text-3xl leading-9 font-semibold" data-testid="make">
          {sayNumber(make)}
        </strong>
        <span className="text-muted">
          boxes to make{make !== best && ` instead of ${sayNumber(best)}`}; {sayNumber(planned)} are planned
        </span>
        {children}
      </p>
      <p className="mt-1 max-w-prose" data-testid="how-many-words">
        They sell out in {sayPart(outcome.chanceToSellOut)} of months like these. On average{" "}
        {sayNumber(outcome.expectedLeft)} are left over and {sayNumber(outcome.expectedShort)} buyers go without; the
        run earns about {say(profit)}, and in nine of ten months between {say(resampled.profit.from)} and{" "}
        {say(resampled.profit.to)}. {sayNumber(presold)} are sold already.
        {resampled.to > 0 && ` With other months like these, the best number would be ${range}.`} Hold back{" "}
        {sayNumber(reserve)} more for claims.
      </p>
    </div>
  );
}

const [WIDE, HIGH] = [800, 170];
const EDGE = { left: 8, right: 8, top: 26, bottom: 24 };

/** What every number would earn, and how likely it would be to sell out; the number at hand stands out. */
function Chart({ found, onChoose }: { found: Found; onChoose: (n: number | null) => void }) {
  const say = useSayAbout();
  const [at, setAt] = useState<number | null>(null);
  const { curve, make, best } = found;
  const x = scaleLinear([0, curve.length - 1], [EDGE.left, WIDE - EDGE.right]);
  const profits = curve.map((c) => c.profit);
  const y = scaleLinear([Math.min(0, ...profits), Math.max(...profits, 0.01)], [HIGH - EDGE.bottom, EDGE.top]);
  const line = curve.map((c, i) => `${i === 0 ? "M" : "L"}${x(c.n).toFixed(1)} ${y(c.profit).toFixed(1)}`).join("");
  const z = scaleLinear([0, 1], [HIGH - EDGE.bottom, EDGE.top]);
  const chance = curve.map((c, i) => `${i === 0 ? "M" : "L"}${x(c.n).toFixed(1)} ${z(c.sellOut).toFixed(1)}`).join("");
  const shown = curve[at ?? make] ?? curve[make]!;
  const [bx, by] = [x(shown.n), y(shown.profit)];
  const end = bx > WIDE * 0.7;
  return (
    <figure className="mb-5">
      <figcaption className="mb-1 text-sm text-muted">
        What each number earns on average (line), and how often it would sell out (dashed, from always to never). Point
        at a number, or choose it with the arrow keys.
      </figcaption>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="w-full cursor-crosshair rounded bg-hush"
        role="slider"
        tabIndex={0}
        aria-label="Number of boxes"
        aria-valuemin={0}
        aria-valuemax={curve.length - 1}
        aria-valuenow={shown.n}
        aria-valuetext={`${shown.n} boxes earn ${say(shown.profit)}, sold out in ${sayPart(shown.sellOut)}`}
        onPointerMove={(e) => {
          const { left, width } = e.currentTarget.getBoundingClientRect();
          const n = Math.round(x.invert(((e.clientX - left) / width) * WIDE));
          setAt(Math.max(0, Math.min(curve.length - 1, n)));
        }}
        onPointerLeave={() => setAt(null)}
        onClick={() => at !== null && onChoose(at === best ? null : at)}
        onKeyDown={(e) => {
          const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1, PageUp: 10, PageDown: -10 }[e.key];
          if (by === undefined) return;
          e.preventDefault();
          const n = Math.max(0, Math.min(curve.length - 1, make + by));
          onChoose(n === best ? null : n);
        }}
      >
        <line x1={EDGE.left} x2={WIDE - EDGE.right} y1={y(0)} y2={y(0)} stroke="var(--edge)" strokeWidth={1} />
        <path d={chance} fill="none" stroke="var(--muted)" strokeWidth={1.5} strokeDasharray="5 4" />
        <path d={line} fill="none" stroke="var(--ink)" strokeWidth={2} />
        <line
          x1={x(best)}
          x2={x(best)}
          y1={EDGE.top - 4}
          y2={HIGH - EDGE.bottom}
          stroke="var(--action)"
          strokeWidth={2}
        />
        {make !== best && (
          <line
            x1={x(make)}
            x2={x(make)}
            y1={EDGE.top}
            y2={HIGH - EDGE.bottom}
            stroke="var(--ink)"
            strokeDasharray="2 3"
          />
        )}
        <circle cx={bx} cy={by} r={4.5} fill="var(--action)" stroke="var(--paper)" strokeWidth={1.5} />
        <text x={end ? bx - 8 : bx + 8} y={16} textAnchor={end ? "end" : "start"} fontSize={13} fill="var(--ink)">
          {sayNumber(shown.n)} boxes: {say(shown.profit)}, sold out in {sayPart(shown.sellOut)}
        </text>
        {x.ticks(8).map((n) => (
          <text key={n} x={x(n)} y={HIGH - 8} fontSize={12} textAnchor="middle" fill="var(--muted)">
            {n === 0 ? "" : sayNumber(n)}
          </text>
        ))}
      </svg>
    </figure>
  );
}

interface ByColourwayProps {
  found: Found;
  shares: Asked["shares"];
  names: readonly string[];
  planned: readonly number[];
}

/** The number shared out: what each colourway sold so far, weighed with what past months say. */
function ByColourway({ found, shares, names, planned }: ByColourwayProps) {
  const rows = names.map((name, i) => ({
    name,
    planned: planned[i]!,
    ...shares[i]!,
    ...found.colourways[i]!,
  }));
  return (
    <>
      <h2 className="mb-2">By colourway</h2>
      <DataTable
        className="mb-8"
        scrolls="Numbers by colourway"
        rows={rows}
        rowKey={(r) => r.name}
        columns={[
          { head: "Colourway", names: true, wide: true, look: "[overflow-wrap:anywhere]", cell: (r) => r.name },
          { head: "sold so far", number: true, cell: (r) => sayNumber(r.sold) },
          { head: "of it", number: true, look: "text-muted", cell: (r) => (r.own === null ? "" : sayPart(r.own)) },
          { head: "by the past", number: true, look: "text-muted", cell: (r) => sayPart(r.past) },
          { head: "part", number: true, cell: (r) => sayPart(r.share) },
          {
            head: "make",
            number: true,
            look: "font-semibold",
            cell: (r) => <span data-testid={`make-${r.name}`}>{sayNumber(r.make)}</span>,
          },
          { head: "planned", number: true, look: "text-muted", cell: (r) => sayNumber(r.planned) },
          { head: "sells out", number: true, cell: (r) => sayPart(r.chanceToSellOut) },
          { head: "left", number: true, cell: (r) => sayNumber(r.expectedLeft) },
        ]}
      />
    </>
  );
}

interface MonthsProps {
  past: readonly SoldMonth[];
  without: ReadonlySet<string>;
  shape: ShapeOfDemand;
  onTurn: (key: string) => void;
}

/** The past months that it goes by; any can be left out. */
function Months({ past, without, shape, onTurn }: MonthsProps) {
  const most = Math.max(...past.map((m) => m.sold), 1);
  return (
    <>
      <DataTable
        scrolls="Past months"
        rows={past}
        rowKey={keyOf}
        columns={[
          {
            head: "Counted in",
            silent: true,
            cell: (m) => (
              <input
                type="checkbox"
                className="size-6"
                aria-label={`Go by ${monthName(m.month, true)}`}
                checked={!without.has(keyOf(m))}
                onChange={() => onTurn(keyOf(m))}
              />
            ),
          },
          { head: "Month", names: true, look: "whitespace-nowrap", cell: (m) => monthName(m.month, true) },
          {
            head: "Box",
            look: "[overflow-wrap:anywhere]",
            cell: (m) => <span className="block min-w-36">{m.theme}</span>,
          },
          {
            head: "Sold",
            wide: true,
            cell: (m) => (
              <span
                aria-hidden
                className="block h-3 rounded-[2px] bg-ink/75"
                style={{ width: `${(m.sold / most) * 100}%` }}
              />
            ),
          },
          { head: "sold", number: true, look: "font-semibold", cell: (m) => sayNumber(m.sold) },
          { head: "of", number: true, look: "text-muted", cell: (m) => (m.made === null ? "" : sayNumber(m.made)) },
          {
            head: "",
            cell: (m) =>
              m.open ? (
                <span className="whitespace-nowrap text-muted">still being sold</span>
              ) : (
                m.soldOut && (
                  <span className="font-medium whitespace-nowrap">
                    <Diamond className="text-low" /> sold out, at least
                  </span>
                )
              ),
          },
        ]}
      />
      <p className="pt-2 text-xs text-muted">
        A month that sold out says only that at least so many were wanted.{" "}
        {shape === "empirical"
          ? "Its chance goes to the months that sold more (Kaplan and Meier 1958)."
          : "The fit takes it as a lower bound (Tobin 1958)."}{" "}
        <Link className="link" to="/tables/sales">
          Bring sales in
        </Link>
      </p>
    </>
  );
}
