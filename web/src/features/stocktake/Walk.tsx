import { sumOfMoney, worthOf } from "@jar-count/core/cost";
import type { Component, ComponentDetail, ShelfJar, Stocktake } from "@jar-count/core/contract";
import { sayRun, expanded } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useParams } from "react-router";
import {
  componentQuery,
  componentsQuery,
  queryClient,
  shelfQuery,
  stockChanged,
  stocktakeQuery,
} from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Fault, Labelled, Segmented } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { CountMark, Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useCurrency, useSayMoney } from "../../ui/money.ts";
import { sayMinute } from "../../ui/month.ts";
import { Leading, Page, PageHead, TallyHead, TallyRow } from "../../ui/page.tsx";
import { useKnown } from "../../ui/useKnown.ts";
import { Waiting } from "../../ui/Waiting.tsx";
import { ScalePanel, Weigh } from "../scale/index.ts";
import { DataTable } from "../../ui/DataTable.tsx";

type Line = Stocktake["lines"][number];
const keyOf = (j: { component: string; place: string; lot: string; stretchMm: number | null }) =>
  `${j.component} ${j.place} ${j.lot} ${j.stretchMm ?? ""}`;

/** A walk along the shelf: jar after jar, then the differences, then posting all or some. */
export function Walk() {
  const { id } = useParams() as { id: string };
  const walk = useQuery(stocktakeQuery(id));
  const shelf = useQuery(shelfQuery);
  const components = useQuery(componentsQuery);
  if (!walk.data || !shelf.data || !components.data)
    return (
      <Waiting
        error={walk.error ?? shelf.error ?? components.error}
        what="the walk"
        retry={() => void walk.refetch()}
      />
    );
  return <WalkOf walk={walk.data} shelf={shelf.data} components={new Map(components.data.map((c) => [c.id, c]))} />;
}

function WalkOf({
  walk,
  shelf,
  components,
}: {
  walk: Stocktake;
  shelf: ShelfJar[];
  components: ReadonlyMap<string, Component>;
}) {
  const lines = new Map(walk.lines.map((l) => [keyOf(l), l]));
  useKnown(
    shelf.map((j) => j.component),
    components,
  );
  const open = shelf.filter((j) => !lines.has(keyOf(j)) && components.has(j.component));
  const [view, setView] = useState<"walk" | "differences">(open.length > 0 ? "walk" : "differences");
  const [again, setAgain] = useState<string | null>(null);
  const jar = (again && shelf.find((j) => keyOf(j) === again)) || open[0];
  const counted = walk.lines.filter((l) => l.how !== "skipped");
  const real = counted.filter(isReal).length;
  return (
    <Page
      title="A walk along the shelf"
      tally={
        <>
          <TallyHead what="this walk" />
          <Leading n={sayNumber(open.length)}>{open.length === 1 ? "jar to go" : "jars to go"}</Leading>
          <dl>
            <TallyRow label="Counted or weighed">{sayNumber(counted.length)}</TallyRow>
            <TallyRow label="Skipped">{sayNumber(walk.lines.length - counted.length)}</TallyRow>
            <TallyRow label="Differ for certain">{sayNumber(real)}</TallyRow>
            <TallyRow label="Posted">{sayNumber(walk.lines.filter((l) => l.posted).length)}</TallyRow>
          </dl>
          <div className="pt-6">{view === "walk" && <ScalePanel />}</div>
        </>
      }
    >
      <PageHead
        back={{ to: "/stocktakes", words: "Stocktake" }}
        title="A walk along the shelf"
        about={`begun ${sayMinute(walk.startedAt)}`}
        actions={
          <Segmented
            label="Show"
            value={view}
            options={[
              { value: "walk", label: "Walk" },
              { value: "differences", label: `Differences (${counted.length})` },
            ]}
            onChange={setView}
          />
        }
      />
      {view === "differences" ? (
        <Differences
          walk={walk}
          components={components}
          onAgain={(key) => {
            setAgain(key);
            setView("walk");
          }}
        />
      ) : jar ? (
        <OneJar
          key={keyOf(jar)}
          walk={walk}
          jar={jar}
          component={components.get(jar.component)!}
          shelf={shelf}
          lines={lines}
          onDone={() => setAgain((now) => (now === keyOf(jar) ? null : now))}
          onPick={setAgain}
        />
      ) : (
        <p className="px-6">
          Every jar has been looked at.{" "}
          <button type="button" className="link font-medium" onClick={() => setView("differences")}>
            See the differences
          </button>
        </p>
      )}
    </Page>
  );
}

/** A difference is certain when it exceeds what count and book together leave open, at 95 %. */
const isReal = (l: Line) => Math.abs(l.counted - l.book) > Math.max(expanded(Math.hypot(l.u, l.bookU)), 1e-9);

function OneJar({
  walk,
  jar,
  component,
  shelf,
  lines,
  onDone,
  onPick,
}: {
  walk: Stocktake;
  jar: ShelfJar;
  component: Component;
  shelf: ShelfJar[];
  lines: ReadonlyMap<string, Line>;
  onDone: () => void;
  onPick: (key: string) => void;
}) {
  const detail = useQuery(componentQuery(jar.component));
  const unit = useSettings((s) => s.unit);
  const linear = component.baseUnit === "mm";
  const [how, setHow] = useState<"weighed" | "counted">(linear ? "counted" : "weighed");
  const [byHand, setByHand] = useState<number | null>(null);
  // While one is on its way no other is sent: a second press, meant for the next jar, would be of this one.
  const { send, busy, refusal } = useSend("countJar", (saved) => {
    queryClient.setQueryData(stocktakeQuery(walk.id).queryKey, saved);
    onDone();
  });
  const fault = sentenceOf(refusal);
  const here = shelf.filter((j) => j.place === jar.place);
  const write = async (line: { how: Line["how"]; counted: number; u: number; entered: string }) => {
    const { component: c, place, lot, stretchMm } = jar;
    await send({ params: { id: walk.id }, body: { component: c, place, lot, stretchMm, ...line } });
  };
  const balance =
    (detail.data as ComponentDetail | undefined)?.balances.find(
      (b) => b.place === jar.place && b.lot === jar.lot && b.stretchMm === jar.stretchMm,
    ) ?? null;
  return (
    <div className="px-6">
      <div className="flex flex-wrap items-end justify-between gap-3 border-t border-rule pt-4 pb-4">
        <div>
          <p className="text-muted">
            {jar.placeCode}, {here.findIndex((j) => keyOf(j) === keyOf(jar)) + 1} of {here.length}
          </p>
          <p className="flex items-center gap-2 text-lg font-semibold" data-testid="walk-jar">
            <Chip of={component} size={26} /> <span className="[overflow-wrap:anywhere]">{component.name}</span>
          </p>
          <p className="text-muted">
            <span className="font-mono">{component.code}</span>
            {jar.lot && `, lot ${jar.lot}`}
            {linear && jar.stretchMm ? `, pieces of ${sayRun(jar.stretchMm, unit)}` : ""}; the book says{" "}
            <CountMark n={jar.quantity} u={jar.u} of={linear ? "piece" : component.baseUnit} />
          </p>
        </div>
        <Labelled label="Go to">
          <select className="field max-w-64" value={keyOf(jar)} onChange={(e) => onPick(e.target.value)}>
            {shelf.map((j) => (
              <option key={keyOf(j)} value={keyOf(j)}>
                {j.placeCode} · {lines.has(keyOf(j)) ? "done: " : ""}
                {walkName(j, component, shelf)}
              </option>
            ))}
          </select>
        </Labelled>
      </div>
      {!linear && (
        <Segmented
          label="How"
          value={how}
          options={[
            { value: "weighed", label: "By weight" },
            { value: "counted", label: component.baseUnit === "g" ? "Write the weight" : "By hand" },
          ]}
          onChange={setHow}
        />
      )}
      <div className="pt-4">
        {how === "weighed" && detail.data ? (
          <Weigh component={component} balance={balance}>
            {(w) => (
              <div className="flex gap-2">
                <Button
                  look="main"
                  disabled={!w || busy}
                  onClick={() => w && void write({ how: "weighed", counted: w.quantity, u: w.u, entered: w.entered })}
                >
                  {w
                    ? `Write down ${sayNumber(w.quantity, component.baseUnit === "g" ? 2 : 0)} and go on`
                    : "Write it down and go on"}
                </Button>
                <Button disabled={busy} onClick={() => void write({ how: "skipped", counted: 0, u: 0, entered: "" })}>
                  Skip this jar
                </Button>
              </div>
            )}
          </Weigh>
        ) : (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (byHand !== null && !busy)
                void write({ how: "counted", counted: byHand, u: 0, entered: "counted by hand" });
            }}
          >
            <Labelled label={component.baseUnit === "g" ? "Grams in the jar" : "How many are there"}>
              <NumberField
                autoFocus
                className="field h-11! w-40 text-lg"
                optional
                whole={component.baseUnit !== "g"}
                value={byHand}
                onChange={setByHand}
              />
            </Labelled>
            <div className="flex gap-2 pt-3">
              <Button type="submit" look="main" disabled={byHand === null || busy}>
                Write it down and go on
              </Button>
              <Button disabled={busy} onClick={() => void write({ how: "skipped", counted: 0, u: 0, entered: "" })}>
                Skip this jar
              </Button>
            </div>
          </form>
        )}
      </div>
      {fault && <Fault>{fault}</Fault>}
    </div>
  );
}

/** The list of jars is long: the one at hand is named in full, the others by their place in it. */
function walkName(j: ShelfJar, at: Component, shelf: ShelfJar[]): string {
  const known = queryClient.getQueryData(componentsQuery.queryKey)?.find((c) => c.id === j.component);
  return known?.name ?? (j.component === at.id ? at.name : `jar ${shelf.indexOf(j) + 1}`);
}

function Differences({
  walk,
  components,
  onAgain,
}: {
  walk: Stocktake;
  components: ReadonlyMap<string, Component>;
  onAgain: (key: string) => void;
}) {
  const say = useSayQuantity();
  const money = useSayMoney();
  const currency = useCurrency();
  const person = useSettings((s) => s.person);
  const rows = walk.lines.filter((l) => l.how !== "skipped");
  const waiting = rows.filter((l) => !l.posted);
  const [left, setLeft] = useState<ReadonlySet<string>>(new Set());
  const { send, busy, refusal } = useSend("postStocktake", async (saved) => {
    queryClient.setQueryData(stocktakeQuery(walk.id).queryKey, saved);
    await stockChanged();
  });
  const fault = sentenceOf(refusal);
  const chosen = waiting.filter((l) => !left.has(keyOf(l)));
  const worth = (l: Line) =>
    worthOf(components.get(l.component)?.averageCost ?? "0", (l.counted - l.book) * (l.stretchMm ?? 1), currency);
  const signed = (amount: string) => (amount.startsWith("-") ? `−${money(amount.slice(1))}` : money(amount));
  const nameOf = (l: Line) => components.get(l.component)?.name ?? "";
  const unitOf = (l: Line) => (components.get(l.component)?.baseUnit === "g" ? "g" : "piece");
  const sorted = rows.toSorted(
    (a, b) => Number(isReal(b)) - Number(isReal(a)) || Math.abs(Number(worth(b))) - Math.abs(Number(worth(a))),
  );
  const toggle = (k: string) =>
    setLeft((s) => (s.has(k) ? new Set([...s].filter((x) => x !== k)) : new Set([...s, k])));
  const post = () => {
    const lines = chosen.map(({ component, place, lot, stretchMm, counted }) => ({
      ...{ component, place, lot, stretchMm },
      counted,
    }));
    return send((requestKey) => ({ params: { id: walk.id }, body: { requestKey, person, lines } }));
  };
  if (rows.length === 0) return <p className="px-6 text-muted">Nothing has been counted on this walk yet.</p>;
  const together = sumOfMoney(chosen.map(worth), currency);
  return (
    <section className="px-6" aria-label="Differences">
      <DataTable
        rows={sorted}
        rowKey={keyOf}
        testId="difference"
        columns={[
          {
            head: "Post",
            silent: true,
            cell: (l) =>
              l.posted ? (
                <span className="text-xs text-muted">posted</span>
              ) : (
                <input
                  type="checkbox"
                  className="size-4"
                  aria-label={`Post ${nameOf(l)}`}
                  checked={!left.has(keyOf(l))}
                  onChange={() => toggle(keyOf(l))}
                />
              ),
          },
          {
            head: "Jar",
            wide: true,
            names: true,
            cell: (l) => (
              <button
                type="button"
                className="text-left hover:underline disabled:no-underline"
                disabled={l.posted}
                onClick={() => onAgain(keyOf(l))}
                title={l.posted ? undefined : "Count it again"}
              >
                {nameOf(l)}
              </button>
            ),
          },
          {
            head: "book",
            number: true,
            cell: (l) => <CountMark n={l.book} u={l.bookU} of={unitOf(l)} strong={false} />,
          },
          { head: "found", number: true, cell: (l) => <CountMark n={l.counted} u={l.u} of={unitOf(l)} /> },
          {
            head: "difference",
            number: true,
            cell: (l) => {
              const by = l.counted - l.book;
              return by === 0 ? "none" : `${by > 0 ? "+" : "−"}${say(Math.abs(by), unitOf(l))}`;
            },
          },
          {
            head: "worth",
            number: true,
            look: "text-muted",
            cell: (l) => (l.counted === l.book ? null : signed(worth(l))),
          },
          {
            head: "Certain?",
            look: "whitespace-nowrap",
            cell: (l) =>
              isReal(l) ? (
                <span className="font-semibold text-low">
                  <Diamond /> more than the ± explains
                </span>
              ) : (
                <span className="text-muted">within the ±</span>
              ),
          },
        ]}
      />
      {waiting.length > 0 && (
        <p className="flex flex-wrap items-center gap-3 pt-4">
          <Button look="main" disabled={busy || chosen.length === 0} onClick={() => void post()}>
            Post {chosen.length === waiting.length ? `all ${chosen.length}` : `${chosen.length} of ${waiting.length}`}
          </Button>
          <Button disabled={busy} onClick={() => setLeft(new Set(waiting.filter((l) => !isReal(l)).map(keyOf)))}>
            Choose only what is certain
          </Button>
          <span className="text-muted">{Number(together) === 0 ? "" : `together worth ${signed(together)}`}</span>
        </p>
      )}
      {fault && <Fault>{fault}</Fault>}
    </section>
  );
}
