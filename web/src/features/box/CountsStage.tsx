import { aBoxOf, BESIDE, type CountRow, countRows, type GapRow, needsOf, spareOfBox } from "@jar-count/core/bom";
import { isMirroredPair } from "@jar-count/core/builder";
import type { Component } from "@jar-count/core/contract";
import { billAsCsv } from "@jar-count/core/cost";
import { Download, Printer } from "lucide-react";
import { useMemo } from "react";
import { Link } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty } from "../../ui/controls.tsx";
import { type Column, DataTable } from "../../ui/DataTable.tsx";
import { download } from "../../ui/handOver.ts";
import { Diamond, JarGauge, sayNumber, Short, useSayQuantity } from "../../ui/marks.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { useRowsLater } from "../../ui/useRowsLater.ts";
import { WhereFrom } from "../../ui/WhereFrom.tsx";
import { type BoxWork, holdsSomething, useBox, useBoxStore } from "./boxStore.ts";
import { useNeedRows } from "./needRows.tsx";
import { ComponentName, SECTIONS } from "./sections.tsx";
import { isFirm, nameOfBox } from "./shared.tsx";
import { setSpare } from "./tray.ts";
import { useColourway } from "./useColourway.ts";
import { ColourwaySwitch } from "./ColourwaySwitch.tsx";

/** What the run needs, what is on hand and what is short: component by component. */
export function CountsStage() {
  const { id, noLines, empty } = useBox(
    useShallow(({ box, bill }) => ({
      id: box.id,
      noLines: !holdsSomething(box),
      empty: bill.variants.length === 0 || !holdsSomething(box),
    })),
  );
  if (!empty) return <Counts />;
  return (
    <Empty
      title="Nothing to count yet"
      action={
        <ButtonLink look="main" to={`/months/${id}/${noLines ? "designs" : "colours"}`}>
          {noLines ? "Add a design" : "Add a colourway"}
        </ButtonLink>
      }
    >
      Counts need a design and a colourway with a number of boxes.
    </Empty>
  );
}

/** One line of the sheet: a component, or a role that nothing is chosen for. */
type Line = CountRow | GapRow;
const kindOf = (line: Line) => ("component" in line ? line.component.kind : line.boxRole.kind);

/** The lines in the order in which they are read: section by section, by name, what is still open last. */
function linesOf({ rows, gaps }: { rows: CountRow[]; gaps: GapRow[] }): Line[] {
  const sorted = [...rows].sort((a, b) => a.component.name.localeCompare(b.component.name));
  return SECTIONS.flatMap(({ kinds }) => [...sorted, ...gaps].filter((line) => kinds.includes(kindOf(line))));
}

function Counts() {
  const { work } = useBoxStore();
  const [colourway, setColourway] = useColourway();
  const bill = useBox((w) => w.bill);
  const name = useBox(({ box }) => box.colourways.find((c) => c.id === colourway)?.name ?? "All colourways");
  const mirrored = useBox(mirroredPairs);
  const counted = useMemo(() => countRows(bill, colourway), [bill, colourway]);
  const lines = useMemo(() => linesOf(counted), [counted]);
  const shown = useRowsLater(lines);
  const amongOthers = colourway !== null && bill.variants.length > 1;
  const columns = useColumns(colourway, amongOthers);
  const takeOut = () => {
    const { box, detail, cost } = work.getState();
    download(`${box.month} ${box.theme.slice(0, 80)}.csv`, billAsCsv(detail, bill, cost), "text/csv");
  };
  return (
    <section className="pt-4" aria-label="Counts">
      <div className="no-print flex flex-wrap items-center justify-between gap-3 px-6 pb-3">
        <ColourwaySwitch value={colourway} all onChange={setColourway} />
        <span className="flex gap-2">
          <Button onClick={() => print()}>
            <Printer size={16} aria-hidden /> Print the sheet
          </Button>
          <Button onClick={takeOut}>
            <Download size={16} aria-hidden /> Bill of materials (CSV)
          </Button>
        </span>
      </div>
      <p className="px-6 pb-2">
        <strong>{name}</strong> <span className="text-muted">{sayNumber(counted.boxes)} boxes</span>
      </p>
      {mirrored !== "" && (
        <p className="px-6 pb-2">
          <Diamond className="mr-1 text-low" />
          <strong>Make mirrored pairs:</strong> {mirrored}.
        </p>
      )}
      <div className="px-6">
        <DataTable
          scrolls="Counts"
          groups={SECTIONS.map(({ title, kinds }) => ({
            title,
            rows: shown.filter((line) => kinds.includes(kindOf(line))),
          }))}
          rowKey={(line) => ("component" in line ? line.component.id : line.boxRole.id)}
          testId={(line) => ("component" in line ? `need-${line.component.code}` : "need-open")}
          columns={columns}
        />
      </div>
      {amongOthers && (
        <p className="px-6 pt-3 text-xs text-muted">
          What is left, and short, is told over all colourways of the box, since they share the jar.
        </p>
      )}
    </section>
  );
}

/** Parts that are made as a mirrored pair, in words: a wrong-facing second one is a common mistake. */
function mirroredPairs({ box, detail }: BoxWork): string {
  const pairs = box.lines.flatMap((l) => {
    const pinned = detail.designs.find((d) => d.designId === l.designId && d.revision === l.revision);
    const parts = pinned?.design.parts.filter((p) => isMirroredPair(pinned.design, p)) ?? [];
    return parts.map((p) => `${pinned!.design.name}, ${p.name}`);
  });
  return pairs.join("; ");
}

/** The columns of the counts: of one colourway among others, what all of them take stands beside it. */
function useColumns(colourway: string | null, amongOthers: boolean): Column<Line>[] {
  const say = useSayQuantity();
  return useMemo(
    () => [
      {
        head: "Component",
        wide: true,
        names: true,
        cell: (line) => ("component" in line ? <ComponentName component={line.component} /> : <OpenRole gap={line} />),
      },
      {
        head: "a box",
        number: true,
        cell: (line) =>
          "component" in line ? <BoxOrigins row={line} colourway={colourway} /> : say(line.perBox, line.unit),
      },
      {
        head: "spare",
        number: true,
        cell: (line) => "component" in line && <SpareOrigins row={line} colourway={colourway} />,
      },
      {
        head: "the run",
        number: true,
        look: "font-semibold",
        cell: (line) =>
          "component" in line ? <RunOrigins row={line} colourway={colourway} /> : say(line.run, line.unit),
      },
      ...(amongOthers
        ? [
            {
              head: "all colourways",
              number: true,
              look: "text-muted",
              cell: (line: Line) => "component" in line && say(line.runInAll, line.component.baseUnit),
            },
          ]
        : []),
      {
        head: "left for it",
        title: "There by the day it is packed, and not taken by a box that comes first",
        number: true,
        cell: (line) =>
          "component" in line && (
            <Link to={`/jars/${line.component.id}`} className="hover:underline">
              {say(line.left, line.component.baseUnit)}
            </Link>
          ),
      },
      {
        head: "Level",
        silent: true,
        look: "px-1!",
        cell: (line) => "component" in line && <JarGauge stock={line.component} needed={line.runInAll} />,
      },
      {
        head: "short",
        number: true,
        cell: (line) => {
          if (!("component" in line)) return <Short>{say(line.run, line.unit)}</Short>;
          return line.short > 0 && <ShortBecause row={line} />;
        },
      },
    ],
    [say, colourway, amongOthers],
  );
}

/** What is short, and who takes it. */
function ShortBecause({ row: { component, short, left, because, runInAll } }: { row: CountRow }) {
  const boxes = useBox((w) => w.shares?.boxes);
  const say = useSayQuantity();
  const unit = component.baseUnit;
  if (because.length === 0) return <Short>{say(short, unit)}</Short>;
  const all = because.reduce((sum, b) => sum + b.quantity, left);
  return (
    <WhereFrom
      label={`Who takes ${component.name}: ${say(short, unit)} short`}
      title={`${component.name}, who comes first`}
      rows={() => [
        ...because.map(({ box, quantity }) => ({
          id: box,
          where: nameOfBox(boxes, box),
          how: isFirm(boxes?.find((b) => b.id === box)?.state ?? "planned") ? "committed" : "planned, packed before",
          total: say(quantity, unit),
          to: `/months/${box}/counts`,
        })),
        {
          id: "left",
          where: <span className="text-ink">left for this box</span>,
          how: `${say(runInAll, unit)} needed`,
          total: say(left, unit),
        },
      ]}
      total={say(all, unit)}
      note="Move the day it is packed, commit it before others, or order more."
    >
      <Short>{say(short, unit)}</Short>
    </WhereFrom>
  );
}

/** What goes into each bag to spare, by which rule, and saying otherwise. */
function SpareOrigins({ row, colourway }: Asked) {
  const { component, spareLeast, spareMost } = row;
  const { work } = useBoxStore();
  const say = useSayQuantity();
  const unit = component.baseUnit === "mm" ? "mm" : "piece";
  const text =
    spareMost === 0 ? "none" : spareLeast === spareMost ? say(spareMost, unit) : `to ${say(spareMost, unit)}`;
  const most = () => {
    const needs = needsOf(work.getState().bill, colourway, component.id);
    return needs.find(({ need }) => spareOfBox(need) === spareMost) ?? needs[0]!;
  };
  const rows = () => {
    const { box, detail } = work.getState();
    return most().need.bags.map((bag) => {
      const line = box.lines.find((l) => l.id === bag.of);
      const design = detail.designs.find((d) => d.designId === line?.designId)?.design.name;
      return {
        id: bag.of,
        where: design ?? (bag.of === BESIDE ? "Beside the designs" : "In the bag"),
        how: bag.rule ?? "no rule fits: none",
        total: sayNumber(bag.more),
      };
    });
  };
  return (
    <WhereFrom
      label={`${text} of ${component.name} to spare: which rule`}
      className={spareMost === 0 ? "text-muted" : ""}
      title={() => `${component.name}, to spare in a box of ${nameOf(work.getState(), most().variant.first)}`}
      rows={rows}
      total={say(spareMost, unit)}
      note={() => <SaySpare component={component} colourway={colourway} />}
    >
      {text}
    </WhereFrom>
  );
}

/** How many more go into each bag of this box, whatever the rules say. */
function SaySpare({ component, colourway }: { component: Component; colourway: string | null }) {
  const { work, edit } = useBoxStore();
  const ids = new Set(
    needsOf(work.getState().bill, colourway, component.id).flatMap(({ need }) => [
      ...need.from.map((f) => f.boxRole),
      ...need.beside.map((b) => b.content),
    ]),
  );
  const said = useBox(
    ({ box }) => [...box.roles, ...box.contents].find((x) => ids.has(x.id) && x.spare != null)?.spare,
  );
  return (
    <span className="flex flex-wrap items-center gap-2 text-sm text-ink">
      For this box, in each bag
      <NumberField
        aria-label={`${component.name} to spare in each bag`}
        className="field w-20"
        whole
        optional
        max={100_000}
        value={said ?? null}
        onChange={(spare) => edit(setSpare(ids, spare))}
      />
      {said == null ? (
        <Link to="/workshop/spares" className="link">
          The rules
        </Link>
      ) : (
        <button type="button" className="link" onClick={() => edit(setSpare(ids, null))}>
          Go by the rules
        </button>
      )}
    </span>
  );
}

/** A role that nothing is chosen for yet, leading to the tray. */
function OpenRole({ gap }: { gap: GapRow }) {
  const id = useBox(({ box }) => box.id);
  return (
    <span className="flex items-center gap-2">
      <span aria-hidden className="mx-0.5 size-5 shrink-0 rounded-full border border-dashed border-short" />
      <span className="min-w-0 [overflow-wrap:anywhere]">
        {gap.boxRole.name}{" "}
        <Link to={`/months/${id}/colours`} className="link font-medium">
          not chosen yet
        </Link>
      </span>
    </span>
  );
}

interface Asked {
  row: CountRow;
  colourway: string | null;
}

/** What one box takes, place by place; over several colourways, of the first that takes the most. */
function BoxOrigins({ row: { component, least, most }, colourway }: Asked) {
  const { work } = useBoxStore();
  const linear = component.baseUnit === "mm";
  // Seeds are kept in grams and counted in beads.
  const unit = linear ? "mm" : "piece";
  const needRows = useNeedRows(linear);
  const say = useSayQuantity();
  const text = least === most ? say(most, unit) : `${say(least, unit)} – ${say(most, unit)}`;
  const takesMost = () => {
    const needs = needsOf(work.getState().bill, colourway, component.id);
    return needs.find(({ need }) => aBoxOf(need) === most) ?? needs[0]!;
  };
  return (
    <WhereFrom
      label={`Where ${text} a box of ${component.name} come from`}
      title={() => `${component.name}, a box of ${nameOf(work.getState(), takesMost().variant.first)}`}
      rows={() => needRows(work.getState().detail, takesMost().variant, takesMost().need)}
      total={say(most, unit)}
      note={() => "A kit for several sizes holds what the one that needs most needs: its places are listed."}
    >
      {text}
    </WhereFrom>
  );
}

const nameOf = ({ box }: BoxWork, colourway: string) => box.colourways.find((c) => c.id === colourway)?.name ?? "";

/** What the run takes, colourway by colourway. */
function RunOrigins({ row: { component, run }, colourway }: Asked) {
  const { work } = useBoxStore();
  const [, setColourway] = useColourway();
  const say = useSayQuantity();
  const { baseUnit, perGram, name } = component;
  const rows = () =>
    needsOf(work.getState().bill, colourway, component.id).map(({ variant, need }) => {
      const spare = need.spare > 0 ? ` and ${say(spareOfBox(need), baseUnit === "mm" ? "mm" : "piece")} to spare` : "";
      const aBox = say(aBoxOf(need), baseUnit === "mm" ? "mm" : "piece") + spare;
      const byGram = baseUnit === "g" ? ` ÷ ${perGram} a gram` : "";
      return {
        id: `${variant.first} ${variant.second}`,
        where: nameOf(work.getState(), variant.first),
        how: `${aBox} a box × ${sayNumber(variant.boxes)} boxes${byGram}`,
        total: say(need.run, baseUnit),
        go: colourway === null ? () => setColourway(variant.first) : undefined,
      };
    });
  return (
    <WhereFrom
      label={`Where the run's ${say(run, baseUnit)} of ${name} come from`}
      title={() => `${name}, the run`}
      rows={rows}
      total={say(run, baseUnit)}
    >
      {say(run, baseUnit)}
    </WhereFrom>
  );
}
