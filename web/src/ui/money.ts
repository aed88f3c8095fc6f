import { coinPlaces } from "@jar-count/core/cost";
import { useQuery } from "@tanstack/react-query";
import { workshopQuery } from "../api/queries.ts";
import { localeTag, numberMarks } from "../settings/index.ts";

/** The workshop's currency (ISO 4217). */
export const useCurrency = () => useQuery(workshopQuery).data?.currency ?? "GBP";

/**
 * Says decimal text in the workshop's currency. The digits are shown as they are, never by way of a binary float: at
 * least the places of its smallest coin, more where there are more.
 */
export function useSayMoney() {
  const currency = useCurrency();
  const places = coinPlaces(currency);
  const sign = signOf(currency);
  return (amount: string) => {
    const [whole = "0", part = ""] = amount.replace("-", "").split(".");
    // A sum of nothing has no sign, whichever side it came from.
    const minus = amount.startsWith("-") && Number(amount) !== 0 ? "−" : "";
    const kept = part.replace(/0+$/, "").padEnd(places, "0");
    const { group, decimal } = numberMarks();
    return `${minus}${sign}${whole.replace(/\B(?=(\d{3})+$)/g, group)}${kept && decimal}${kept}`;
  };
}

/** The same, to the coin, for a number that was reckoned and that nobody pays: an average, a difference. */
export function useSayAbout() {
  const places = coinPlaces(useCurrency());
  const say = useSayMoney();
  return (n: number) => say(n.toFixed(places));
}

function signOf(currency: string): string {
  try {
    const parts = new Intl.NumberFormat(localeTag(), {
      style: "currency",
      currency,
      currencyDisplay: "narrowSymbol",
    }).formatToParts(0);
    const sign = parts.find((p) => p.type === "currency")!.value;
    return sign.length > 1 ? `${sign} ` : sign;
  } catch {
    return `${currency} `;
  }
}
