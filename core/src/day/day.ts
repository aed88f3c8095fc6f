const DAY_MS = 86_400_000;

/** The day, `2027-04-09`, that a moment falls on in a time zone of the IANA database; empty: in the machine's own. */
export function dayIn(moment: Date, timeZone = ""): string {
  const parts = new Intl.DateTimeFormat("en", {
    ...(timeZone === "" ? {} : { timeZone }),
    calendar: "iso8601",
    year: "numeric",
    month: "2-digit",
    day: "2-digit",
  }).formatToParts(moment);
  const valueOf = (type: string) => parts.find((p) => p.type === type)!.value;
  return `${valueOf("year").padStart(4, "0")}-${valueOf("month")}-${valueOf("day")}`;
}

const DAYS = new Map<string, string>();

/** So many days after a day, or before it. Few are asked for, again and again, so they are kept. */
export function dayAfter(day: string, days: number): string {
  const key = `${day} ${days}`;
  const known = DAYS.get(key) ?? new Date(Date.parse(day) + days * DAY_MS).toISOString().slice(0, 10);
  if (DAYS.size < 10_000) DAYS.set(key, known);
  return known;
}

/** So many months after a month, `2027-04`, or before it. */
export function monthAfter(month: string, months: number): string {
  const [year, no] = month.split("-").map(Number) as [number, number];
  const at = year * 12 + no - 1 + months;
  return `${String(Math.floor(at / 12)).padStart(4, "0")}-${String((at % 12) + 1).padStart(2, "0")}`;
}

/** How many days from one day to another, less than nothing where the other is before it. */
export const daysBetween = (from: string, to: string): number => (Date.parse(to) - Date.parse(from)) / DAY_MS;

/** What should have happened already happens today. */
export const notBefore = (day: string, today: string) => (day < today ? today : day);

/**
 * The same data as of another day: days and moments in it, `2027-04-09` and `2027-04-09T10:00:00Z`, move by as many
 * days as lie between; months, `2027-04`, by as many months. Nothing else changes.
 * @param from the day that the data was written as of
 */
export function movedTo<T>(data: T, from: string, to: string): T {
  const days = daysBetween(from, to);
  const months =
    (Number(to.slice(0, 4)) - Number(from.slice(0, 4))) * 12 + Number(to.slice(5, 7)) - Number(from.slice(5, 7));
  const move = (value: unknown): unknown => {
    if (typeof value === "string") {
      if (/^\d{4}-\d\d$/.test(value)) return monthAfter(value, months);
      const at = /^(\d{4}-\d\d-\d\d)(T[\d:.]+Z)?$/.exec(value);
      return at ? dayAfter(at[1]!, days) + (at[2] ?? "") : value;
    }
    if (Array.isArray(value)) return value.map(move);
    if (typeof value !== "object" || value === null) return value;
    return Object.fromEntries(Object.entries(value).map(([name, v]) => [name, move(v)]));
  };
  return move(data) as T;
}
