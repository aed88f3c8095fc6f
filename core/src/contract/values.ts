import { z } from "zod";
import { isInSteps, MOST_IN_ALL } from "../units/index.ts";

/** Identity of anything kept: a UUID, which the client may make; in small letters from the door on (RFC 9562, 4). */
export const Uuid = z.uuid("This is not an id.").toLowerCase();

/** How often a record was saved; every write names the one it is based on, 0 for a new record. */
export const Version = z.int().min(0);

/** Made by the client for one write, and sent again with it after a lost answer: the write then happens once. */
export const RequestKey = Uuid;

/** Lengths in files and on the wire: millimetres, over 0 and up to 100 m. */
export const Millimetres = z.number().positive("A length is more than 0.").max(100_000, "A length is at most 100 m.");

export const MillimetresOrNone = z
  .number()
  .min(0, "A length can't be negative.")
  .max(100_000, "A length is at most 100 m.");

const inSteps = (n: number) => isInSteps(n, "mm");
const TOO_FINE = "At most four places behind the point.";

/** How long a piece on a spool is, mm; spools are longer than any length in a design. */
export const Stretch = z
  .number()
  .positive("A length is more than 0.")
  .max(1e8, "A length is at most 100 km.")
  .refine(inSteps, TOO_FINE);

/** The shortest that anything is cut to, mm: no tool cuts shorter. */
export const SHORTEST_CUT_MM = 0.1;

/** A length that something is cut to, mm. */
export const CutLength = z
  .number()
  .min(SHORTEST_CUT_MM, `A cut is at least ${SHORTEST_CUT_MM} mm.`)
  .max(100_000, "A cut is at most 100 m.")
  .refine(inSteps, TOO_FINE);

/** How many, in a design. */
export const Count = z.int("Write a whole number.").min(1, "At least 1.").max(100_000, "At most 100,000.");

/** A share of 1: 0.1 is a tenth. */
export const Fraction = z.number().min(0, "At least 0.").max(100, "At most 100.");

/** A share of a whole: from nothing to nearly all of it. */
export const ShareOf = z.number().min(0, "At least 0.").max(0.99, "At most 99 %.");

/** Where something else is reached; empty where nothing is named. */
export const Address = z
  .string()
  .trim()
  .regex(/^(https?:\/\/[^\s/]+(\/[^\s]*)?)?$/, "Write an address such as http://192.168.1.20:4321, or leave it empty.")
  .max(200)
  .default("");

/** An amount of stock in a component's base unit. */
export const Quantity = z.number().min(0, "Not below 0.").max(1e9, "At most 1,000,000,000.");

/** An amount of stock that somebody enters, on the steps of every unit; the component's own is judged by itself. */
export const Amount = Quantity.refine(inSteps, TOO_FINE);

/** An amount that follows from others, such as a sum: it has room. */
export const Sum = z.number().min(0).max(MOST_IN_ALL);

/** More or less of something by so much. */
export const Change = z.number().min(-MOST_IN_ALL).max(MOST_IN_ALL);

export const Positive = z.number().positive("More than 0.").max(1e6, "At most 1,000,000.");

/** How many boxes of a variant. */
export const Boxes = z
  .int("Write a whole number of boxes.")
  .min(0, "Not below 0.")
  .max(1_000_000, "At most 1,000,000 boxes.");

/** A factor between currencies as decimal text: more than 0. */
export const Rate = z
  .string()
  .regex(/^\d{1,6}(\.\d{1,8})?$/, "Write a rate such as 0.8534.")
  .refine((rate) => Number(rate) > 0, "A rate is more than 0.");

/** Money as decimal text, at most 4 places: never a binary float. */
export const Money = z.string().regex(/^\d{1,9}(\.\d{1,4})?$/, "Write an amount such as 4 or 4.20.");

/** Money that follows from other money, such as a sum, as decimal text: it has room. */
export const MoneySum = z.string().regex(/^-?\d{1,40}(\.\d{1,8})?$/, "Write an amount such as 4 or -4.20.");

const CURRENCIES = new Set(Intl.supportedValuesOf("currency"));
/** A currency by its code (ISO 4217, as the machine's own tables list it). */
export const Currency = z
  .string()
  .regex(/^[A-Z]{3}$/, "Three capital letters, such as GBP.")
  .refine((code) => CURRENCIES.has(code), "There is no such currency: write its three letters, such as GBP.");

/** A moment, UTC (RFC 3339). */
export const Instant = z.iso.datetime("Write a time as 2027-04-01T09:30:00Z.");

/** Years that a plan or a record can lie in. */
const inReach = (date: string) => date >= "1900" && date < "2200";
const OUT_OF_REACH = "Write a year from 1900 to 2199.";

/**
 * What two codes must differ in: not only in capitals or in how they are written (Unicode, NFKC; both of the small
 * Greek sigmas are one). The database keeps it beside the code.
 */
export const codeKey = (code: string): string =>
  code.normalize("NFKC").toUpperCase().toLowerCase().replaceAll("ς", "σ");

/** For a list whose members are told apart by something: says where one is there twice. */
export const unique =
  <T>(keyOf: (item: T) => string, field: string, message: string) =>
  (
    list: readonly T[],
    ctx: { addIssue: (issue: { code: "custom"; path: (string | number)[]; message: string }) => void },
  ) => {
    const seen = new Set<string>();
    list.forEach((item, i) => {
      if (seen.has(keyOf(item))) ctx.addIssue({ code: "custom", path: [i, field], message });
      seen.add(keyOf(item));
    });
  };

/** A date without a time (RFC 3339). */
export const Day = z.iso.date("Write a date as 2027-04-01.").refine(inReach, OUT_OF_REACH);

/** A month: 2027-04. */
export const Month = z
  .string()
  .regex(/^\d{4}-(0[1-9]|1[0-2])$/, "Write a month as 2027-04.")
  .refine(inReach, OUT_OF_REACH);

/** Something that can be seen: not only spaces, signs without width, or what only steers a line. */
export const canBeSeen = (text: string) => /[^\p{C}\p{Z}\p{M}\u115F\u1160\u2800\u3164\uFFA0]/u.test(text);

export const Name = z
  .string()
  .max(1000, "A name has at most 200 characters.")
  .trim()
  .min(1, "Give it a name.")
  .max(200, "A name has at most 200 characters.")
  .refine((text) => text === "" || canBeSeen(text), "Give it a name that can be seen.");

export const Note = z.string().trim().max(500, "A note has at most 500 characters.");

/** An sRGB colour, #rrggbb. */
export const Colour = z.string().regex(/^#[0-9a-f]{6}$/i, "A colour is written #rrggbb.");

/** An id inside a design file, unique there. */
export const LocalId = z.string().min(1).max(100);

/** What every entry of the stock ledger carries. */
export const Written = {
  requestKey: RequestKey,
  person: Uuid.nullish(),
  note: Note.default(""),
};
