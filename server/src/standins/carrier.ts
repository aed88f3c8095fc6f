import type { Band } from "@jar-count/core/contract";
import { coinPlaces } from "@jar-count/core/cost";
import { postageFor } from "@jar-count/core/price";

/** Services by zone: limits, and a price for each mass, g. Invented. */
const TABLE = [
  {
    service: "large letter",
    limits: { maxThickMm: 25, maxLongMm: 353, maxWideMm: 250 },
    prices: {
      home: [
        [100, 1.55],
        [250, 2.1],
        [500, 2.7],
        [750, 3.4],
      ],
    },
  },
  {
    service: "small parcel",
    limits: { maxThickMm: 160, maxLongMm: 450, maxWideMm: 350 },
    prices: {
      home: [
        [1000, 3.95],
        [2000, 3.95],
      ],
      away: [
        [100, 8.2],
        [250, 8.9],
        [500, 10.4],
        [1000, 13.1],
        [2000, 16.4],
      ],
    },
  },
  {
    service: "medium parcel",
    limits: { maxThickMm: 460, maxLongMm: 610, maxWideMm: 460 },
    prices: {
      home: [
        [2000, 6.2],
        [10_000, 7.4],
        [20_000, 11.9],
      ],
    },
  },
] as const;

/** A carrier that is not there: its whole table, its numbers in whatever currency it is asked for. */
export function carrierRates(currency: string): { currency: string; rates: Band[] } {
  const places = coinPlaces(currency);
  const rates = TABLE.flatMap(({ service, limits, prices }) =>
    Object.entries(prices as Record<string, readonly (readonly [number, number])[]>).flatMap(([zone, steps]) =>
      steps.map(([maxG, price]) => ({ service, zone, maxG, ...limits, price: price.toFixed(places) })),
    ),
  );
  // Home before away: the first zone that it names is the usual one.
  return { currency, rates: rates.sort((a, b) => (a.zone === b.zone ? 0 : a.zone === "home" ? -1 : 1)) };
}

/** What one parcel costs, as the carrier says it when it is asked for one; null where it does not take it. */
export function quote(asked: URLSearchParams): { service: string; price: string; currency: string } | null {
  const number = (name: string) => Number(asked.get(name) ?? 0);
  const { currency, rates } = carrierRates(asked.get("currency") ?? "GBP");
  const parcel = { g: number("g"), thickMm: number("thick"), longMm: number("long"), wideMm: number("wide") };
  const { band } = postageFor(rates, parcel, asked.get("zone") ?? "");
  return band && { service: band.service, price: band.price, currency };
}
