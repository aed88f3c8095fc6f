import type { Component } from "@jar-count/core/contract";
import { seeded } from "@jar-count/core/weigh";
import Papa from "papaparse";

/** What a supplier sells, as the workshop knows it: its own offer of a component. */
export interface Sold {
  code: string;
  offer: Component["offers"][number];
}

/**
 * A month's prices of an item are steps of a twentieth, begun somewhere else each month: a price goes to the nearest of
 * them, so by at most a fortieth, and stays there when the list is asked for again. Invented.
 */
const STEP = Math.log(1.05);

/**
 * A supplier that is not there: sends its price list of a month as CSV (RFC 4180) under headings of its own, as
 * suppliers do. The same month brings the same prices.
 * @param month `2027-04`
 * @param places of the smallest coin
 */
export function priceList(supplier: string, sold: readonly Sold[], month: string, places = 2): string {
  const rows = sold.map(({ code, offer }) => ({
    Item: code,
    Vendor: supplier,
    "Pack name": offer.pack,
    "Pack size": offer.amount,
    Unit: offer.unit,
    "Pack price": priceIn(month, code, offer.price, places),
    MOQ: offer.minimum,
    "Lead time": offer.leadDays ?? "",
  }));
  const fields = ["Item", "Vendor", "Pack name", "Pack size", "Unit", "Pack price", "MOQ", "Lead time"];
  return `${Papa.unparse({ fields, data: rows }, { newline: "\r\n" })}\r\n`;
}

function priceIn(month: string, code: string, price: string, places: number): string {
  const seed = [...`${month} ${code}`].reduce((sum, letter) => Math.imul(sum, 31) + letter.codePointAt(0)!, 7);
  const begun = seeded(seed)();
  const coin = 10 ** -places;
  const nearest = Math.round(Math.log(Math.max(coin, Number(price))) / STEP - begun);
  return Math.max(coin, Math.exp((nearest + begun) * STEP)).toFixed(places);
}
