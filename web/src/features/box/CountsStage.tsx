import { isMirroredPair } from "@jar-count/core/builder";
import { freeOf } from "@jar-count/core/component";
import { billAsCsv, type Gap, type Need, type VariantBill } from "@jar-count/core/bom";
import type { Component } from "@jar-count/core/contract";
import { Download, Printer } from "lucide-react";
import { Fragment, useState } from "react";
import { Link } from "react-router";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Empty, ButtonLink } from "../../ui/controls.tsx";
import { Diamond, JarGauge, sayNumber, Short, useSayQuantity } from "../../ui/marks.tsx";
import { download } from "../../ui/handOver.ts";
import { type OriginRow, WhereFrom } from "../../ui/WhereFrom.tsx";
import type { BoxWork } from "./useBox.ts";
import { useNeedRows } from "./useNeedRows.tsx";
import { WaySwitch } from "./WaySwitch.tsx";

export const SECTIONS: { title: string; kinds: string[] }[] = [
  { title: "Beads", kinds: ["bead", "focal"] },
  { title: "Findings", kinds: ["finding"] },
  { title: "Thread, cord, wire and chain", kinds: ["stringing"] },
  { title: "Everything else", kinds: ["consumable", "packaging"] },
];

interface Row {
  component: Component;
  from: { variant: VariantBill; need: Need }[];
  /** Least and most a box, over the colourways looked at: pieces, or the length that is cut. */
  least: number;
  most: number;
  run: number;
  runInAll: number;
  short: number;
}

/** Seeds are kept in grams and counted in beads. */
const aBoxUnit = (row: Row) => (row.component.baseUnit === "mm" ? "mm" : "piece");

/** What the run needs, what is on hand and what is short: component by component. */
export function CountsStage({ work }: { work: BoxWork }) {
  const { box, bill, cost, detail } = work;
  const [way, setWay] = useState("all");
  const say = useSayQuantity();
  if (bill.variants.length === 0 || box.lines.length === 0) {
    return (
      <Empty
        title="Nothing to count yet"
        action={
          <ButtonLink look="main" to={`/months/${box.id}/${box.lines.length === 0 ? "designs" : "colours"}`}>
            {box.lines.length === 0 ? "Add a design" : "Add a colourway"}
          </ButtonLink>
        }
      >
        Counts need a design and a colourway with a number of boxes.
      </Empty>
    );
  }
  const chosen = bill.variants.some((v) => v.first === way) ? way : "all";
  const looked = bill.variants.filter((v) => chosen === "all" || v.first === chosen);
  const rows = new Map<string, Row>();
  for (const v of looked) {
    for (const need of v.needs) {
      const total = bill.totals.find((t) => t.component.id === need.component.id)!;
      const row = rows.get(need.component.id) ?? {
        component: need.component,
        from: [],
        least: Infinity,
        most: 0,
        run: 0,
        runInAll: total.run,
        short: total.short,
      };
      const aBox = need.piecesPerBox ?? need.perBox;
      row.least = Math.min(row.least, aBox);
      row.most = Math.max(row.most, aBox);
      row.run += need.run;
      row.from.push({ variant: v, need });
      rows.set(need.component.id, row);
    }
  }
  const boxes = looked.reduce((sum, v) => sum + v.boxes, 0);
  const gaps = new Map<string, Gap & { run: number }>();
  for (const v of looked)
    for (const g of v.gaps)
      gaps.set(g.boxRole.id, { ...g, run: (gaps.get(g.boxRole.id)?.run ?? 0) + g.perBox * v.boxes });
  const mirrored = box.lines.flatMap((l) => {
    const pinned = detail.designs.find((d) => d.designId === l.designId && d.revision === l.revision);
    return pinned
      ? pinned.design.parts
          .filter((p) => isMirroredPair(pinned.design, p))
          .map((p) => `${pinned.design.name}, ${p.name}`)
      : [];
  });
  const one = chosen !== "all" && bill.variants.length > 1;
  return (
    <section className="pt-4" aria-label="Counts">
      <div className="no-print flex flex-wrap items-center justify-between gap-3 px-6 pb-3">
        <WaySwitch box={box} value={chosen} all onChange={setWay} />
        <span className="flex gap-2">
          <Button onClick={() => print()}>
            <Printer size={16} aria-hidden /> Print the sheet
          </Button>
          <Button
            onClick={() =>
              download(`${box.month} ${box.theme.slice(0, 80)}.csv`, billAsCsv(detail, bill, cost), "text/csv")
            }
          >
            <Download size={16} aria-hidden /> Bill of materials (CSV)
          </Button>
        </span>
      </div>
      <p className="px-6 pb-2">
        <strong>{chosen === "all" ? "All colourways" : box.colourways.find((c) => c.id === chosen)?.name}</strong>{" "}
        <span className="text-muted">{sayNumber(boxes)} boxes</span>
      </p>
      {mirrored.length > 0 && (
        <p className="px-6 pb-2">
          <Diamond className="mr-1 text-low" />
          <strong>Make mirrored pairs:</strong> {mirrored.join("; ")}.
        </p>
      )}
      <div className="overflow-x-auto px-6" tabIndex={0} role="region" aria-label="Counts, scrolls sideways">
        <table className="row-table">
          <thead>
            <tr>
              <th scope="col" className="w-full">
                Component
              </th>
              <th scope="col" className="text-right!">
                a box
              </th>
              <th scope="col" className="text-right!">
                spare
              </th>
              <th scope="col" className="text-right!">
                the run
              </th>
              {one && (
                <th scope="col" className="text-right!">
                  all colourways
                </th>
              )}
              <th scope="col" className="text-right!" title="On hand and not spoken for">
                free
              </th>
              <th>
                <span className="sr-only">Level</span>
              </th>
              <th scope="col" className="text-right!">
                short
              </th>
            </tr>
          </thead>
          {SECTIONS.map(({ title, kinds }) => {
            const list = [...rows.values()]
              .filter((r) => kinds.includes(r.component.kind))
              .sort((a, b) => a.component.name.localeCompare(b.component.name));
            const open = [...gaps.values()].filter((g) => kinds.includes(g.boxRole.kind));
            if (list.length === 0 && open.length === 0) return null;
            return (
              <tbody key={title}>
                <tr>
                  <th
                    scope="rowgroup"
                    colSpan={one ? 8 : 7}
                    className="h-10! pt-3 text-left align-bottom text-xs font-normal! text-muted"
                  >
                    {title}
                  </th>
                </tr>
                {list.map((r) => (
                  <tr key={r.component.id} data-testid={`need-${r.component.code}`}>
                    <th scope="row" className="text-left font-normal!">
                      <span className="flex items-center gap-2">
                        <span className="grid w-6 shrink-0 place-items-center">
                          <Chip of={r.component} />
                        </span>
                        <Link
                          to={`/jars/${r.component.id}`}
                          className="min-w-0 [overflow-wrap:anywhere] hover:underline"
                        >
                          {r.component.name}
                        </Link>
                      </span>
                    </th>
                    <td className="num">
                      <BoxOrigins work={work} row={r}>
                        {r.least === r.most ? (
                          say(r.most, aBoxUnit(r))
                        ) : (
                          <Fragment>
                            {say(r.least, aBoxUnit(r))} – {say(r.most, aBoxUnit(r))}
                          </Fragment>
                        )}
                      </BoxOrigins>
                    </td>
                    <td className="num text-muted">none</td>
                    <td className="num font-semibold">
                      <RunOrigins work={work} row={r} onWay={chosen === "all" ? setWay : undefined} />
                    </td>
                    {one && <td className="num text-muted">{say(r.runInAll, r.component.baseUnit)}</td>}
                    <td className="num">
                      <Link to={`/jars/${r.component.id}`} className="hover:underline">
                        {say(freeOf(r.component), r.component.baseUnit)}
                      </Link>
                    </td>
                    <td className="px-1!">
                      <JarGauge stock={r.component} needed={r.runInAll} />
                    </td>
                    <td className="num">{r.short > 0 && <Short>{say(r.short, r.component.baseUnit)}</Short>}</td>
                  </tr>
                ))}
                {open.map((g) => (
                  <tr key={g.boxRole.id}>
                    <th scope="row" className="text-left font-normal!">
                      <span className="flex items-center gap-2">
                        <span
                          aria-hidden
                          className="mx-0.5 size-5 shrink-0 rounded-full border border-dashed border-short"
                        />
                        <span className="min-w-0 [overflow-wrap:anywhere]">
                          {g.boxRole.name}{" "}
                          <Link to={`/months/${box.id}/colours`} className="link font-medium">
                            not chosen yet
                          </Link>
                        </span>
                      </span>
                    </th>
                    <td className="num">{say(g.perBox, g.unit)}</td>
                    <td className="num text-muted">none</td>
                    <td className="num font-semibold">{say(g.run, g.unit)}</td>
                    {one && <td />}
                    <td />
                    <td />
                    <td className="num">
                      <Short>{say(g.run, g.unit)}</Short>
                    </td>
                  </tr>
                ))}
              </tbody>
            );
          })}
        </table>
      </div>
      {one && (
        <p className="px-6 pt-3 text-xs text-muted">
          Short is told over all colourways of the box, since they share the jar.
        </p>
      )}
    </section>
  );
}

/** What one box takes, place by place; over several colourways, of the first that takes the most. */
function BoxOrigins({ work, row, children }: { work: BoxWork; row: Row; children: React.ReactNode }) {
  const linear = row.component.baseUnit === "mm";
  const { variant, need } = row.from.find((f) => (f.need.piecesPerBox ?? f.need.perBox) === row.most) ?? row.from[0]!;
  const rows = useNeedRows(work, variant, need);
  const way = work.box.colourways.find((c) => c.id === variant.first)?.name ?? "";
  const say = useSayQuantity();
  return (
    <WhereFrom
      label={`Where ${say(row.most, linear ? "mm" : "piece")} a box of ${row.component.name} come from`}
      title={`${row.component.name}, a box of ${way}`}
      rows={rows}
      total={say(row.most, linear ? "mm" : "piece")}
      note="A kit for several sizes holds what the one that needs most needs: its places are listed."
    >
      {children}
    </WhereFrom>
  );
}

/** What the run takes, colourway by colourway. */
function RunOrigins({ work, row, onWay }: { work: BoxWork; row: Row; onWay: ((id: string) => void) | undefined }) {
  const say = useSayQuantity();
  const { baseUnit, perGram, name } = row.component;
  const rows = (): OriginRow[] =>
    row.from.map(({ variant, need }) => {
      const aBox = need.piecesPerBox ?? need.perBox;
      return {
        id: variant.first,
        where: work.box.colourways.find((c) => c.id === variant.first)?.name ?? "",
        how: `${say(aBox, baseUnit === "mm" ? "mm" : "piece")} a box × ${sayNumber(variant.boxes)} boxes${baseUnit === "g" ? ` ÷ ${perGram} a gram` : ""}`,
        total: say(need.run, baseUnit),
        go: onWay && (() => onWay(variant.first)),
      };
    });
  return (
    <WhereFrom
      label={`Where the run's ${say(row.run, baseUnit)} of ${name} come from`}
      title={`${name}, the run`}
      rows={rows}
      total={say(row.run, baseUnit)}
    >
      {say(row.run, baseUnit)}
    </WhereFrom>
  );
}
