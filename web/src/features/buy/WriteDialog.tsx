import type { BuyLine, Order, WriteOrders } from "@jar-count/core/contract";
import { useState } from "react";
import { Link } from "react-router";
import { stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Fault, Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { useSayMoney } from "../../ui/money.ts";
import { useByHand } from "./byHand.ts";
import { type SupplierLetter, sumsOf } from "./letters.ts";

interface Props {
  /** Those that go to somebody. */
  letters: SupplierLetter[];
  lines: BuyLine[];
  today: string;
  currency: string;
  onClose: () => void;
}

/** A supplier's orders, at most so many lines each. */
const LINES = 500;

/** An order as it is to be written, with what was said of its lines when this was opened. */
interface Draft {
  id: string;
  supplier: string;
  of: Pick<SupplierLetter, "name" | "total" | "late">;
  number: string;
  chosen: boolean;
  lines: WriteOrders["orders"][number]["lines"];
}

/** Initials and the day: a number that can be told apart, to be changed. */
const numberFor = (name: string, today: string, part: number) =>
  `${name
    .split(/\s+/)
    .map((w) => w[0]?.toUpperCase() ?? "")
    .join("")
    .replace(/[^A-Z]/g, "")
    .slice(0, 3)}-${today.slice(2).replaceAll("-", "")}${part > 0 ? `-${part + 1}` : ""}`;

const sayLines = (n: number) => (n === 1 ? "1 line" : `${sayNumber(n)} lines`);

function draftsOf(letters: readonly SupplierLetter[], today: string, currency: string): Draft[] {
  return letters.flatMap(({ supplier, name, lines: all }) =>
    Array.from({ length: Math.ceil(all.length / LINES) }, (_, part): Draft => {
      const lines = all.slice(part * LINES, (part + 1) * LINES);
      return {
        id: crypto.randomUUID(),
        supplier: supplier!,
        of: { name, ...sumsOf(lines, currency) },
        number: numberFor(name, today, part),
        chosen: true,
        lines: lines.map(({ component, packs }) => ({
          id: crypto.randomUUID(),
          component: component.id,
          offer: packs.offer,
          packs: packs.packs,
          amount: packs.amount,
          price: packs.price,
        })),
      };
    }),
  );
}

/**
 * Writes an order to each supplier, its lines bound to the boxes that lack it. It goes by the list as it was when this
 * was opened: where it has changed since, the server refuses to order what is no longer lacking.
 */
export function WriteDialog({ letters, lines: listed, today, currency, onClose }: Props) {
  const money = useSayMoney();
  const person = useSettings((s) => s.person);
  const [drafts, setDrafts] = useState(() => draftsOf(letters, today, currency));
  const [lines] = useState(listed);
  const [placedOn, setPlacedOn] = useState(today);
  const [written, setWritten] = useState<Order[] | null>(null);
  const { send, busy, refusal } = useSend("writeOrders", () => stockChanged());
  const chosen = drafts.filter((d) => d.chosen);
  const change = (id: string, to: Partial<Draft>) =>
    setDrafts((all) => all.map((d) => (d.id === id ? { ...d, ...to } : d)));
  const write = async () => {
    const ordered = new Set(chosen.flatMap((d) => d.lines.map((l) => l.component)));
    const body = (requestKey: string): WriteOrders => ({
      requestKey,
      person,
      placedOn,
      orders: chosen.map(({ id, supplier, number, lines: of }) => ({ id, supplier, number, lines: of })),
      lacks: lines
        .filter((l) => ordered.has(l.component))
        .map((l) => ({
          component: l.component,
          boxes: l.boxes.map(({ box, quantity }) => ({ box, quantity })),
        })),
    });
    const done = await send((requestKey) => ({ body: body(requestKey) }));
    if (!done) return;
    useByHand.getState().reset([...ordered]);
    setWritten(done.orders);
  };
  if (written) {
    return (
      <Dialog title={written.length === 1 ? "The order is written" : "The orders are written"} open onClose={onClose}>
        <p>What they bring is spoken for by the boxes that lack it. Open one to send it as a mail, a PDF or a table.</p>
        <ul className="py-3">
          {written.map((o) => (
            <li key={o.id} className="flex items-center justify-between gap-3 border-t border-rule py-2">
              <Link className="link" to={`/orders/${o.id}`}>
                {o.number}
              </Link>
              <span className="text-muted">
                {drafts.find((d) => d.supplier === o.supplier)?.of.name}, {sayLines(o.lines.length)}
              </span>
            </li>
          ))}
        </ul>
        <Button look="main" onClick={onClose}>
          Done
        </Button>
      </Dialog>
    );
  }
  const nameless = chosen.some((d) => d.number.trim() === "");
  return (
    <Dialog title="Write the orders" open wide onClose={onClose}>
      <Labelled label="Placed on" className="w-40">
        <input type="date" className="field" value={placedOn} onChange={(e) => setPlacedOn(e.target.value || today)} />
      </Labelled>
      <ul className="py-3">
        {drafts.map((d) => (
          <li key={d.id} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-t border-rule py-2">
            <label className="flex min-w-0 flex-1 items-center gap-2">
              <input
                type="checkbox"
                className="size-4"
                checked={d.chosen}
                onChange={(e) => change(d.id, { chosen: e.target.checked })}
              />
              <span className="min-w-0 [overflow-wrap:anywhere]">
                {d.of.name} <span className="text-muted">{sayLines(d.lines.length)}</span>
                {d.of.late > 0 && (
                  <span className="ml-2 text-xs font-semibold text-short">
                    <Triangle /> {sayNumber(d.of.late)} too late
                  </span>
                )}
              </span>
            </label>
            <input
              className="field w-40"
              aria-label={`Number of the order to ${d.of.name}`}
              maxLength={200}
              value={d.number}
              onChange={(e) => change(d.id, { number: e.target.value })}
            />
            <strong className="w-24 text-right font-semibold">{money(d.of.total)}</strong>
          </li>
        ))}
      </ul>
      {refusal && (
        <p className="pb-2">
          <Fault>
            {sentenceOf(refusal)}
            {refusal.code === "stale" && " Close this and look at the list again: it is new now."}
          </Fault>
        </p>
      )}
      {nameless && (
        <p className="pb-2">
          <Fault>Give every order a number.</Fault>
        </p>
      )}
      <p className="flex justify-end gap-2">
        <Button onClick={onClose}>Not yet</Button>
        <Button look="main" disabled={busy || chosen.length === 0 || nameless} onClick={() => void write()}>
          {chosen.length === 1 ? "Write it" : `Write ${sayNumber(chosen.length)} orders`}
        </Button>
      </p>
    </Dialog>
  );
}
