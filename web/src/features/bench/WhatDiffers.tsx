import type { Design } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import { useState } from "react";
import { Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { DataTable } from "../../ui/DataTable.tsx";

/** Two sizes or choices of one design beside each other: only what differs. */
export function WhatDiffers({ design, onClose }: { design: Design; onClose: () => void }) {
  const say = useSayQuantity();
  const sizes = design.sizes?.length
    ? design.sizes.map((s) => ({ key: s.key, label: s.label ?? s.key }))
    : [{ key: null, label: "" }];
  const options = design.options?.length
    ? design.options.map((o) => ({ key: o.key, label: o.label ?? o.key }))
    : [{ key: null, label: "" }];
  const choices = sizes.flatMap((s) =>
    options.map((o) => ({ size: s.key, option: o.key, label: [s.label, o.label].filter(Boolean).join(", ") })),
  );
  const [a, setA] = useState(0);
  const [b, setB] = useState(choices.length - 1);
  if (choices.length < 2)
    return (
      <Dialog title="What differs" open onClose={onClose}>
        <p>
          This design has one size and no options. Add sizes or options at the foot of the page, and they can be
          compared here.
        </p>
      </Dialog>
    );
  const [first, second] = [choices[a]!, choices[b]!].map((w) => countWhole(design, w).answer) as [
    ReturnType<typeof countWhole>["answer"],
    ReturnType<typeof countWhole>["answer"],
  ];
  const of = (answer: typeof first, e: Design["key"][number]) =>
    e.kind === "stringing" ? (answer.lengthsMm[e.key] ?? 0) : (answer.counts[e.key] ?? 0) + (answer.perKit[e.key] ?? 0);
  const rows = design.key.flatMap((e) => {
    const [x, y] = [of(first, e), of(second, e)];
    return Math.abs(x - y) < 1e-6 ? [] : [{ e, x, y }];
  });
  const amount = (e: Design["key"][number], n: number) => (e.kind === "stringing" ? say(n, "length") : sayNumber(n));
  const choose = (label: string, value: number, set: (n: number) => void) => (
    <Labelled label={label}>
      <select className="field" value={value} onChange={(e) => set(Number(e.target.value))}>
        {choices.map((w, i) => (
          <option key={i} value={i}>
            {w.label}
          </option>
        ))}
      </select>
    </Labelled>
  );
  return (
    <Dialog title="What differs" open onClose={onClose} wide>
      <div className="mb-4 flex flex-wrap gap-4">
        {choose("Between", a, setA)}
        {choose("and", b, setB)}
      </div>
      {rows.length === 0 ? (
        <p className="text-muted">Nothing: both take the same.</p>
      ) : (
        <DataTable
          rows={rows}
          rowKey={({ e }) => e.key}
          columns={[
            { head: "Key", look: "font-mono font-bold", cell: ({ e }) => e.key },
            { head: "What it is", wide: true, look: "[overflow-wrap:anywhere]", cell: ({ e }) => e.name },
            { head: choices[a]!.label, number: true, cell: ({ e, x }) => amount(e, x) },
            { head: choices[b]!.label, number: true, cell: ({ e, y }) => amount(e, y) },
            {
              head: "more",
              number: true,
              look: "font-semibold",
              cell: ({ e, x, y }) => `${y > x ? "+" : "−"}${amount(e, Math.abs(y - x))}`,
            },
          ]}
        />
      )}
    </Dialog>
  );
}
