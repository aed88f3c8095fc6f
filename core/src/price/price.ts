import BigDecimal from "big.js";
import type { Channel, PriceAnswer, PriceRequest } from "../contract/index.ts";
import { coinPlaces } from "../cost/index.ts";

/** What a channel takes of a price. */
type Terms = Pick<PriceRequest, "feeRate" | "feeFixed" | "taxRate">;

/** Places that what follows from a price is kept to: it is not money that anybody pays. */
const PLACES = 8;
/** Decimals of our own, so that the digits behind the point of a division, far beyond any coin, are ours alone. */
const Big = BigDecimal();
Big.DP = 30;

/** Decimal text without noughts behind what says something, and with a coin's places at least. */
function exact(amount: BigDecimal, places: number): string {
  const [whole, part = ""] = amount.toFixed(PLACES).split(".");
  const said = part.replace(/0+$/, "").padEnd(places, "0");
  return said === "" ? whole! : `${whole}.${said}`;
}

/** What is left of a price: net = price ÷ (1 + tax) − fee, of which margin and markup say how much is earned. */
export function selling(price: BigDecimal, cost: BigDecimal, { feeRate, feeFixed, taxRate }: Terms) {
  const fee = price.times(feeRate).plus(feeFixed);
  const untaxed = price.div(new Big(1).plus(taxRate));
  const net = untaxed.minus(fee);
  const earned = net.minus(cost);
  return {
    fee,
    untaxed,
    tax: price.minus(untaxed),
    net,
    earned,
    margin: untaxed.gt(0) ? earned.div(untaxed) : new Big(0),
    markup: cost.gt(0) ? earned.div(cost) : null,
  };
}

/**
 * The price at which a box that costs so much earns the margin (of the price without tax) or the markup (on its cost)
 * that is asked for, rounded up to the currency's coin; and what follows from the price so rounded.
 * @param cost without fees and tax
 * @returns null where no price does it: fees, tax and margin take all of it
 */
export function priceFor({ cost, margin, markup, currency, ...terms }: PriceRequest): PriceAnswer | null {
  const taxed = new Big(1).plus(terms.taxRate);
  const fixed = new Big(terms.feeFixed);
  // P ÷ (1 + t) − (P f + F) − c = m P ÷ (1 + t), or = k c: solved for P, with one division, so that a price that
  // comes out even is not rounded up by the dust of another.
  const [share, wanted] =
    margin != null
      ? [new Big(1).minus(margin).minus(taxed.times(terms.feeRate)), fixed.plus(cost)]
      : [new Big(1).minus(taxed.times(terms.feeRate)), fixed.plus(new Big(cost).times(new Big(1).plus(markup!)))];
  if (share.lte(0) || wanted.lt(0)) return null;
  const places = coinPlaces(currency);
  const price = wanted.times(taxed).div(share).round(places, BigDecimal.roundUp);
  // Amounts are kept to nine digits before the point.
  return price.gte(1e9) ? null : atPrice(price.toFixed(places), cost, terms, currency);
}

/** What follows from a price: net, fee, tax, margin and markup. */
export function atPrice(price: string, cost: string, terms: Terms, currency: string): PriceAnswer {
  const places = coinPlaces(currency);
  const { net, fee, tax, margin, markup } = selling(new Big(price), new Big(cost), terms);
  return {
    price: new Big(price).toFixed(places),
    net: exact(net, places),
    fee: exact(fee, places),
    tax: exact(tax, places),
    margin: Number(margin),
    markup: markup && Number(markup),
  };
}

/** The least price with the ending, such as .50, that is not below another; without an ending, the price itself. */
export function endingUp(price: string, ending: string, currency: string): string {
  const places = coinPlaces(currency);
  const part = ending === "" ? null : new Big(`0${ending}`);
  if (!part || part.round(places).cmp(part) !== 0) return new Big(price).toFixed(places);
  const whole = new Big(price).round(0, BigDecimal.roundDown);
  const here = whole.plus(part);
  return (here.gte(price) ? here : here.plus(1)).toFixed(places);
}

/** One step of an order's size: so many boxes, and what each earns. */
export interface OrderStep {
  boxes: number;
  /** What the order is worth before discounts, and what the buyer pays: decimal text. */
  worth: string;
  paid: string;
  rate: number;
  gift: boolean;
  /** What the workshop earns of the order, fees, costs and gift taken off: decimal text, with its sign. */
  earned: string;
  margin: number;
}

/**
 * What orders of one to so many boxes earn, with the channel's discounts by order value and its gift.
 * @param cost of a box without fees; each box of an order is posted by itself
 */
export function ordersOf(
  price: string,
  cost: string,
  channel: Omit<Channel, "id" | "name">,
  currency: string,
  upTo: number,
  /** What posting the gift with a box costs beyond posting the box. */
  giftPostage = "0",
): OrderStep[] {
  const places = coinPlaces(currency);
  return Array.from({ length: upTo }, (_, i) => {
    const boxes = i + 1;
    const worth = new Big(price).times(boxes);
    const rate = channel.discounts.reduce((best, d) => (worth.gte(d.from) ? d.rate : best), 0);
    const paid = worth.times(new Big(1).minus(rate)).round(places, BigDecimal.roundHalfUp);
    const gift = channel.gift != null && worth.gte(channel.gift.from);
    const costs = new Big(cost).times(boxes).plus(gift ? new Big(channel.gift!.cost).plus(giftPostage) : 0);
    const { earned, margin } = selling(paid, costs, channel);
    return {
      boxes,
      worth: worth.toFixed(places),
      paid: paid.toFixed(places),
      rate,
      gift,
      earned: earned.toFixed(places),
      margin: Number(margin),
    };
  });
}

/** Where a ladder of discounts or a gift goes wrong: the order at which more is bought and less is earned. */
export interface Eaten {
  boxes: number;
  worth: string;
  earned: string;
  /** What the order one box smaller earns. */
  before: string;
  /** Nothing is left of it, or only less than before. */
  loses: boolean;
  by: "discount" | "gift" | "both";
}

/** The first order size at which a discount or a gift makes an order earn less than a smaller one, or nothing. */
export function eatenAt(orders: readonly OrderStep[]): Eaten | null {
  for (const [i, order] of orders.entries()) {
    if (order.rate === 0 && !order.gift) continue;
    const before = orders[i - 1]?.earned ?? "0";
    const loses = Number(order.earned) <= 0;
    if (!loses && Number(order.earned) >= Number(before)) continue;
    const by = order.rate > 0 && order.gift ? "both" : order.gift ? "gift" : "discount";
    return { boxes: order.boxes, worth: order.worth, earned: order.earned, before, loses, by };
  }
  return null;
}

/**
 * How many boxes must be sold until what was spent whether they sell or not is earned back.
 * @param spent for the whole run
 * @param each what one sold box brings, its own postage and fees taken off
 * @returns null where no number does it
 */
export const breakEven = (spent: string, each: string): number | null =>
  Number(each) > 0 ? Number(new Big(spent).div(each).round(0, BigDecimal.roundUp)) : null;
