import { dayIn } from "@jar-count/core/day";

/** Another day for all that is done, `2031-05-07`, where tests or pictures want it; undefined: as the clock says. */
const SET_DAY = process.env.JAR_COUNT_TODAY || undefined;
if (SET_DAY !== undefined && Number.isNaN(Date.parse(SET_DAY)))
  throw new Error(`JAR_COUNT_TODAY is ${SET_DAY}: write a date such as 2031-05-07.`);

/** Today in a time zone of the IANA database; empty: where the server stands. */
export const todayIn = (timeZone: string): string => SET_DAY ?? dayIn(new Date(), timeZone);
