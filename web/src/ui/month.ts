import { localeTag } from "../settings/index.ts";

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
  let made: { tag: string | undefined; format: Intl.DateTimeFormat } | null = null;
  return (instant: string) => {
    const tag = localeTag();
    if (!made || made.tag !== tag) made = { tag, format: new Intl.DateTimeFormat(tag, how) };
    return made.format.format(new Date(instant));
  };
}

/** A moment as the workshop, or else the person's browser, writes it, in the person's own time zone. */
export const sayDay = formatter(DATE);
export const sayMinute = formatter(TIME);

/** Today where this person is, as a date without a time: 2027-04-09. */
export function today(): string {
  const now = new Date();
  const two = (n: number) => String(n).padStart(2, "0");
  return `${now.getFullYear()}-${two(now.getMonth() + 1)}-${two(now.getDate())}`;
}
