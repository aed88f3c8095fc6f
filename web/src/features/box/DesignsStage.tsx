import type { BoxLine } from "@jar-count/core/contract";
import { changesBetween, countKit } from "@jar-count/core/count";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { Link } from "react-router";
import { Choose } from "../../ui/Choose.tsx";
import { Changes } from "../../ui/Changes.tsx";
import { Button, ButtonLink, Dialog, Empty, IconButton } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { useShallow } from "zustand/react/shallow";
import { useBox, useBoxStore } from "./boxStore.ts";

/** What is made from the box: which designs, how many of each, in which size and way. */
export function DesignsStage() {
  const { edit } = useBoxStore();
  const { box, designs, library } = useBox(useShallow(({ box, designs, library }) => ({ box, designs, library })));
  const [choosing, setChoosing] = useState(false);
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
    );
  }
  return (
    <section className="px-6 pt-4" aria-label="Designs of the box">
      <table className="row-table">
        <thead>
          <tr>
            <th scope="col" className="w-full">
              Design
            </th>
            <th scope="col">How many</th>
            <th scope="col">Size</th>
            <th scope="col">Way</th>
            <th scope="col" className="text-right!">
              beads a box
            </th>
            <th>
              <span className="sr-only">Take out</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {box.lines.map((line) => {
            const pinned = designs.find((d) => d.designId === line.designId && d.revision === line.revision);
            if (!pinned) return null;
            const { design, newest } = pinned;
            const kit = countKit(design, line.size, line.option, null);
            const beads = design.key
              .filter((e) => e.kind === "bead" || e.kind === "focal")
              .reduce((n, e) => n + (kit.counts[e.key] ?? 0) * line.times + (kit.perKit[e.key] ?? 0), 0);
            return (
              <tr key={line.id}>
                <th scope="row" className="py-2 text-left">
                  <Link to={`/designs/${line.designId}`} className="[overflow-wrap:anywhere] hover:underline">
                    {design.name}
                  </Link>
                  <span className="block text-xs font-normal text-muted">
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
                </th>
                <td>
                  <NumberField
                    aria-label={`How many of ${design.name}`}
                    className="field w-16"
                    whole
                    min={1}
                    max={1000}
                    value={line.times}
                    onChange={(times) => setLine(line.id, { times: times! })}
                  />
                </td>
                <td>
                  {design.sizes?.length ? (
                    <select
                      aria-label={`Size of ${design.name}`}
                      className="field"
                      value={line.size ?? ""}
                      onChange={(e) => setLine(line.id, { size: e.target.value || null })}
                    >
                      <option value="">every size</option>
                      {design.sizes.map((s) => (
                        <option key={s.key} value={s.key}>
                          {s.label ?? s.key}
                        </option>
                      ))}
                    </select>
                  ) : (
                    <span className="whitespace-nowrap text-muted">one size</span>
                  )}
                </td>
                <td>
                  {design.options?.length ? (
                    <select
                      aria-label={`Way of making ${design.name}`}
                      className="field max-w-40"
                      value={line.option ?? ""}
                      onChange={(e) => setLine(line.id, { option: e.target.value || null })}
                    >
                      <option value="">any way</option>
                      {design.options.map((o) => (
                        <option key={o.key} value={o.key}>
                          {o.label ?? o.key}
                        </option>
                      ))}
                    </select>
                  ) : (
                    <span className="text-muted">one</span>
                  )}
                </td>
                <td className="num font-semibold">{sayNumber(beads)}</td>
                <td className="px-0!">
                  <IconButton
                    label={`Take ${design.name} out of the box`}
                    onClick={() => edit((b) => ({ ...b, lines: b.lines.filter((l) => l.id !== line.id) }))}
                  >
                    <X size={16} />
                  </IconButton>
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
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
        A kit for every size, or any way, holds for each bead the most that any of them needs.
      </p>
      {adder}
    </section>
  );
}
