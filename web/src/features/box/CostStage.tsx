import { aBoxOf, type Need, type VariantBill } from "@jar-count/core/bom";
import type { Component } from "@jar-count/core/contract";
import type { CostLine } from "@jar-count/core/cost";
import { useShallow } from "zustand/react/shallow";
import { ButtonLink, Empty } from "../../ui/controls.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { useRowsLater } from "../../ui/useRowsLater.ts";
import { WhereFrom } from "../../ui/WhereFrom.tsx";
import { useBox, useBoxStore } from "./boxStore.ts";
import { useNeedRows } from "./needRows.tsx";
import { ComponentHead, SectionHead, SECTIONS } from "./sections.tsx";
import { useColourway } from "./useColourway.ts";
import { ColourwaySwitch } from "./ColourwaySwitch.tsx";

/** What the materials of a box cost, colourway by colourway, and the lines that add up to it. */
export function CostStage() {
  const { id, noLines, empty } = useBox(
    useShallow(({ box, cost }) => ({
      id: box.id,
      noLines: box.lines.length === 0,
      empty: cost.variants.length === 0 || box.lines.length === 0,
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
    <table className="row-table mb-8 max-w-xl">
      <thead>
        <tr>
          <th scope="col" className="w-full">
            Colourway
          </th>
          <th scope="col" className="text-right!">
            boxes
          </th>
          <th scope="col" className="text-right!">
            a box
          </th>
          <th scope="col" className="text-right!">
            the run
          </th>
        </tr>
      </thead>
      <tbody>
        {cost.variants.map((v) => (
          <tr key={`${v.first}${v.second}`}>
            <th scope="row" className="text-left font-normal! [overflow-wrap:anywhere]">
              {name(v.first)}
            </th>
            <td className="num">{sayNumber(v.boxes)}</td>
            <td className="num font-semibold" data-testid={`box-cost-${name(v.first)}`}>
              {v.perBox === null ? "" : money(v.perBox)}
            </td>
            <td className="num">{money(v.run)}</td>
          </tr>
        ))}
      </tbody>
      <tfoot>
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
      </tfoot>
    </table>
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
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Cost lines, scrolls sideways">
        <table className="row-table">
          <thead>
            <tr>
              <th scope="col" className="w-full">
                {name(chosen.first)}, {sayNumber(chosen.boxes)} boxes
              </th>
              <th scope="col" className="text-right!">
                the run
              </th>
              <th scope="col" className="text-right!">
                price
              </th>
              <th scope="col" className="text-right!">
                cost
              </th>
            </tr>
          </thead>
          {SECTIONS.map(({ title, kinds }) => {
            const list = lines.filter((l) => kinds.includes(l.component.kind));
            if (list.length === 0) return null;
            return (
              <tbody key={title}>
                <SectionHead title={title} columns={4} />
                {list.map((l) => (
                  <tr key={l.component.id}>
                    <ComponentHead component={l.component} />
                    <td className="num">{say(l.need.run, l.component.baseUnit)}</td>
                    <td className="num text-muted">{priceOf(l.component, money)}</td>
                    <td className="num font-semibold">
                      {l.cost === null ? (
                        <span className="font-medium text-low">
                          <Diamond /> no price
                        </span>
                      ) : (
                        <CostOrigins line={l} variant={variant} />
                      )}
                    </td>
                  </tr>
                ))}
              </tbody>
            );
          })}
          <tfoot>
            <tr className="font-semibold">
              <th scope="row" colSpan={3} className="text-left font-semibold!">
                {name(chosen.first)} adds up to
              </th>
              <td className="num" data-testid="way-cost">
                {money(chosen.run)}
              </td>
            </tr>
          </tfoot>
        </table>
      </div>
      <p className="pt-3 text-xs text-muted">
        By the average paid for what is on hand, else by pack price; to the cent once a line. Spares, bags, postage and
        labour are not in it yet.
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
