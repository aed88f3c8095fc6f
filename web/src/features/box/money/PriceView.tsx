import type { BoxPrice, Channel } from "@jar-count/core/contract";
import { coinPlaces, sumOfMoney } from "@jar-count/core/cost";
import {
  atPrice,
  eatenAt,
  endingUp,
  ordersOf,
  paidForBy,
  postageFor,
  priceFor,
  type VariantSteps,
} from "@jar-count/core/price";
import { useState } from "react";
import { Link } from "react-router";
import { ButtonLink } from "../../../ui/ButtonLink.tsx";
import { Button, Empty, Labelled, Segmented } from "../../../ui/controls.tsx";
import { DataTable } from "../../../ui/DataTable.tsx";
import { NumberField } from "../../../ui/fields.tsx";
import { Diamond, sayNumber, Triangle } from "../../../ui/marks.tsx";
import { useSayAbout, useSayMoney } from "../../../ui/money.ts";
import { useBox, useBoxStore } from "../boxStore.ts";
import { MoneyField } from "../../../ui/MoneyField.tsx";
import { useVariantNames } from "./variants.ts";
import { sayPart } from "../../../ui/costWords.ts";

/** So many boxes in one order are looked at: a few at least, and as many as reach the last discount or the gift. */
function ordersFor(price: string, { discounts, gift }: Channel): number {
  const last = Math.max(0, ...discounts.map((d) => Number(d.from)), Number(gift?.from ?? 0));
  return Math.min(40, Math.max(6, Number(price) > 0 ? Math.ceil(last / Number(price)) + 1 : 0));
}

/** What a variant costs without its fees: what a price is asked for. */
const costOf = (v: VariantSteps, currency: string) =>
  sumOfMoney(
    v.steps.flatMap((s) => (s.step === "fees" || s.perBox === null ? [] : [s.perBox])),
    currency,
  );

/** What to ask for a box, in each channel: by the dearest of its colourways, since they are sold at one price. */
export function PriceView() {
  const steps = useBox((w) => w.steps)!;
  const terms = useBox((w) => w.terms)!;
  const names = useVariantNames();
  const { currency, money } = terms;
  const priced = steps.variants.map((v, i) => ({ v, name: names[i]! })).filter(({ v }) => v.perBox !== null);
  if (money.channels.length === 0) {
    return (
      <Empty
        title="Nowhere to sell it yet"
        action={
          <ButtonLink look="main" to="/workshop/money">
            Add a channel
          </ButtonLink>
        }
      >
        A channel says what it takes of a price: its fees and its tax. A shop of one’s own is one, a market another.
      </Empty>
    );
  }
  if (priced.length === 0) {
    return <Empty title="No boxes yet">Say how many boxes go out under Colours: what one costs depends on it.</Empty>;
  }
  const dearest = priced.reduce((most, x) =>
    Number(costOf(x.v, currency)) > Number(costOf(most.v, currency)) ? x : most,
  );
  const cost = costOf(dearest.v, currency);
  return (
    <section className="px-6" aria-label="Price">
      <Asked cost={cost} name={priced.length > 1 ? dearest.name : null} />
      <Prices cost={cost} />
      <Orders cost={cost} variant={dearest.v} />
    </section>
  );
}

/** The price for a margin or a markup, in a channel, with the workshop's ending. */
function Asked({ cost, name }: { cost: string; name: string | null }) {
  const { edit } = useBoxStore();
  const { currency, money } = useBox((w) => w.terms!);
  const say = useSayMoney();
  const [by, setBy] = useState<"margin" | "markup">("margin");
  const [wanted, setWanted] = useState(0.4);
  const [id, setId] = useState(money.channels[0]!.id);
  const channel = money.channels.find((c) => c.id === id) ?? money.channels[0]!;
  const { feeRate, feeFixed, taxRate } = channel;
  const terms = { feeRate, feeFixed, taxRate };
  const found = priceFor({ ...terms, cost, [by]: wanted, currency });
  const price = found && endingUp(found.price, money.ending, currency);
  const real = price === null ? null : atPrice(price, cost, terms, currency);
  const use = () =>
    edit((box) => {
      const known = box.prices.some((p) => p.channel === channel.id);
      const prices = box.prices.map((p) => (p.channel === channel.id ? { ...p, single: price! } : p));
      return {
        ...box,
        prices: known ? prices : [...prices, { channel: channel.id, single: price!, subscription: null }],
      };
    });
  return (
    <div className="mb-8">
      <div className="mb-3 flex flex-wrap items-end gap-3">
        <Segmented
          label="By margin or markup"
          value={by}
          options={[
            { value: "margin", label: "margin" },
            { value: "markup", label: "markup" },
          ]}
          onChange={setBy}
        />
        <Labelled label={by === "margin" ? "Wanted, % of the price" : "Wanted, % on the cost"}>
          <NumberField
            className="field w-24 text-right"
            aria-label={by === "margin" ? "Wanted margin, %" : "Wanted markup, %"}
            factor={100}
            max={by === "margin" ? 0.99 : 10}
            places={1}
            value={wanted}
            onChange={(n) => setWanted(n!)}
          />
        </Labelled>
        <Labelled label="Channel">
          <select className="field max-w-56" value={channel.id} onChange={(e) => setId(e.target.value)}>
            {money.channels.map((c) => (
              <option key={c.id} value={c.id}>
                {c.name}
              </option>
            ))}
          </select>
        </Labelled>
      </div>
      {real === null ? (
        <p role="alert" className="font-medium text-short">
          <Triangle /> No price reaches this: tax, fees and the {by} would take all of it. Ask for less.
        </p>
      ) : (
        <p className="flex flex-wrap items-baseline gap-x-2 gap-y-1">
          <strong className="text-3xl leading-9 font-semibold" data-testid="asked-price">
            {say(price!)}
          </strong>
          <span className="text-muted">
            earns {say(round(real.net, cost, currency))} on a cost of {say(cost)}
            {name && ` (${name}, the dearest)`}: a margin of {sayPart(real.margin)}
            {real.markup !== null && `, a markup of ${sayPart(real.markup)}`}
          </span>
          <Button look="main" className="h-8!" onClick={use}>
            Ask {say(price!)} at {channel.name}
          </Button>
        </p>
      )}
      <p className="mt-1 text-xs text-muted">
        Margin = what is left ÷ the price without tax. Markup = what is left ÷ the cost. Tax of{" "}
        {sayNumber(taxRate * 100, 1)} % is in the price; fees of {sayNumber(feeRate * 100, 1)} % and {say(feeFixed)} are
        taken off
        {money.ending && `; it ends in ${money.ending}`}.{" "}
        <Link className="link" to="/workshop/money">
          Change these
        </Link>
      </p>
    </div>
  );
}

/** What is left of a price's net when the cost is paid, to the coin. */
const round = (net: string, cost: string, currency: string) => sumOfMoney([net, `-${cost}`], currency);

interface Row {
  channel: Channel;
  price: BoxPrice | null;
}

/** The box's prices by channel, single and to subscribers, with what is left of each. */
function Prices({ cost }: { cost: string }) {
  const { edit } = useBoxStore();
  const prices = useBox((w) => w.box.prices);
  const { currency, money } = useBox((w) => w.terms!);
  const steps = useBox((w) => w.steps)!;
  const say = useSayMoney();
  const rows = money.channels.map((channel): Row => ({
    channel,
    price: prices.find((p) => p.channel === channel.id) ?? null,
  }));
  const put = (channel: string, change: Partial<BoxPrice>) =>
    edit((box) => {
      const known = box.prices.find((p) => p.channel === channel);
      const next = known ? { ...known, ...change } : { channel, single: "0", subscription: null, ...change };
      return {
        ...box,
        prices: known ? box.prices.map((p) => (p === known ? next : p)) : [...box.prices, next],
      };
    }, `price ${channel}`);
  const drop = (channel: string) =>
    edit((box) => ({ ...box, prices: box.prices.filter((p) => p.channel !== channel) }));
  const left = (price: string, { feeRate, feeFixed, taxRate }: Channel) =>
    atPrice(price, cost, { feeRate, feeFixed, taxRate }, currency);
  const main = rows.find((r) => r.price);
  const retail =
    money.retailFactor == null
      ? null
      : (Number(partsOf(steps.variants[0]!)) * money.retailFactor).toFixed(coinPlaces(currency));
  return (
    <>
      <h2 className="mb-2">What is asked</h2>
      <DataTable
        className="mb-2"
        scrolls="Prices by channel"
        rows={rows}
        rowKey={(r) => r.channel.id}
        testId="price-row"
        columns={[
          { head: "Channel", names: true, wide: true, look: "[overflow-wrap:anywhere]", cell: (r) => r.channel.name },
          {
            head: "single",
            number: true,
            cell: ({ channel, price }) => (
              <MoneyField
                aria-label={`Price at ${channel.name}`}
                className="field w-24 text-right"
                optional
                value={price?.single ?? null}
                onChange={(single) => (single === null ? drop(channel.id) : put(channel.id, { single }))}
              />
            ),
          },
          {
            head: "left",
            number: true,
            look: "font-semibold",
            cell: ({ channel, price }) => price && <Left of={left(price.single, channel)} cost={cost} />,
          },
          {
            head: "margin",
            number: true,
            cell: ({ channel, price }) => price && sayPart(left(price.single, channel).margin),
          },
          {
            head: "markup",
            number: true,
            look: "text-muted",
            cell: ({ channel, price }) => price && sayMarkup(left(price.single, channel).markup),
          },
          {
            head: "to subscribers",
            number: true,
            cell: ({ channel, price }) =>
              price && (
                <MoneyField
                  aria-label={`To subscribers at ${channel.name}`}
                  className="field w-24 text-right"
                  optional
                  value={price.subscription ?? null}
                  onChange={(subscription) => put(channel.id, { subscription })}
                />
              ),
          },
          {
            head: "left",
            number: true,
            look: "font-semibold",
            cell: ({ channel, price }) =>
              price?.subscription != null && <Left of={left(price.subscription, channel)} cost={cost} />,
          },
        ]}
      />
      {main?.price && <BreakEven price={main.price.single} channel={main.channel} />}
      {retail !== null && (
        <p className="text-sm text-muted">
          Bought singly, its parts would sell at about <strong className="text-ink">{say(retail)}</strong>:{" "}
          {sayNumber(money.retailFactor!, 2)} times what they cost.
        </p>
      )}
      <div className="mb-8" />
    </>
  );
}

const sayMarkup = (markup: number | null) => (markup === null ? "" : sayPart(markup));

/** What parts a maker gets in a box cost. */
const partsOf = (v: VariantSteps) =>
  v.steps.reduce((n, s) => n + (["material", "spares", "contents"].includes(s.step) ? Number(s.perBox ?? 0) : 0), 0);

function Left({ of, cost }: { of: { net: string }; cost: string }) {
  const currency = useBox((w) => w.terms!.currency);
  const say = useSayMoney();
  const left = round(of.net, cost, currency);
  if (Number(left) >= 0) return say(left);
  return (
    <span className="text-short">
      <Triangle /> {say(left)}
    </span>
  );
}

/** From how many sold boxes on the run earns: parts and work are spent anyway, postage and fees only as boxes sell. */
function BreakEven({ price, channel }: { price: string; channel: Channel }) {
  const steps = useBox((w) => w.steps)!;
  const currency = useBox((w) => w.terms!.currency);
  const n = paidForBy(steps, price, channel, currency);
  return (
    <p className="text-sm" data-testid="break-even">
      {n === null ? (
        <>
          <Triangle className="text-short" /> At this price no number of boxes pays for the run.
        </>
      ) : (
        <>
          The run is paid for by the <strong>{sayNumber(n)}</strong>
          {n === 1 ? "st" : n === 2 ? "nd" : n === 3 ? "rd" : "th"} box of {sayNumber(steps.boxes)} sold at{" "}
          {channel.name}
          {n > steps.boxes && (
            <span className="font-medium text-short">
              {" "}
              <Triangle /> more than there are
            </span>
          )}
          .
        </>
      )}
    </p>
  );
}

/** What orders of several boxes earn with a channel's discounts and gift, and where that goes wrong. */
function Orders({ cost, variant }: { cost: string; variant: VariantSteps }) {
  const prices = useBox((w) => w.box.prices);
  const { currency, money, bands } = useBox((w) => w.terms!);
  const say = useSayMoney();
  const about = useSayAbout();
  const sold = money.channels.filter(
    (c) => prices.some((p) => p.channel === c.id) && (c.discounts.length > 0 || c.gift != null),
  );
  return sold.map((channel) => {
    const { single } = prices.find((p) => p.channel === channel.id)!;
    const { parcel, posted } = variant;
    const withGift = channel.gift
      ? postageFor(bands, { ...parcel, g: parcel.g + channel.gift.massG }, money.zone, money.service).band
      : null;
    const more = money.zone ? Math.max(0, Number(withGift?.price ?? 0) - Number(posted.band?.price ?? 0)) : 0;
    const orders = ordersOf(single, cost, channel, currency, ordersFor(single, channel), more.toFixed(4));
    const eaten = eatenAt(orders);
    return (
      <div key={channel.id} className="mb-8">
        <h2 className="mb-1">Orders of several boxes at {channel.name}</h2>
        {eaten && (
          <p role="alert" className="mb-2 font-medium text-short" data-testid="eaten">
            <Triangle /> An order of {sayNumber(eaten.boxes)} {eaten.boxes === 1 ? "box" : "boxes"} ({say(eaten.worth)})
            {eaten.loses
              ? ` earns nothing: ${say(eaten.earned)}`
              : ` earns ${say(eaten.earned)}, less than one box fewer does (${say(eaten.before)})`}
            {eaten.by === "gift"
              ? ", since the gift costs more than the box earns."
              : eaten.by === "both"
                ? ", with the discount and the gift together."
                : ", since the discount is on the whole order."}
          </p>
        )}
        <DataTable
          scrolls={`Orders at ${channel.name}`}
          rows={orders}
          rowKey={(o) => String(o.boxes)}
          columns={[
            { head: "Boxes", names: true, cell: (o) => sayNumber(o.boxes) },
            { head: "worth", number: true, cell: (o) => say(o.worth) },
            {
              head: "Less",
              wide: true,
              look: "text-muted [overflow-wrap:anywhere]",
              cell: (o) =>
                [o.rate > 0 ? `${sayNumber(o.rate * 100)} % off` : "", o.gift ? channel.gift!.name : ""]
                  .filter(Boolean)
                  .join(", and "),
            },
            { head: "paid", number: true, cell: (o) => say(o.paid) },
            {
              head: "earned",
              number: true,
              look: "font-semibold",
              cell: (o) => (
                <span className={eaten && o.boxes === eaten.boxes ? "text-short" : ""}>
                  {eaten && o.boxes === eaten.boxes && <Triangle />} {say(o.earned)}
                </span>
              ),
            },
            { head: "margin", number: true, cell: (o) => sayPart(o.margin) },
          ]}
        />
        {channel.gift && (
          <p className="pt-1 text-sm text-muted">
            <Diamond className="text-low" /> The gift costs an order {say(channel.gift.cost)}
            {more > 0 && ` and ${about(more)} more in the post, as it is ${sayNumber(channel.gift.massG)} g`}. Each box
            of an order is posted by itself.
          </p>
        )}
      </div>
    );
  });
}
