import { aBoxOf, type Need, type VariantBill } from "@jar-count/core/bom";
import type { CostLine } from "@jar-count/core/cost";
import { useShallow } from "zustand/react/shallow";
import { Diamond, sayNumber, useSayQuantity } from "../../../ui/marks.tsx";
import { useSayMoney } from "../../../ui/money.ts";
import { useRowsLater } from "../../../ui/useRowsLater.ts";
import { WhereFrom } from "../../../ui/WhereFrom.tsx";
import { useBox, useBoxStore } from "../boxStore.ts";
import { useNeedRows } from "../needRows.tsx";
import { useVariantNames } from "./variants.ts";
import { ComponentName, SECTIONS } from "../sections.tsx";
import { DataTable } from "../../../ui/DataTable.tsx";

/** Every component of one variant's run: so much of it, at so much, and what that comes to. */
export function MaterialLines({ at }: { at: number }) {
  const { bill, cost } = useBox(useShallow(({ bill, cost }) => ({ bill, cost })));
  const name = useVariantNames()[at]!;
  const money = useSayMoney();
  const say = useSayQuantity();
  const chosen = cost.variants[at]!;
  const variant = bill.variants[at]!;
  const lines = useRowsLater(chosen.lines.map((line, j) => ({ ...line, need: variant.needs[j]! })));
  return (
    <>
      <h2 className="mb-3">Materials of the run, line by line</h2>
      <DataTable
        scrolls="Cost lines"
        groups={SECTIONS.map(({ title, kinds }) => ({
          title,
          rows: lines.filter((l) => kinds.includes(l.component.kind)),
        }))}
        rowKey={(l) => l.component.id}
        columns={[
          {
            head: `${name}, ${sayNumber(chosen.boxes)} boxes`,
            wide: true,
            names: true,
            cell: (l) => <ComponentName component={l.component} />,
          },
          { head: "the run", number: true, cell: (l) => say(l.need.run, l.component.baseUnit) },
          { head: "price", number: true, look: "text-muted", cell: (l) => priceOf(l, money) },
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
              {name} adds up to
            </th>
            <td className="num" data-testid="colourway-cost">
              {money(chosen.run)}
            </td>
          </tr>
        }
      />
      <p className="pt-3 text-xs text-muted">
        Spares, contents and packaging are in it. Each line is rounded once to the smallest coin.
      </p>
    </>
  );
}

/** What a price goes by, in few words. */
function priceOf({ component, unitCost }: CostLine, money: (amount: string) => string): string {
  const { averageCost, lastCost, offers } = component;
  if (unitCost === null) return "";
  if (unitCost === averageCost) return "average paid";
  if (unitCost === lastCost) return "last paid";
  return offers[0] ? `${money(offers[0].price)} a ${offers[0].pack.slice(0, 30)}` : "";
}

const A_UNIT = { piece: "a piece", g: "a gram", mm: "a millimetre" };

/** A line's cost: so much of it at what a base unit costs, and where that much comes from. */
function CostOrigins({ line, variant }: { line: CostLine & { need: Need }; variant: VariantBill }) {
  const { work } = useBoxStore();
  const money = useSayMoney();
  const say = useSayQuantity();
  const { component, need } = line;
  const { baseUnit, averageCost, lastCost, offers } = component;
  const needRows = useNeedRows(baseUnit === "mm");
  const note = () => {
    const by =
      line.unitCost === averageCost
        ? "the average of what was paid for what is on hand"
        : line.unitCost === lastCost
          ? "what was paid for it last"
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
