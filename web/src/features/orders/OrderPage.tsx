import { toThousandth } from "@jar-count/core/units";
import { convert } from "@jar-count/core/component";
import { priceOfPacks } from "@jar-count/core/cost";
import { type Component, type ErrorBody, type Order, OrderInput } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { notYet, sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { componentsQuery, ordersQuery, makeStale, roomsQuery, stockChanged, workshopQuery } from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Choose } from "../../ui/Choose.tsx";
import { Button, Fault, IconButton, Labelled, Segmented } from "../../ui/controls.tsx";
import { LengthField, NumberField } from "../../ui/fields.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";
import { Page, PageHead, RefusalNotice, Waiting } from "../../ui/page.tsx";
import { TableHead } from "../../ui/DataTable.tsx";

type Line = OrderInput["lines"][number];

/** An order to a supplier: written down, and received in parts. */
export function OrderPage() {
  const { id } = useParams() as { id: string };
  const [orders, rooms, components, workshop] = [
    useQuery(ordersQuery),
    useQuery(roomsQuery),
    useQuery(componentsQuery),
    useQuery(workshopQuery),
  ];
  const waiting = [orders, rooms, components, workshop].find((q) => !q.data);
  if (waiting) return <Waiting error={waiting.error} what="the order" retry={() => void waiting.refetch()} />;
  const order = orders.data!.find((o) => o.id === id) ?? null;
  if (!order && id !== "new")
    return (
      <Page title="Not here">
        <p className="p-8">
          This order is not here.{" "}
          <Link className="link" to="/orders">
            Back to the orders
          </Link>
        </p>
      </Page>
    );
  return (
    <OrderOf
      key={`${id} ${order?.version}`}
      order={order}
      suppliers={rooms.data!.suppliers}
      components={components.data!}
      currency={workshop.data!.currency}
    />
  );
}

function OrderOf({
  order,
  suppliers,
  components,
  currency,
}: {
  order: Order | null;
  suppliers: { id: string; name: string; leadDays?: number | null | undefined }[];
  components: Component[];
  currency: string;
}) {
  const navigate = useNavigate();
  const today = new Date().toISOString().slice(0, 10);
  const [id] = useState(() => order?.id ?? crypto.randomUUID());
  const [doc, setDoc] = useState<OrderInput>(() =>
    order
      ? {
          supplier: order.supplier,
          number: order.number,
          placedOn: order.placedOn,
          currency: order.currency,
          rate: order.rate,
          note: order.note,
          lines: order.lines,
        }
      : { supplier: suppliers[0]?.id ?? "", number: "", placedOn: today, currency, rate: "1", note: "", lines: [] },
  );
  const [wrong, setWrong] = useState<ErrorBody | null>(null);
  const { send, busy, refusal: refused } = useSend("saveOrder", () => makeStale("orders", "components"));
  const refusal = wrong ?? refused;
  const [choosing, setChoosing] = useState(false);
  const set = (change: Partial<OrderInput>) => setDoc((d) => ({ ...d, ...change }));
  const byId = new Map(components.map((c) => [c.id, c]));
  const changed =
    order === null ||
    JSON.stringify(doc) !==
      JSON.stringify({
        supplier: order.supplier,
        number: order.number,
        placedOn: order.placedOn,
        currency: order.currency,
        rate: order.rate,
        note: order.note,
        lines: order.lines,
      });
  const received = order?.received ?? {};

  const add = (component: string) => {
    const c = byId.get(component)!;
    const offer = c.offers.find((o) => o.supplier === doc.supplier) ?? c.offers[0];
    const each = offer ? (convert(offer.amount, offer.unit, c.baseUnit, c)?.n ?? 1) : 1;
    const packs = offer?.minimum ?? 1;
    const lead = offer?.leadDays ?? suppliers.find((s) => s.id === doc.supplier)?.leadDays ?? null;
    const due =
      lead === null ? null : new Date(Date.parse(doc.placedOn) + lead * 86_400_000).toISOString().slice(0, 10);
    const whole = c.baseUnit === "piece" ? Math.round(each * packs) : toThousandth(each * packs);
    set({
      lines: [
        ...doc.lines,
        {
          id: crypto.randomUUID(),
          component,
          pack: offer?.pack ?? "pack",
          packs,
          quantity: whole,
          price: offer ? priceOfPacks(offer, packs) : "0",
          due,
        },
      ],
    });
  };
  const setLine = (i: number, change: Partial<Line>) =>
    set({ lines: doc.lines.with(i, { ...doc.lines[i]!, ...change }) });
  const setPacks = (i: number, packs: number) => {
    const line = doc.lines[i]!;
    const c = byId.get(line.component)!;
    const each = line.quantity / line.packs;
    const offer = c.offers.find((o) => o.pack === line.pack);
    setLine(i, {
      packs,
      quantity: toThousandth(each * packs),
      ...(offer ? { price: priceOfPacks(offer, packs) } : {}),
    });
  };
  const save = async () => {
    const checked = OrderInput.safeParse(doc);
    setWrong(checked.success ? null : notYet(checked.error, "/order"));
    if (!checked.success) return;
    const saved = await send({ params: { id }, body: { version: order?.version ?? 0, order: checked.data } });
    if (saved && !order) await navigate(`/orders/${id}`, { replace: true });
  };
  return (
    <Page title={order ? `Order ${order.number}` : "A new order"}>
      <PageHead
        back={{ to: "/orders", words: "Orders" }}
        title={order ? `Order ${order.number}` : "A new order"}
        about={
          suppliers.length === 0 && (
            <>
              An order goes to a supplier:{" "}
              <Link className="link" to="/workshop">
                add one in the workshop
              </Link>{" "}
              first.
            </>
          )
        }
      />
      {refusal && <RefusalNotice refusal={refusal} />}
      {refusal?.code === "stale" && (
        <p className="mx-6 mt-2">
          What you typed is still here.{" "}
          <button type="button" className="link font-medium" onClick={() => void makeStale("orders")}>
            Take what is there now instead
          </button>
          .
        </p>
      )}
      <div className="flex flex-wrap items-start gap-4 px-6 pt-2">
        <Labelled label="Supplier">
          <select className="field max-w-56" value={doc.supplier} onChange={(e) => set({ supplier: e.target.value })}>
            {suppliers.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </Labelled>
        <Labelled label="Number">
          <input
            className="field w-32"
            maxLength={200}
            value={doc.number}
            onChange={(e) => set({ number: e.target.value })}
          />
        </Labelled>
        <Labelled label="Placed on">
          <input
            type="date"
            className="field"
            value={doc.placedOn}
            onChange={(e) => set({ placedOn: e.target.value })}
          />
        </Labelled>
        <Labelled label="Currency">
          <input
            className="field w-20 font-mono"
            maxLength={3}
            value={doc.currency}
            onChange={(e) => set({ currency: e.target.value.toUpperCase() })}
          />
        </Labelled>
        {doc.currency !== currency && (
          <Labelled label={`1 ${doc.currency} in ${currency}`}>
            <input
              className="field w-24"
              inputMode="decimal"
              value={doc.rate}
              onChange={(e) => set({ rate: e.target.value.replace(",", ".") })}
            />
          </Labelled>
        )}
        <Labelled label="Note">
          <input
            className="field w-56"
            maxLength={500}
            value={doc.note}
            onChange={(e) => set({ note: e.target.value })}
          />
        </Labelled>
      </div>
      <div className="overflow-x-auto px-6 pt-5" role="region" aria-label="Order lines, scroll sideways" tabIndex={0}>
        <table className="row-table">
          <TableHead
            columns={[
              { head: "Component", wide: true },
              { head: "Pack" },
              { head: "packs", number: true },
              { head: "in all", number: true },
              { head: `price, ${doc.currency}`, number: true },
              { head: "Due" },
              { head: "received", number: true },
              { head: "Take out", silent: true },
            ]}
          />
          <tbody>
            {doc.lines.map((line, i) => {
              const c = byId.get(line.component);
              const name = c?.name ?? "gone";
              const here = received[line.id] ?? 0;
              return (
                <tr key={line.id}>
                  <th scope="row" className="text-left font-normal!">
                    <span className="flex min-w-40 items-center gap-2">
                      {c && <Chip of={c} />}
                      <Link className="hover:underline" to={`/jars/${line.component}`}>
                        {name}
                      </Link>
                    </span>
                  </th>
                  <td>
                    <input
                      className="cell-field w-36"
                      aria-label={`Pack of ${name}`}
                      value={line.pack}
                      onChange={(e) => setLine(i, { pack: e.target.value })}
                    />
                  </td>
                  <td>
                    <NumberField
                      className="field w-16 text-right"
                      aria-label={`Packs of ${name}`}
                      whole
                      min={1}
                      value={line.packs}
                      onChange={(n) => setPacks(i, n!)}
                    />
                  </td>
                  <td>
                    {c?.baseUnit === "mm" ? (
                      <LengthField
                        className="field w-24 text-right"
                        aria-label={`In all of ${name}`}
                        mm={line.quantity}
                        onChange={(n) => setLine(i, { quantity: n! })}
                      />
                    ) : (
                      <NumberField
                        className="field w-24 text-right"
                        aria-label={`In all of ${name}`}
                        min={0.001}
                        value={line.quantity}
                        onChange={(n) => setLine(i, { quantity: n! })}
                      />
                    )}
                  </td>
                  <td>
                    <input
                      className="field w-24 text-right"
                      inputMode="decimal"
                      aria-label={`Price of ${name}`}
                      value={line.price}
                      onChange={(e) => setLine(i, { price: e.target.value.replace(",", ".") })}
                    />
                  </td>
                  <td>
                    <input
                      type="date"
                      className="field"
                      aria-label={`Due date of ${name}`}
                      value={line.due ?? ""}
                      onChange={(e) => setLine(i, { due: e.target.value || null })}
                    />
                  </td>
                  <td className="num">
                    {here > 0 ? <Received n={here} of={c} /> : <span className="text-muted">none</span>}
                  </td>
                  <td className="px-0!">
                    <IconButton
                      label={`Take ${name} out`}
                      disabled={here > 0}
                      onClick={() => set({ lines: doc.lines.filter((_, j) => j !== i) })}
                    >
                      <X size={15} />
                    </IconButton>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
        <div className="flex items-center gap-3 pt-3">
          <Choose
            label="Find what was ordered"
            open={choosing}
            onOpen={setChoosing}
            onChoose={add}
            choices={components.map((c) => ({
              id: c.id,
              label: c.name,
              words: c.code,
              mark: <Chip of={c} />,
              note: c.offers.find((o) => o.supplier === doc.supplier)?.pack,
            }))}
          >
            <Button>
              <Plus size={16} aria-hidden /> Add a line
            </Button>
          </Choose>
          <Button look="main" disabled={busy || !changed || doc.lines.length === 0} onClick={() => void save()}>
            {order ? "Save the order" : "Write it down"}
          </Button>
        </div>
      </div>
      {order && !changed && order.lines.some((l) => (received[l.id] ?? 0) < l.quantity) && (
        <ReceiveForm order={order} components={byId} />
      )}
    </Page>
  );
}

function Received({ n, of }: { n: number; of: Component | undefined }) {
  const say = useSayQuantity();
  return <span className="font-semibold">{of ? say(n, of.baseUnit) : sayNumber(n)}</span>;
}

/** What came of an order: in full or in part, with freight and duty shared over it. */
function ReceiveForm({ order, components }: { order: Order; components: ReadonlyMap<string, Component> }) {
  const rooms = useQuery(roomsQuery);
  const person = useSettings((s) => s.person);
  const say = useSayQuantity();
  const open = order.lines.filter((l) => (order.received[l.id] ?? 0) < l.quantity);
  const [came, setCame] = useState<Record<string, number | null>>(() =>
    Object.fromEntries(open.map((l) => [l.id, l.quantity - (order.received[l.id] ?? 0)])),
  );
  const [lots, setLots] = useState<Record<string, string>>({});
  const [freight, setFreight] = useState("");
  const [duty, setDuty] = useState("");
  const [shareBy, setShareBy] = useState<"value" | "mass">("value");
  const [place, setPlace] = useState("");
  const { send, busy, refusal } = useSend("receiveOrder", () => stockChanged());
  const fault = sentenceOf(refusal);
  const lines = open.flatMap((l) =>
    came[l.id]! > 0 ? [{ line: l.id, quantity: came[l.id]!, lot: lots[l.id] ?? "" }] : [],
  );
  const receive = async (e: React.FormEvent) => {
    e.preventDefault();
    await send((requestKey) => ({
      params: { id: order.id },
      body: {
        requestKey,
        person,
        place: place || null,
        lines,
        freight: freight.replace(",", ".") || "0",
        duty: duty.replace(",", ".") || "0",
        shareBy,
      },
    }));
  };
  return (
    <form onSubmit={receive} className="mt-8 border-t border-rule px-6 pt-5" aria-label="Receive">
      <h2>What came</h2>
      <table className="row-table max-w-3xl">
        <thead>
          <tr>
            <th scope="col" className="w-full">
              Component
            </th>
            <th scope="col">Due</th>
            <th scope="col" className="text-right!">
              still open
            </th>
            <th scope="col" className="text-right!">
              came now
            </th>
            <th scope="col">Lot</th>
          </tr>
        </thead>
        <tbody>
          {open.map((l) => {
            const c = components.get(l.component)!;
            const left = l.quantity - (order.received[l.id] ?? 0);
            const set = (n: number | null) => setCame((x) => ({ ...x, [l.id]: n }));
            return (
              <tr key={l.id}>
                <th scope="row" className="text-left font-normal!">
                  {c.name}
                </th>
                <td className="whitespace-nowrap text-muted">{l.due ? sayDay(l.due) : ""}</td>
                <td className="num">{say(left, c.baseUnit)}</td>
                <td>
                  {c.baseUnit === "mm" ? (
                    <LengthField
                      className="field w-28 text-right"
                      aria-label={`Came now of ${c.name}`}
                      optional
                      zero
                      mm={came[l.id] ?? null}
                      onChange={set}
                    />
                  ) : (
                    <NumberField
                      className="field w-28 text-right"
                      aria-label={`Came now of ${c.name}`}
                      optional
                      whole={c.baseUnit === "piece"}
                      value={came[l.id] ?? null}
                      onChange={set}
                    />
                  )}
                </td>
                <td>
                  <input
                    className="field w-24"
                    aria-label={`Lot of ${c.name}`}
                    placeholder="none"
                    maxLength={40}
                    value={lots[l.id] ?? ""}
                    onChange={(e) => setLots((x) => ({ ...x, [l.id]: e.target.value }))}
                  />
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
      <div className="flex flex-wrap items-end gap-4 pt-3">
        <Labelled label={`Freight, ${order.currency}`}>
          <input
            className="field w-24"
            inputMode="decimal"
            placeholder="0"
            value={freight}
            onChange={(e) => setFreight(e.target.value)}
          />
        </Labelled>
        <Labelled label={`Duty, ${order.currency}`}>
          <input
            className="field w-24"
            inputMode="decimal"
            placeholder="0"
            value={duty}
            onChange={(e) => setDuty(e.target.value)}
          />
        </Labelled>
        <Segmented
          label="Shared by"
          value={shareBy}
          options={[
            { value: "value", label: "Shared by value" },
            { value: "mass", label: "By mass" },
          ]}
          onChange={setShareBy}
        />
        <Labelled label="Put where">
          <select className="field" value={place} onChange={(e) => setPlace(e.target.value)}>
            <option value="">the first place</option>
            {rooms.data?.places
              .filter((p) => !p.held)
              .map((p) => (
                <option key={p.id} value={p.id}>
                  {p.code}, {p.name}
                </option>
              ))}
          </select>
        </Labelled>
        <Button type="submit" look="main" disabled={busy || lines.length === 0}>
          Receive {lines.length === open.length ? "it" : `${lines.length} of ${open.length} lines`}
        </Button>
      </div>
      {fault && (
        <p className="pt-2">
          <Fault>{fault}</Fault>
        </p>
      )}
    </form>
  );
}
