import { aBoxOf, type Need, type VariantBill } from "@jar-count/core/bom";
import type { Component } from "@jar-count/core/contract";
import type { CostLine } from "@jar-count/core/cost";
import { useShallow } from "zustand/react/shallow";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Empty } from "../../ui/controls.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { useRowsLater } from "../../ui/useRowsLater.ts";
import { WhereFrom } from "../../ui/WhereFrom.tsx";
import { holdsSomething, useBox, useBoxStore } from "./boxStore.ts";
import { useNeedRows } from "./needRows.tsx";
import { ComponentName, SECTIONS } from "./sections.tsx";
import { useColourway } from "./useColourway.ts";
import { ColourwaySwitch } from "./ColourwaySwitch.tsx";
import { DataTable } from "../../ui/DataTable.tsx";

/** What the materials of a box cost, colourway by colourway, and the lines that add up to it. */
export function CostStage() {
  const { id, noLines, empty } = useBox(
    useShallow(({ box, cost }) => ({
      id: box.id,
      noLines: !holdsSomething(box),
      empty: cost.variants.length === 0 || !holdsSomething(box),
    })),
  );
  if (!empty) {
    return (
      <section className="px-6 pt-4" aria-label="Cost">
        <ByColourway />
        <LineByLine />
      </section>
    );
  }
  return (
    <Empty
      title="Nothing to cost yet"
      action={
        <ButtonLink look="main" to={`/months/${id}/${noLines ? "designs" : "colours"}`}>
          {noLines ? "Add a design" : "Add a colourway"}
        </ButtonLink>
      }
    >
      Costs follow the counts: a design, a colourway and what a pack costs.
    </Empty>
  );
}

const useNameOf = () => {
  const colourways = useBox(({ box }) => box.colourways);
  return (id: string) => colourways.find((c) => c.id === id)?.name ?? "";
};

function ByColourway() {
  const cost = useBox((w) => w.cost);
  const name = useNameOf();
  const money = useSayMoney();
  return (
    <DataTable
      className="mb-8 max-w-xl"
      rows={cost.variants}
      rowKey={(v) => `${v.first} ${v.second}`}
      columns={[
        { head: "Colourway", wide: true, names: true, look: "[overflow-wrap:anywhere]", cell: (v) => name(v.first) },
        { head: "boxes", number: true, cell: (v) => sayNumber(v.boxes) },
        {
          head: "a box",
          number: true,
          look: "font-semibold",
          cell: (v) => (
            <span data-testid={`box-cost-${name(v.first)}`}>{v.perBox === null ? "" : money(v.perBox)}</span>
          ),
        },
        { head: "the run", number: true, cell: (v) => money(v.run) },
      ]}
      foot={
        <tr className="font-semibold">
          <th scope="row" className="text-left font-semibold!">
            All
          </th>
          <td className="num">{sayNumber(cost.boxes)}</td>
          <td className="num">{cost.perBox === null ? "" : money(cost.perBox)}</td>
          <td className="num" data-testid="run-cost">
            {money(cost.run)}
          </td>
        </tr>
      }
    />
  );
}

function LineByLine() {
  const { bill, cost } = useBox(useShallow(({ bill, cost }) => ({ bill, cost })));
  const [colourway, setColourway] = useColourway();
  const name = useNameOf();
  const money = useSayMoney();
  const say = useSayQuantity();
  const at = Math.max(
    0,
    cost.variants.findIndex((v) => v.first === colourway),
  );
  const chosen = cost.variants[at]!;
  const variant = bill.variants[at]!;
  const lines = useRowsLater(chosen.lines.map((line, j) => ({ ...line, need: variant.needs[j]! })));
  return (
    <>
      <div className="mb-3 flex flex-wrap items-center justify-between gap-3">
        <h2>Materials of the run, line by line</h2>
        {cost.variants.length > 1 && <ColourwaySwitch value={chosen.first} onChange={setColourway} />}
      </div>
      <DataTable
        scrolls="Cost lines"
        groups={SECTIONS.map(({ title, kinds }) => ({
          title,
          rows: lines.filter((l) => kinds.includes(l.component.kind)),
        }))}
        rowKey={(l) => l.component.id}
        columns={[
          {
            head: `${name(chosen.first)}, ${sayNumber(chosen.boxes)} boxes`,
            wide: true,
            names: true,
            cell: (l) => <ComponentName component={l.component} />,
          },
          { head: "the run", number: true, cell: (l) => say(l.need.run, l.component.baseUnit) },
          { head: "price", number: true, look: "text-muted", cell: (l) => priceOf(l.component, money) },
          {
            head: "cost",
            number: true,
            look: "font-semibold",
            cell: (l) =>
              l.cost === null ? (
                <span className="font-medium text-low">
                  <Diamond /> no price
                </span>
              ) : (
                <CostOrigins line={l} variant={variant} />
              ),
          },
        ]}
        foot={
          <tr className="font-semibold">
            <th scope="row" colSpan={3} className="text-left font-semibold!">
              {name(chosen.first)} adds up to
            </th>
            <td className="num" data-testid="colourway-cost">
              {money(chosen.run)}
            </td>
          </tr>
        }
      />
      <p className="pt-3 text-xs text-muted">
        By the average paid for what is on hand, else by pack price; each line is rounded once to the smallest coin.
        Spares, bags, postage and labour are not in it yet.
      </p>
    </>
  );
}

/** What a price goes by, in few words. */
function priceOf({ averageCost, offers }: Component, money: (amount: string) => string): string {
  if (averageCost) return "average paid";
  return offers[0] ? `${money(offers[0].price)} a ${offers[0].pack.slice(0, 30)}` : "";
}

const A_UNIT = { piece: "a piece", g: "a gram", mm: "a millimetre" };

/** A line's cost: so much of it at what a base unit costs, and where that much comes from. */
function CostOrigins({ line, variant }: { line: CostLine & { need: Need }; variant: VariantBill }) {
  const { work } = useBoxStore();
  const money = useSayMoney();
  const say = useSayQuantity();
  const { component, need } = line;
  const { baseUnit, averageCost, offers } = component;
  const needRows = useNeedRows(baseUnit === "mm");
  const note = () => {
    const by = averageCost
      ? "the average of what was paid for what is on hand"
      : `${money(offers[0]!.price)} a ${offers[0]!.pack}`;
    const run = `× ${sayNumber(variant.boxes)} boxes is ${say(need.run, baseUnit)} for the run`;
    return `${run}, at ${money(line.unitCost!)} ${A_UNIT[baseUnit]} (${by}): ${money(line.cost!)}.`;
  };
  return (
    <WhereFrom
      label={`Where ${money(line.cost!)} for ${component.name} comes from`}
      title={() => `${component.name}: what a box takes`}
      rows={() => needRows(work.getState().detail, variant, need)}
      total={say(aBoxOf(need), baseUnit === "mm" ? "mm" : "piece")}
      note={note}
    >
      {money(line.cost!)}
    </WhereFrom>
  );
}
