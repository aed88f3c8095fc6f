import { dayAfter, dayIn, daysBetween } from "@jar-count/core/day";

/** The workshop's time zone; undefined: the browser's own. And by how many days this machine's clock is behind it. */
let timeZone: string | undefined;
let behind = 0;

/** Takes over what the server says of the day. */
export function followDay(workshop: { today: string; timeZone: string }): void {
  timeZone = workshop.timeZone || undefined;
  behind = daysBetween(dayIn(new Date(), timeZone), workshop.today);
}

/** The workshop's time zone for the browser's own formats; undefined: the browser's. */
export const zone = (): string | undefined => timeZone;

/** Today in the workshop, as a date without a time: 2027-04-09. It goes on by itself at midnight. */
export const today = (): string => dayAfter(dayIn(new Date(), timeZone), behind);
