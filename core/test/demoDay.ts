import { dayIn, movedTo } from "@jar-count/core/day";
import { readFileSync } from "node:fs";

const AS_OF = readFileSync(new URL("../../demo/as-of.txt", import.meta.url), "utf8").trim();

/** Today, as the servers under test have it: set for a whole run, which may last over midnight. */
export const TODAY = process.env.JAR_COUNT_TODAY || dayIn(new Date());

/** Days and months of the demo, as its files have them, in the workshop that was filled today. */
export const inDemo = <T>(data: T): T => movedTo(data, AS_OF, TODAY);

/** A month of the demo by its name, `2027-04` → `April`, as it stands in sentences. */
export const monthInDemo = (month: string, withYear = false): string => {
  const year = withYear ? ({ year: "numeric" } as const) : {};
  const format = new Intl.DateTimeFormat("en-GB", { month: "long", ...year, timeZone: "UTC" });
  return format.format(new Date(`${inDemo(month)}-01`));
};

/** A day or month that many years from now: of `2030-04-20`, the third year after this one, on any day. */
export const later = (day: string): string =>
  `${Number(TODAY.slice(0, 4)) + Number(day.slice(0, 4)) - 2027}${day.slice(4)}`;
