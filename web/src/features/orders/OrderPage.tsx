import { exact, inSteps } from "@jar-count/core/units";
import { amountOfPacks, orderText } from "@jar-count/core/buy";
import { priceOfPacks } from "@jar-count/core/cost";
import { addressOf, type Component, Order, OrderInput } from "@jar-count/core/contract";
import { dayAfter } from "@jar-count/core/day";
import { useQuery } from "@tanstack/react-query";
import { Copy, Download, Plus, X } from "lucide-react";
import { useState } from "react";
import { useFieldArray, useForm } from "react-hook-form";
import { Link, useNavigate, useParams } from "react-router";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import {
  boxesQuery,
  componentsQuery,
  ordersQuery,
  makeStale,
  roomsQuery,
  stockChanged,
  workshopQuery,
} from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Choose } from "../../ui/Choose.tsx";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button, Fault, IconButton, Segmented } from "../../ui/controls.tsx";
import { DataTable, TableHead } from "../../ui/DataTable.tsx";
import { AmountField, LengthField, NumberField } from "../../ui/fields.tsx";
import { Field, MendFirst, useRefusalAtFields } from "../../ui/form.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay, useToday } from "../../ui/month.ts";
import { Page, PageHead, RefusalNotice } from "../../ui/page.tsx";
import { useKnown } from "../../ui/useKnown.ts";
import { Waiting } from "../../ui/Waiting.tsx";
import { ClashNotice, useRecord } from "../../ui/record.tsx";

type Line = OrderInput["lines"][number];

/** What of an order is written by hand. */
const inputOf = ({ supplier, number, placedOn, currency, rate, note, lines }: Order): OrderInput => ({
  supplier,
  number,
  placedOn,
  currency,
  rate,
  note,
  lines,
});

/** A typed amount of money, with a point where a comma was typed. */
const pointed = (text: string) => text.trim().replace(",", ".");

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
      key={id}
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
  const today = useToday();
  const [id] = useState(() => order?.id ?? crypto.randomUUID());
  const record = useRecord<OrderInput>({
    schema: OrderInput,
    found: {
      version: order?.version ?? 0,
      value: order
        ? inputOf(order)
        : { supplier: suppliers[0]?.id ?? "", number: "", placedOn: today, currency, rate: "1", note: "", lines: [] },
    },
  });
  const { form } = record;
  const { send, busy, refusal } = useSend(
    "saveOrder",
    async (saved) => {
      record.saved({ version: saved.version, value: inputOf(saved) });
      await makeStale("orders", "components", "boxes", "ahead");
    },
    (current, requestKey) => {
      const theirs = Order.parse(current);
      const merged = record.merge({ version: theirs.version, value: inputOf(theirs) });
      return merged && { params: { id }, body: { requestKey, version: theirs.version, order: merged } };
    },
  );
  useRefusalAtFields(form, refusal, "/order");
  const lines = useFieldArray({ control: form.control, name: "lines", keyName: "row" });
  const doc = form.watch();
  const [choosing, setChoosing] = useState(false);
  const byId = new Map(components.map((c) => [c.id, c]));
  const changed = order === null || form.formState.isDirty;
  const received = order?.received ?? {};
  const isAllKnown = useKnown(order?.lines.map((l) => l.component) ?? [], byId);
  const boxes = useQuery(boxesQuery).data;
  const spoken = (line: string) => order?.spoken.filter((s) => s.line === line) ?? [];
  const isLateFor = (id: string, due: string | null | undefined) => {
    const packBy = boxes?.find((b) => b.id === id)?.packBy;
    return packBy !== undefined && (due == null || due > packBy);
  };
  const boxName = (id: string) => boxes?.find((b) => b.id === id)?.theme ?? "a box";

  const add = (component: string) => {
    const c = byId.get(component)!;
    const offer = c.offers.find((o) => o.supplier === doc.supplier) ?? c.offers[0];
    const packs = offer?.minimum ?? 1;
    const lead = offer?.leadDays ?? suppliers.find((s) => s.id === doc.supplier)?.leadDays ?? null;
    const due = lead === null ? null : dayAfter(doc.placedOn, lead);
    const quantity = (offer && amountOfPacks(c, offer, packs)) || packs;
    lines.append(
      {
        id: crypto.randomUUID(),
        component,
        pack: offer?.pack ?? "pack",
        packs,
        quantity,
        price: offer ? priceOfPacks(offer, packs, doc.currency) : "0",
        due,
      },
      { shouldFocus: false },
    );
  };
  const setPacks = (i: number, packs: number | null) => {
    if (!packs) return;
    const line = form.getValues(`lines.${i}`);
    const set = <K extends "quantity" | "packs" | "price">(name: K, value: Line[K]) =>
      form.setValue(`lines.${i}.${name}`, value as never, { shouldDirty: true });
    const offer = byId.get(line.component)?.offers.find((o) => o.pack === line.pack);
    const unit = byId.get(line.component)?.baseUnit;
    const quantity = (line.quantity / line.packs) * packs;
    set("quantity", unit === "piece" ? Math.round(quantity) : inSteps(quantity, unit ?? "mm"));
    set("packs", packs);
    if (offer) set("price", priceOfPacks(offer, packs, doc.currency));
  };
  const write = (value: OrderInput, version = record.version) =>
    send((requestKey) => ({ params: { id }, body: { requestKey, version, order: value } }));
  const save = form.handleSubmit(async (input) => {
    const saved = await write(input);
    if (saved && !order) await navigate(`/orders/${id}`, { replace: true });
  });
  const decide = (whose: "mine" | "theirs") => {
    const chosen = record.decide(whose);
    if (chosen) void write(chosen.value, chosen.version);
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
              <Link className="link" to="/workshop/people">
                add one in the workshop
              </Link>{" "}
              first.
            </>
          )
        }
        actions={order && <LetterButtons order={order} suppliers={suppliers} components={byId} changed={changed} />}
      />
      {record.clash ? (
        <ClashNotice clash={record.clash.list} decide={decide} />
      ) : (
        refusal && <RefusalNotice refusal={refusal} />
      )}
      <form onSubmit={save} noValidate aria-label="The order">
        <div className="flex flex-wrap items-start gap-4 px-6 pt-2">
          <Field form={form} name="supplier" label="Supplier">
            {(field) => (
              <select className="field max-w-56" {...field}>
                {suppliers.map((s) => (
                  <option key={s.id} value={s.id}>
                    {s.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field form={form} name="number" label="Number">
            {(field) => <input className="field w-32" maxLength={200} {...field} />}
          </Field>
          <Field form={form} name="placedOn" label="Placed on">
            {(field) => <input type="date" className="field" {...field} />}
          </Field>
          <Field form={form} name="currency" label="Currency">
            {(field) => (
              <input
                className="field w-20 font-mono"
                maxLength={3}
                {...field}
                onChange={(e) => field.onChange(e.target.value.toUpperCase())}
              />
            )}
          </Field>
          {doc.currency !== currency && (
            <Field form={form} name="rate" label={`1 ${doc.currency} in ${currency}`}>
              {(field) => (
                <input
                  className="field w-24"
                  inputMode="decimal"
                  {...field}
                  onChange={(e) => field.onChange(pointed(e.target.value))}
                />
              )}
            </Field>
          )}
          <Field form={form} name="note" label="Note">
            {(field) => <input className="field w-56" maxLength={500} {...field} />}
          </Field>
        </div>
        <div className="px-6 pt-5">
          <table className="row-table stacks-wide">
            <TableHead
              columns={[
                { head: "Component", wide: true },
                { head: "Pack" },
                { head: "packs", number: true },
                { head: "in all", number: true },
                { head: `price, ${doc.currency}`, number: true },
                { head: "Due" },
                { head: "received, spoken for", number: true },
                { head: "Take out", silent: true },
              ]}
            />
            <tbody>
              {lines.fields.map((line, i) => {
                const c = byId.get(line.component);
                const name = c?.name ?? "gone";
                const here = received[line.id] ?? 0;
                return (
                  <tr key={line.row}>
                    <th scope="row" className="text-left font-normal!">
                      <span className="flex min-w-40 items-center gap-2">
                        {c && <Chip of={c} />}
                        <Link className="hover:underline" to={`/jars/${line.component}`}>
                          {name}
                        </Link>
                      </span>
                    </th>
                    <td data-head="Pack">
                      <Field form={form} name={`lines.${i}.pack`}>
                        {(field) => <input className="cell-field w-36" aria-label={`Pack of ${name}`} {...field} />}
                      </Field>
                      {c?.baseUnit === "mm" && (
                        <Field form={form} name={`lines.${i}.pieceMm`}>
                          {({ value, ...field }) => (
                            <span className="mt-1 flex items-center gap-1 text-xs text-muted">
                              pieces of
                              <LengthField
                                className="field h-7! w-24"
                                aria-label={`Length of each piece of ${name}`}
                                mm={value ?? doc.lines[i]!.quantity / doc.lines[i]!.packs}
                                {...field}
                              />
                            </span>
                          )}
                        </Field>
                      )}
                    </td>
                    <td data-head="packs">
                      <Field form={form} name={`lines.${i}.packs`}>
                        {(field) => (
                          <NumberField
                            className="field w-16 text-right"
                            aria-label={`Packs of ${name}`}
                            whole
                            min={1}
                            {...field}
                            onChange={(n) => setPacks(i, n)}
                          />
                        )}
                      </Field>
                    </td>
                    <td data-head="in all">
                      <Field form={form} name={`lines.${i}.quantity`}>
                        {({ value, ...field }) => (
                          <AmountField
                            unit={c?.baseUnit}
                            className="field w-24 text-right"
                            aria-label={`In all of ${name}`}
                            amount={value}
                            {...field}
                          />
                        )}
                      </Field>
                    </td>
                    <td data-head="price">
                      <Field form={form} name={`lines.${i}.price`}>
                        {(field) => (
                          <input
                            className="field w-24 text-right"
                            inputMode="decimal"
                            aria-label={`Price of ${name}`}
                            {...field}
                            onChange={(e) => field.onChange(pointed(e.target.value))}
                          />
                        )}
                      </Field>
                    </td>
                    <td data-head="Due">
                      <Field form={form} name={`lines.${i}.due`}>
                        {({ value, ...field }) => (
                          <input
                            type="date"
                            className="field"
                            aria-label={`Due date of ${name}`}
                            value={value ?? ""}
                            {...field}
                            onChange={(e) => field.onChange(e.target.value || null)}
                          />
                        )}
                      </Field>
                    </td>
                    <td data-head="received, spoken for" className="num">
                      {here > 0 ? <Received n={here} of={c} /> : <span className="text-muted">none</span>}
                      {spoken(line.id).map((s) => (
                        <Link
                          key={s.box}
                          to={`/months/${s.box}/counts`}
                          className="link block text-xs"
                          title="Committed: what it speaks for of what is still to come"
                        >
                          {boxName(s.box)}: <Received n={s.quantity} of={c} />
                          {isLateFor(s.box, doc.lines[i]?.due) && (
                            <strong className="block text-short">too late</strong>
                          )}
                        </Link>
                      ))}
                    </td>
                    <td className="px-0!">
                      <IconButton
                        label={`Take ${name} out`}
                        disabled={here > 0 || spoken(line.id).length > 0}
                        onClick={() => lines.remove(i)}
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
              choices={components
                .filter((c) => !c.away)
                .map((c) => ({
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
            <Button type="submit" look="main" disabled={busy || !changed || doc.lines.length === 0}>
              {order ? "Save the order" : "Write it down"}
            </Button>
            <MendFirst form={form} />
          </div>
        </div>
      </form>
      {order && !changed && isAllKnown && order.lines.some((l) => (received[l.id] ?? 0) < l.quantity) && (
        <ReceiveForm key={order.version} order={order} components={byId} />
      )}
    </Page>
  );
}

interface LetterProps {
  order: Order;
  suppliers: { id: string; name: string }[];
  components: ReadonlyMap<string, Component>;
  /** What is typed and not saved is in no letter. */
  changed: boolean;
}

/** The order for the supplier: as the text of a mail, as a table, as a letter. */
function LetterButtons({ order, suppliers, components, changed }: LetterProps) {
  const workshop = useQuery(workshopQuery).data?.name ?? "";
  const [said, setSaid] = useState("");
  const copy = async () => {
    const supplier = suppliers.find((s) => s.id === order.supplier)?.name ?? "";
    const nameOf = (id: string) => components.get(id) ?? { code: "", name: "gone", baseUnit: "piece" as const };
    await navigator.clipboard.writeText(orderText({ order, workshop, supplier, nameOf }));
    setSaid("The order is copied: paste it into a mail.");
  };
  if (changed) return <span className="text-muted">Save it, and it can be sent.</span>;
  return (
    <>
      <span role="status" className="self-center text-muted">
        {said}
      </span>
      <Button onClick={() => void copy()}>
        <Copy size={15} aria-hidden /> Copy as text
      </Button>
      <ButtonLink to={addressOf("printOrder", { id: order.id })} reloadDocument download>
        <Download size={15} aria-hidden /> PDF
      </ButtonLink>
      <ButtonLink to={addressOf("downloadOrder", { id: order.id })} reloadDocument download>
        <Download size={15} aria-hidden /> CSV
      </ButtonLink>
    </>
  );
}

function Received({ n, of }: { n: number; of: Component | undefined }) {
  const say = useSayQuantity();
  return <span className="font-semibold">{of ? say(n, of.baseUnit) : sayNumber(n)}</span>;
}

/** What came of one order line. */
interface Came {
  line: string;
  quantity: number | null;
  lot: string;
}

/** What came of an order: in full or in part, with freight and duty shared over it. */
function ReceiveForm({ order, components }: { order: Order; components: ReadonlyMap<string, Component> }) {
  const rooms = useQuery(roomsQuery);
  const person = useSettings((s) => s.person);
  const say = useSayQuantity();
  const open = order.lines.filter((l) => (order.received[l.id] ?? 0) < l.quantity);
  const left = (l: Line) => exact(l.quantity - (order.received[l.id] ?? 0));
  // What is received is by the order as it stood when this was opened.
  const [seen] = useState(order.version);
  const { send, busy, refusal } = useSend("receiveOrder", () => stockChanged());
  const form = useForm({
    defaultValues: {
      lines: open.map((l): Came => ({ line: l.id, quantity: left(l), lot: "" })),
      freight: "",
      duty: "",
      shareBy: "value" as "value" | "mass",
      place: "",
    },
  });
  const came = form.watch("lines").filter((l) => (l.quantity ?? 0) > 0);
  const receive = form.handleSubmit(({ lines, freight, duty, shareBy, place }) =>
    send((requestKey) => ({
      params: { id: order.id },
      body: {
        requestKey,
        person,
        version: seen,
        place: place || null,
        lines: lines.flatMap((l) => (l.quantity ? [{ ...l, quantity: l.quantity }] : [])),
        freight: pointed(freight) || "0",
        duty: pointed(duty) || "0",
        shareBy,
      },
    })),
  );
  return (
    <form onSubmit={receive} noValidate className="mt-8 border-t border-rule px-6 pt-5" aria-label="Receive">
      <h2>What came</h2>
      <DataTable
        early
        className="max-w-3xl"
        rows={open.map((line, i) => ({ line, i, c: components.get(line.component)! }))}
        rowKey={({ line }) => line.id}
        columns={[
          { head: "Component", wide: true, names: true, cell: ({ c }) => c.name },
          {
            head: "Due",
            look: "whitespace-nowrap text-muted",
            cell: ({ line }) => (line.due ? sayDay(line.due) : ""),
          },
          { head: "still open", number: true, cell: ({ line, c }) => say(left(line), c.baseUnit) },
          {
            head: "came now",
            number: true,
            cell: ({ c, i }) => (
              <Field form={form} name={`lines.${i}.quantity`}>
                {({ value, ...field }) => (
                  <AmountField
                    unit={c.baseUnit}
                    optional
                    zero
                    className="field w-28 text-right"
                    aria-label={`Came now of ${c.name}`}
                    amount={value}
                    {...field}
                  />
                )}
              </Field>
            ),
          },
          {
            head: "Lot",
            cell: ({ c, i }) => (
              <Field form={form} name={`lines.${i}.lot`}>
                {(field) => (
                  <input
                    className="field w-24"
                    aria-label={`Lot of ${c.name}`}
                    placeholder="none"
                    maxLength={40}
                    {...field}
                  />
                )}
              </Field>
            ),
          },
        ]}
      />
      <div className="flex flex-wrap items-end gap-4 pt-3">
        {(["freight", "duty"] as const).map((name) => (
          <Field
            key={name}
            form={form}
            name={name}
            label={`${name === "freight" ? "Freight" : "Duty"}, ${order.currency}`}
          >
            {(field) => <input className="field w-24" inputMode="decimal" placeholder="0" {...field} />}
          </Field>
        ))}
        <Field form={form} name="shareBy">
          {({ value, onChange }) => (
            <Segmented
              label="Shared by"
              value={value}
              options={[
                { value: "value", label: "Shared by value" },
                { value: "mass", label: "By mass" },
              ]}
              onChange={onChange}
            />
          )}
        </Field>
        <Field form={form} name="place" label="Put where">
          {(field) => (
            <select className="field" {...field}>
              <option value="">the first place</option>
              {rooms.data?.places
                .filter((p) => !p.held)
                .map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.code}, {p.name}
                  </option>
                ))}
            </select>
          )}
        </Field>
        <Button type="submit" look="main" disabled={busy || came.length === 0}>
          Receive {came.length === open.length ? "it" : `${came.length} of ${open.length} lines`}
        </Button>
      </div>
      {refusal && (
        <p className="pt-2">
          <Fault>{sentenceOf(refusal)}</Fault>
        </p>
      )}
    </form>
  );
}
