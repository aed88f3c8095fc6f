/** Days and months as text: today in a time zone, days after days, data moved to another day. */
export { dayAfter, dayIn, daysBetween, monthAfter, movedTo, notBefore } from "./day.ts";
