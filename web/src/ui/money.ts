import { useQuery } from "@tanstack/react-query";
import { workshopQuery } from "../api/queries.ts";
import { localeTag, numberMarks } from "../settings/index.ts";

/**
 * Says decimal text in the workshop's currency. The digits are shown as they are, never by way of a binary float:
 * at least two places, more where there are more.
 */
export function useSayMoney() {
  const workshop = useQuery(workshopQuery);
  const currency = workshop.data?.currency ?? "GBP";
  const sign = signOf(currency);
  return (amount: string) => {
    const [whole = "0", part = ""] = amount.split(".");
    const kept = part.replace(/0+$/, "").padEnd(2, "0");
    const { group, decimal } = numberMarks();
    return `${sign}${whole.replace(/\B(?=(\d{3})+$)/g, group)}${decimal}${kept}`;
  };
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
