import type { Need, VariantBill } from "@jar-count/core/bom";
import type { CostLine } from "@jar-count/core/cost";
import { useState } from "react";
import { Link } from "react-router";
import { Chip } from "../../ui/Bead.tsx";
import { ButtonLink, Empty } from "../../ui/controls.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { SECTIONS } from "./CountsStage.tsx";
import { WhereFrom } from "../../ui/WhereFrom.tsx";
import type { BoxWork } from "./useBox.ts";
import { useNeedRows } from "./useNeedRows.tsx";
import { WaySwitch } from "./WaySwitch.tsx";

/** What the materials of a box cost, colourway by colourway, and the lines that add up to it. */
export function CostStage({ work }: { work: BoxWork }) {
  const { box, bill, cost } = work;
  const [way, setWay] = useState<string | null>(null);
  const money = useSayMoney();
  const say = useSayQuantity();
  if (cost.variants.length === 0 || box.lines.length === 0) {
    return (
      <Empty
        title="Nothing to cost yet"
        action={
          <ButtonLink look="main" to={`/months/${box.id}/${box.lines.length === 0 ? "designs" : "colours"}`}>
            {box.lines.length === 0 ? "Add a design" : "Add a colourway"}
          </ButtonLink>
        }
      >
        Costs follow the counts: a design, a colourway and what a pack costs.
      </Empty>
    );
  }
  const name = (id: string) => box.colourways.find((c) => c.id === id)?.name ?? "";
  const i = Math.max(
    0,
    cost.variants.findIndex((v) => v.first === way),
  );
  const chosen = cost.variants[i]!;
  const needs = bill.variants[i]!.needs;
  const lines = chosen.lines.map((line, j) => ({ ...line, need: needs[j]! }));
  return (
    <section className="px-6 pt-4" aria-label="Cost">
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
      <div className="mb-3 flex flex-wrap items-center justify-between gap-3">
        <h2>Materials of the run, line by line</h2>
        {cost.variants.length > 1 && <WaySwitch box={box} value={chosen.first} onChange={setWay} />}
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
                <tr>
                  <th
                    scope="rowgroup"
                    colSpan={4}
                    className="h-10! pt-3 text-left align-bottom text-xs font-normal! text-muted"
                  >
                    {title}
                  </th>
                </tr>
                {list.map((l) => (
                  <tr key={l.component.id}>
                    <th scope="row" className="text-left font-normal!">
                      <span className="flex items-center gap-2">
                        <span className="grid w-6 shrink-0 place-items-center">
                          <Chip of={l.component} />
                        </span>
                        <Link
                          to={`/jars/${l.component.id}`}
                          className="min-w-0 [overflow-wrap:anywhere] hover:underline"
                        >
                          {l.component.name}
                        </Link>
                      </span>
                    </th>
                    <td className="num">{say(l.need.run, l.component.baseUnit)}</td>
                    <td className="num text-muted">
                      {l.component.averageCost
                        ? "average paid"
                        : l.component.offers[0]
                          ? `${money(l.component.offers[0].price)} a ${l.component.offers[0].pack.slice(0, 30)}`
                          : ""}
                    </td>
                    <td className="num font-semibold">
                      {l.cost === null ? (
                        <span className="font-medium text-low">
                          <Diamond /> no price
                        </span>
                      ) : (
                        <CostOrigins work={work} line={l} variant={bill.variants[i]!} />
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
    </section>
  );
}

/** A line's cost: so much of it at what a base unit costs, and where that much comes from. */
function CostOrigins({
  work,
  line,
  variant,
}: {
  work: BoxWork;
  line: CostLine & { need: Need };
  variant: VariantBill;
}) {
  const money = useSayMoney();
  const say = useSayQuantity();
  const { component, need } = line;
  const rows = useNeedRows(work, variant, need);
  const aBox = need.piecesPerBox ?? need.perBox;
  return (
    <WhereFrom
      label={`Where ${money(line.cost!)} for ${component.name} comes from`}
      title={`${component.name}: what a box takes`}
      rows={rows}
      total={say(aBox, component.baseUnit === "mm" ? "mm" : "piece")}
      note={`× ${sayNumber(variant.boxes)} boxes is ${say(need.run, component.baseUnit)} for the run, at ${money(line.unitCost!)} ${component.baseUnit === "piece" ? "a piece" : component.baseUnit === "g" ? "a gram" : "a millimetre"} (${component.averageCost ? "the average of what was paid for what is on hand" : `${money(component.offers[0]!.price)} a ${component.offers[0]!.pack}`}): ${money(line.cost!)}.`}
    >
      {money(line.cost!)}
    </WhereFrom>
  );
}
