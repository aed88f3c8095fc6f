import { countLineOf, picker } from "@jar-count/core/bom";
import {
  type Box,
  type BoxLine,
  type Component,
  type Design,
  type KeyEntry,
  roleId,
  SHAPES,
} from "@jar-count/core/contract";
import { changesBetween, countKit, countWhole, type Kit } from "@jar-count/core/count";
import { appearancesOf, layWorn } from "@jar-count/core/picture";
import { Plus, X } from "lucide-react";
import { useCallback, useMemo, useState } from "react";
import { Link } from "react-router";
import { Choose } from "../../ui/Choose.tsx";
import { Changes } from "../../ui/Changes.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Empty, IconButton } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { PictureCard } from "../../ui/PictureCard.tsx";
import { useShallow } from "zustand/react/shallow";
import { Beside } from "./Beside.tsx";
import { useBox, useBoxStore } from "./boxStore.ts";
import { PlanNotice } from "./Commit.tsx";
import { ColourwaySwitch } from "./ColourwaySwitch.tsx";
import { useColourway } from "./useColourway.ts";

/** What is made from the box: which designs, how many of each, in which size and option. */
export function DesignsStage() {
  const { edit } = useBoxStore();
  const { box, designs, library, detail } = useBox(
    useShallow(({ box, designs, library, detail }) => ({ box, designs, library, detail })),
  );
  const [choosing, setChoosing] = useState(false);
  const [asked, setColourway] = useColourway();
  const colourway = asked ?? box.colourways[0]?.id ?? null;
  // A newer revision is offered with what it would change, never taken by itself.
  const [offered, setOffered] = useState<string | null>(null);
  const line = box.lines.find((l) => l.id === offered);
  const from = line && designs.find((d) => d.designId === line.designId && d.revision === line.revision);
  const to = from && designs.find((d) => d.designId === from.designId && d.revision === from.newest);
  const offer = line && from && to ? { line, from, to } : null;
  const setLine = (id: string, change: Partial<BoxLine>) =>
    edit((b) => ({ ...b, lines: b.lines.map((l) => (l.id === id ? { ...l, ...change } : l)) }));
  const add = (designId: string) => {
    const found = library.find((d) => d.id === designId)!;
    edit((b) => ({
      ...b,
      lines: [
        ...b.lines,
        { id: crypto.randomUUID(), designId, revision: found.revision, times: 1, size: null, option: null },
      ],
    }));
  };
  const adder = (
    <Choose
      label="Find a design"
      open={choosing}
      onOpen={setChoosing}
      onChoose={add}
      choices={library.map((d) => ({ id: d.id, label: d.name, note: `revision ${d.revision}` }))}
    >
      <Button look="main" disabled={library.length === 0}>
        <Plus size={16} aria-hidden /> Add a design
      </Button>
    </Choose>
  );
  if (box.lines.length === 0) {
    return (
      <section className="px-6" aria-label="Designs of the box">
        <PlanNotice />
        <Empty
          title="No designs in this box yet"
          action={
            <span className="flex justify-center gap-2">
              {adder}
              <ButtonLink to="/designs">To the designs</ButtonLink>
            </span>
          }
        >
          {library.length === 0
            ? "Write a design first; then it can go into the box."
            : "A box holds one to five designs. Each brings its beads to the colour tray."}
        </Empty>
        <Beside />
      </section>
    );
  }
  const rows = box.lines.flatMap((line) => {
    const pinned = designs.find((d) => d.designId === line.designId && d.revision === line.revision);
    if (!pinned) return [];
    // In the colourway that is shown: its own beads may be longer or shorter than the design's.
    const own = colourway
      ? countLineOf(detail, { first: colourway, second: box.seconds[0]?.id ?? null }, line.id)?.kit
      : null;
    const kit = own ?? countKit(pinned.design, line.size, line.option, null);
    return [{ line, ...pinned, beads: beadsOf(pinned.design, kit, line.times) }];
  });
  return (
    <section className="px-6 pt-4" aria-label="Designs of the box">
      <PlanNotice />
      {box.colourways.length > 1 && (
        <div className="pb-2">
          <ColourwaySwitch value={colourway} onChange={setColourway} />
        </div>
      )}
      <DataTable
        early
        rows={rows}
        rowKey={({ line }) => line.id}
        columns={[
          {
            head: "Design",
            wide: true,
            names: true,
            look: "py-2",
            cell: ({ line, design, newest }) => (
              <div className="flex gap-3">
                <span className="block self-start rounded-md bg-mat">
                  <LinePicture line={line} design={design} colourway={colourway} />
                </span>
                <div className="min-w-0 py-1">
                  <Link
                    to={`/designs/${line.designId}`}
                    className="font-semibold [overflow-wrap:anywhere] hover:underline"
                  >
                    {design.name}
                  </Link>
                  <span className="block text-xs text-muted">
                    counted by revision {line.revision}
                    {newest > line.revision && (
                      <>
                        {" · "}revision {newest} is newer{" "}
                        <button type="button" className="link font-medium" onClick={() => setOffered(line.id)}>
                          What would change
                        </button>
                      </>
                    )}
                  </span>
                </div>
              </div>
            ),
          },
          {
            head: "How many",
            cell: ({ line, design }) => (
              <NumberField
                aria-label={`How many of ${design.name}`}
                className="field w-16"
                whole
                min={1}
                max={1000}
                value={line.times}
                onChange={(times) => setLine(line.id, { times: times! })}
              />
            ),
          },
          {
            head: "Size",
            cell: ({ line, design }) => (
              <ChooseOf
                label={`Size of ${design.name}`}
                list={design.sizes}
                all="every size"
                single="one size"
                value={line.size}
                onChange={(size) => setLine(line.id, { size })}
              />
            ),
          },
          {
            head: "Option",
            cell: ({ line, design }) => (
              <ChooseOf
                label={`Option of ${design.name}`}
                list={design.options}
                all="any option"
                single="one"
                value={line.option}
                onChange={(option) => setLine(line.id, { option })}
              />
            ),
          },
          { head: "beads a box", number: true, look: "font-semibold", cell: ({ beads }) => sayNumber(beads) },
          {
            head: "Take out",
            silent: true,
            look: "px-0!",
            cell: ({ line, design }) => (
              <IconButton
                label={`Take ${design.name} out of the box`}
                onClick={() => edit((b) => ({ ...b, lines: b.lines.filter((l) => l.id !== line.id) }))}
              >
                <X size={16} />
              </IconButton>
            ),
          },
        ]}
      />
      {offer && (
        <Dialog
          title={`${offer.to.design.name}: revision ${offer.from.revision} to ${offer.to.revision}`.slice(0, 120)}
          open
          onClose={() => setOffered(null)}
          wide
        >
          <Changes
            list={changesBetween(offer.from.design, offer.to.design, offer.line.size, offer.line.option)}
            none="Counts and lengths stay the same."
          />
          <div className="mt-4 flex justify-end gap-2">
            <Button onClick={() => setOffered(null)}>Stay with revision {offer.from.revision}</Button>
            <Button
              look="main"
              onClick={() => {
                setLine(offer.line.id, { revision: offer.to.revision });
                setOffered(null);
              }}
            >
              Use revision {offer.to.revision}
            </Button>
          </div>
        </Dialog>
      )}
      <p className="mt-1 mb-4 text-xs text-muted">
        A kit for every size, or any option, holds for each bead the most that any of them needs.
      </p>
      {adder}
      <Beside />
    </section>
  );
}

/** The design as it is worn, in a colourway's own beads. */
function LinePicture({ line, design, colourway }: { line: BoxLine; design: Design; colourway: string | null }) {
  const { box, componentOf } = useBox(useShallow(({ box, componentOf }) => ({ box, componentOf })));
  const key = useMemo(
    () => keyInColours(box, line.id, design, colourway, componentOf),
    [box, line.id, design, colourway, componentOf],
  );
  const make = useCallback(() => {
    const own = { ...design, key };
    const size = line.size ?? design.sizes?.[Math.floor((design.sizes.length - 1) / 2)]?.key ?? null;
    const option = line.option ?? design.options?.[0]?.key ?? null;
    const looks = appearancesOf(key);
    return { picture: layWorn(countWhole(own, { size, option }), looks, 1500), looks };
  }, [design, key, line.size, line.option]);
  return <PictureCard of={key} make={make} label={`${design.name} as it is worn`} width={150} height={118} />;
}

/** A design's bead key with the measures and colours of what a colourway chose for each role. */
function keyInColours(
  box: Box,
  line: string,
  design: Design,
  colourway: string | null,
  componentOf: ReadonlyMap<string, Component>,
): KeyEntry[] {
  const pick = picker(box);
  const second = box.seconds[0]?.id ?? null;
  return design.key.map((entry) => {
    const bound = box.bindings.find((b) => b.line === line && b.role === roleId(entry));
    const role = bound && box.roles.find((r) => r.id === bound.boxRole);
    const chosen = role && colourway !== null ? componentOf.get(pick(role, colourway, second) ?? "") : undefined;
    if (!chosen) return entry;
    const shape = SHAPES.find((s) => s === chosen.form) ?? entry.shape;
    return {
      ...entry,
      shape,
      colour: chosen.colour,
      finish: chosen.finish,
      ...(chosen.alongMm ? { alongMm: chosen.alongMm } : {}),
      ...(chosen.acrossMm ? { acrossMm: chosen.acrossMm } : {}),
      ...(chosen.linkMm ? { linkMm: chosen.linkMm } : {}),
    };
  });
}

/** How many beads and focal beads a line brings to one box. */
function beadsOf(design: Design, kit: Kit, times: number): number {
  return design.key
    .filter((e) => e.kind === "bead" || e.kind === "focal")
    .reduce((sum, { key }) => sum + (kit.counts[key] ?? 0) * times + (kit.perKit[key] ?? 0), 0);
}

/** Chooses one of a design's sizes or options, or leaves it open: then the kit serves each of them. */
function ChooseOf(props: {
  label: string;
  list: { key: string; label?: string | null | undefined }[] | null | undefined;
  all: string;
  single: string;
  value: string | null;
  onChange: (key: string | null) => void;
}) {
  const { label, list, all, single, value, onChange } = props;
  if (!list?.length) return <span className="whitespace-nowrap text-muted">{single}</span>;
  return (
    <select
      aria-label={label}
      className="field max-w-40"
      value={value ?? ""}
      onChange={(e) => onChange(e.target.value || null)}
    >
      <option value="">{all}</option>
      {list.map((each) => (
        <option key={each.key} value={each.key}>
          {each.label ?? each.key}
        </option>
      ))}
    </select>
  );
}
