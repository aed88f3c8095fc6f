const NAME = new Intl.DateTimeFormat("en-GB", { month: "long", timeZone: "UTC" });

/** `2027-04` → `April`; with the year where it is asked for. */
export function monthName(month: string, withYear = false): string {
  const name = NAME.format(new Date(`${month}-01T00:00:00Z`));
  return withYear ? `${name} ${month.slice(0, 4)}` : name;
}

const DAY = new Intl.DateTimeFormat(undefined, { day: "numeric", month: "short", year: "numeric" });
const MINUTE = new Intl.DateTimeFormat(undefined, {
  day: "numeric",
  month: "short",
  year: "numeric",
  hour: "2-digit",
  minute: "2-digit",
});

/** A moment in the person's own locale and time zone. */
export const sayDay = (instant: string) => DAY.format(new Date(instant));
export const sayMinute = (instant: string) => MINUTE.format(new Date(instant));
