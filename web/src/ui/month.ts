import { useQuery } from "@tanstack/react-query";
import { workshopQuery } from "../api/queries.ts";
import { localeTag, today, zone } from "../settings/index.ts";

/** Today in the workshop, on screen: drawn anew where the server says another day. */
export function useToday(): string {
  useQuery(workshopQuery);
  return today();
}

/** `2027-04` → `April`; with the year where it is asked for. Months stand in sentences, which are English. */
export function monthName(month: string, withYear = false): string {
  const name = NAME.format(new Date(`${month}-01T00:00:00Z`));
  return withYear ? `${name} ${month.slice(0, 4)}` : name;
}
const NAME = new Intl.DateTimeFormat("en-GB", { month: "long", timeZone: "UTC" });

const DATE = { day: "numeric", month: "short", year: "numeric" } as const;
const TIME = { ...DATE, hour: "2-digit", minute: "2-digit" } as const;

/** A way of writing moments, made once for each locale: that is slow. */
function formatter(how: Intl.DateTimeFormatOptions) {
  const made = new Map<string, Intl.DateTimeFormat>();
  return (at: string) => {
    const tag = localeTag();
    const timeZone = at.length === 10 ? "UTC" : zone();
    const key = `${tag} ${timeZone}`;
    const format = made.get(key) ?? new Intl.DateTimeFormat(tag, { ...how, timeZone });
    made.set(key, format);
    return format.format(new Date(at));
  };
}

/**
 * A moment or a day as the workshop, or else the person's browser, writes it: a moment in the workshop's time zone, a
 * day as it stands, wherever it is read.
 */
export const sayDay = formatter(DATE);
export const sayMinute = formatter(TIME);
