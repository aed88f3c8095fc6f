import { convert } from "@jar-count/core/component";
import { type BoxContent, type Component, BAGGINGS } from "@jar-count/core/contract";
import { Plus, X } from "lucide-react";
import { useMemo, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { Chip } from "../../ui/Bead.tsx";
import { Choose } from "../../ui/Choose.tsx";
import { Button, IconButton, Segmented } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { AmountField, NumberField } from "../../ui/fields.tsx";
import { useSayQuantity } from "../../ui/marks.tsx";
import { useBox, useBoxStore } from "./boxStore.ts";
import { ComponentName } from "./sections.tsx";

/** What lies in the box beside its designs: tools, packaging, extras, gifts, whole strands and spools. */
export function Beside() {
  const { edit } = useBoxStore();
  const { box, components, componentOf } = useBox(
    useShallow(({ box, components, componentOf }) => ({ box, components, componentOf })),
  );
  const [choosing, setChoosing] = useState(false);
  const say = useSayQuantity();
  const change = (id: string, now: Partial<BoxContent>) =>
    edit((b) => ({ ...b, contents: b.contents.map((c) => (c.id === id ? { ...c, ...now } : c)) }), `content ${id}`);
  const add = (component: string) => {
    const linear = componentOf.get(component)?.baseUnit === "mm";
    const content = { id: crypto.randomUUID(), component, first: null, quantity: linear ? 300 : 1, pack: null };
    edit((b) => ({ ...b, contents: [...b.contents, content] }));
  };
  const choices = useMemo(
    () =>
      components.map((c) => ({
        id: c.id,
        label: c.name,
        words: c.code,
        look: () => ({ mark: <Chip of={c} />, note: c.form ?? c.kind }),
      })),
    [components],
  );
  const rows = box.contents.flatMap((content) => {
    const component = componentOf.get(content.component);
    return component ? [{ content, component }] : [];
  });
  return (
    <section className="mt-8" aria-label="Beside the designs">
      <h2 className="mb-1">Beside the designs</h2>
      <p className="mb-2 text-muted">A tool, packaging, an extra, a gift, or a whole strand, tube or spool.</p>
      {rows.length > 0 && (
        <DataTable
          early
          rows={rows}
          rowKey={({ content }) => content.id}
          testId={({ component }) => `content-${component.code}`}
          columns={[
            {
              head: "What",
              wide: true,
              names: true,
              cell: ({ component }) => <ComponentName component={component} />,
            },
            {
              head: "As",
              cell: ({ content, component }) => (
                <PackOf content={content} component={component} onChange={(pack) => change(content.id, pack)} />
              ),
            },
            {
              head: "A box holds",
              cell: ({ content, component }) =>
                content.pack ? (
                  <NumberField
                    aria-label={`How many ${content.pack.name} of ${component.name}`}
                    className="field w-20"
                    whole
                    min={1}
                    max={1000}
                    value={content.quantity}
                    onChange={(quantity) => change(content.id, { quantity: quantity! })}
                  />
                ) : (
                  <AmountField
                    aria-label={`How much of ${component.name}`}
                    className="field w-24"
                    unit={component.baseUnit}
                    amount={content.quantity}
                    onChange={(quantity) => change(content.id, { quantity: quantity! })}
                  />
                ),
            },
            {
              head: "that is",
              number: true,
              look: "text-muted",
              cell: ({ content, component }) => {
                const amount = content.quantity * (content.pack?.amount ?? 1);
                return component.baseUnit === "piece" && !content.pack ? "" : say(amount, component.baseUnit);
              },
            },
            {
              head: "In",
              cell: ({ content, component }) => (
                <select
                  aria-label={`Which colourway ${component.name} goes out with`}
                  className="field max-w-44"
                  value={content.first ?? ""}
                  onChange={(e) => change(content.id, { first: e.target.value || null })}
                >
                  <option value="">every colourway</option>
                  {box.colourways.map((w) => (
                    <option key={w.id} value={w.id}>
                      {w.name}
                    </option>
                  ))}
                </select>
              ),
            },
            {
              head: "Take out",
              silent: true,
              look: "px-0!",
              cell: ({ content, component }) => (
                <IconButton
                  label={`Take ${component.name} out of the box`}
                  onClick={() => edit((b) => ({ ...b, contents: b.contents.filter((c) => c.id !== content.id) }))}
                >
                  <X size={16} />
                </IconButton>
              ),
            },
          ]}
        />
      )}
      <div className="mt-3 flex flex-wrap items-center gap-x-6 gap-y-3">
        <Choose label="Find a component" open={choosing} onOpen={setChoosing} onChoose={add} choices={choices}>
          <Button disabled={components.length === 0}>
            <Plus size={16} aria-hidden /> Add a component
          </Button>
        </Choose>
        {box.lines.length > 1 && (
          <span className="flex flex-wrap items-center gap-2">
            Beads that two designs share
            <Segmented
              label="Bag beads that two designs share"
              value={box.bagging}
              options={BAGGINGS.map((value) => ({
                value,
                label: value === "together" ? "in one bag" : "a bag for each design",
              }))}
              onChange={(bagging) => edit((b) => ({ ...b, bagging }))}
            />
          </span>
        )}
      </div>
    </section>
  );
}

/** Loose, or as one of the packs that the component is bought in. */
function PackOf(props: {
  content: BoxContent;
  component: Component;
  onChange: (to: Pick<BoxContent, "pack" | "quantity">) => void;
}) {
  const { content, component, onChange } = props;
  const offered = component.offers.flatMap((offer) => {
    const amount = convert(offer.amount, offer.unit, component.baseUnit, component);
    if (!amount || !(amount.n > 0)) return [];
    const whole = component.baseUnit === "piece" ? Math.floor(amount.n) : Number(amount.n.toFixed(3));
    return whole > 0 ? [{ name: offer.pack, amount: whole }] : [];
  });
  const packs = [...offered, ...(content.pack ? [content.pack] : [])];
  const named = [...new Map(packs.map((p) => [`${p.name} ${p.amount}`, p]))];
  const loose = component.baseUnit === "mm" ? "a piece so long" : component.baseUnit === "g" ? "grams" : "pieces";
  return (
    <select
      aria-label={`How ${component.name} lies in the box`}
      className="field max-w-44"
      value={content.pack ? `${content.pack.name} ${content.pack.amount}` : ""}
      onChange={(e) => {
        const pack = named.find(([key]) => key === e.target.value)?.[1] ?? null;
        onChange({ pack, quantity: pack ? 1 : component.baseUnit === "mm" ? 300 : 1 });
      }}
    >
      <option value="">{loose}</option>
      {named.map(([key, pack]) => (
        <option key={key} value={key}>
          whole {pack.name}
        </option>
      ))}
    </select>
  );
}
