import { z } from "zod";
import { RULERS } from "./kinds.ts";
import { SpareRule, TRADE_SPARES } from "./spare.ts";
import { Address, Currency, Day, Instant, Name, RequestKey, unique, Uuid, Version } from "./values.ts";

export const Person = z.strictObject({ id: Uuid, name: Name });

export const Supplier = z.strictObject({ id: Uuid, name: Name, leadDays: z.int().min(0).max(730).nullish() });

export const Place = z.strictObject({
  id: Uuid,
  code: z
    .string()
    .trim()
    .min(1, "Give it a code.")
    .max(20, "At most 20 characters.")
    .regex(/^[\p{L}\p{N}._-]+$/u, "Letters, digits and . _ - without spaces."),
  name: Name,
  /** What stands here is held back: on hand, but not free. */
  held: z.boolean().default(false),
});

const TWICE = unique<{ id: string }>((item) => item.id, "id", "This is there twice.");

/** The people, suppliers and places of a workshop, edited as one short list each. */
export const RoomsInput = z.strictObject({
  people: z.array(Person).max(200).superRefine(TWICE),
  suppliers: z.array(Supplier).max(2000).superRefine(TWICE),
  places: z
    .array(Place)
    .min(1, "A workshop has at least one place.")
    .max(2000)
    .superRefine(TWICE)
    .superRefine(unique((p) => p.code, "code", "Another place has this code."))
    .refine((places) => !places.every((p) => p.held), "Keep at least one place that is not for what is held back."),
});
export type RoomsInput = z.infer<typeof RoomsInput>;

export const Rooms = z.strictObject({ ...RoomsInput.shape, version: Version });
export type Rooms = z.infer<typeof Rooms>;

export const SaveRooms = z.strictObject({ requestKey: RequestKey.nullish(), version: Version, rooms: RoomsInput });
export type Place = z.infer<typeof Place>;

const isTimeZone = (name: string) => {
  try {
    return name === "" || new Intl.DateTimeFormat("en", { timeZone: name }) !== null;
  } catch {
    return false;
  }
};

const isLocale = (tag: string) => {
  try {
    return tag === "" || Intl.getCanonicalLocales(tag).length === 1;
  } catch {
    return false;
  }
};

/** `publicAddress` is where others reach this workshop (https://…), printed on labels; empty where nobody does. */
export const WorkshopInput = z.strictObject({
  name: Name,
  currency: Currency,
  publicAddress: Address,
  /** How numbers and dates are written (a BCP 47 tag, such as en-GB); empty: as each browser does. */
  locale: z.string().max(35).refine(isLocale, "Write a language tag such as en-GB, or leave it empty.").default(""),
  /** By which marks cuts are measured: each is rounded up to one of them. */
  ruler: z.enum(RULERS).default("in"),
  /** Where a day begins and ends (IANA time zone database); empty: as on the machine that serves. */
  timeZone: z.string().max(60).refine(isTimeZone, "Write a time zone such as Europe/London.").default(""),
  /** How much is put in to spare, the first rule that fits. */
  spares: z
    .array(SpareRule)
    .max(50, "At most 50 rules.")
    .refine((rules) => new Set(rules.map((r) => r.id)).size === rules.length, "A rule's id is there twice.")
    .default(() => TRADE_SPARES.map((rule) => ({ ...rule }))),
});
export type WorkshopInput = z.infer<typeof WorkshopInput>;

/** As everything goes by it: `today` is the day in its time zone. */
const KnownWorkshop = z.object({ ...WorkshopInput.shape, version: Version, today: Day });
export type KnownWorkshop = z.infer<typeof KnownWorkshop>;

/**
 * As a page reads it. `currencyFixed`: something was ordered, received, sold or committed in its currency, which stays
 * from then on.
 */
export const Workshop = z.object({ ...KnownWorkshop.shape, currencyFixed: z.boolean() });
export type Workshop = z.infer<typeof Workshop>;

/** What of a workshop is written by a person. */
export const workshopInputOf = (workshop: KnownWorkshop & { currencyFixed?: boolean }): WorkshopInput => {
  const { version: _version, today: _today, currencyFixed: _fixed, ...input } = workshop;
  return input;
};

export const SaveWorkshop = z.strictObject({
  requestKey: RequestKey.nullish(),
  version: Version,
  workshop: WorkshopInput,
});

/** The books held against the ledger, as the job process did it last: at its start and every night. */
const CheckedBooks = z.object({ at: Instant, differ: z.int() });

/** An archive of the whole workshop in the backup folder. */
export const Backup = z.object({
  file: z.string(),
  madeAt: Instant,
  /** Why it was made: night, start, asked for, before a migration, before a restore. */
  reason: z.string(),
  bytes: z.int(),
  /** When it was brought into a scratch database and was the same there; null where it was not, or not yet. */
  provedAt: Instant.nullable(),
  fault: z.string().nullable(),
});
export type Backup = z.infer<typeof Backup>;

/** What looks after the workshop by itself. */
export const Care = z.object({
  /** Whether the job process is there; without it backups are the operator's. */
  jobs: z.boolean(),
  /** Where backups go; null where nobody makes any. */
  folder: z.string().nullable(),
  /** Whether the last proved backup is older than it should be, or there is none. */
  old: z.boolean(),
  /** When a backup was tried last, and why it failed; null where it did not. */
  triedAt: Instant.nullable(),
  fault: z.string().nullable(),
  /** The newest first. */
  backups: z.array(Backup),
  books: CheckedBooks.nullable(),
});
export type Care = z.infer<typeof Care>;
