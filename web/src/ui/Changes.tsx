import type { Change } from "@jar-count/core/count";
import { sayNumber, useSayQuantity } from "./marks.tsx";
import { DataTable } from "./DataTable.tsx";

/** What changed between two states of a design, as counts and lengths. */
export function Changes({ list, none }: { list: readonly Change[]; none: string }) {
  const say = useSayQuantity();
  if (list.length === 0) return <p className="text-muted">{none}</p>;
  const amount = (c: Change, n: number) => (c.unit === "mm" ? say(n, "length") : sayNumber(n));
  return (
    <DataTable
      rows={list}
      rowKey={(c) => c.role}
      columns={[
        { head: "Key", look: "font-mono font-bold", cell: (c) => c.key },
        { head: "What it is", wide: true, look: "[overflow-wrap:anywhere]", cell: (c) => c.name },
        { head: "from", number: true, look: "text-muted", cell: (c) => amount(c, c.from) },
        { head: "to", number: true, look: "font-semibold", cell: (c) => amount(c, c.to) },
        {
          head: "change",
          number: true,
          cell: (c) => `${c.to > c.from ? "+" : "−"}${amount(c, Math.abs(c.to - c.from))}`,
        },
      ]}
    />
  );
}
