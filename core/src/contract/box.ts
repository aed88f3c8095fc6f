import { z } from "zod";
import { Overrule } from "./fit.ts";
import { Component } from "./component.ts";
import { ROLE_KINDS, RULERS, WORK_STEPS } from "./kinds.ts";
import { PinnedDesign } from "./library.ts";
import { SpareRule } from "./spare.ts";
import { Boxes, Day, Money, Month, Name, Quantity, RequestKey, Uuid, Version } from "./values.ts";

/** What a box role's choice depends on: the colourway, the second choice (metal, say), both or neither. */
export const FOLLOWS = ["first", "second", "both", "none"] as const;

export const BoxLine = z.strictObject({
  id: Uuid,
  designId: Uuid,
  revision: z.int().min(1),
  times: z.int("Write a whole number.").min(1, "At least 1.").max(1000, "At most 1,000."),
  /** A size's key; null for one size, or for a kit that serves every size. */
  size: z.string().max(20).nullable(),
  option: z.string().max(20).nullable(),
});
export type BoxLine = z.infer<typeof BoxLine>;

const Spare = z.number().min(0, "Not below 0.").max(100_000, "At most 100,000.");

export const BoxRole = z.strictObject({
  id: Uuid,
  name: Name,
  kind: z.enum(ROLE_KINDS),
  follows: z.enum(FOLLOWS),
  /** What designs ask for once a kit comes once a box, where two of them share it. */
  onceABox: z.boolean().optional(),
  /** So many more a bag than the box needs, said by a person in place of the rules: pieces, or cuts of what is cut. */
  spare: Spare.nullish(),
});
export type BoxRole = z.infer<typeof BoxRole>;

/** What lies in the box beside its designs: a tool, packaging, an extra, a gift, a whole strand or spool. */
export const BoxContent = z.strictObject({
  id: Uuid,
  component: Uuid,
  /** The colourway that it goes out with; null for every one. */
  first: Uuid.nullable(),
  /** So many a box: whole packs where a pack is named, else base units; what is kept by length is one piece so long. */
  quantity: Quantity.positive("More than 0."),
  /** A whole pack: a strand of 50, a tube of 8.5 g, a spool; `amount` in the base unit. */
  pack: z.strictObject({ name: Name, amount: Quantity.positive("More than 0.") }).nullish(),
  spare: Spare.nullish(),
});
export type BoxContent = z.infer<typeof BoxContent>;

/** How far a box's run is: its bill is frozen from `committed` on. */
export const RUN_STATES = ["planned", "committed", "packing", "sent"] as const;
export const RunState = z.enum(RUN_STATES);
export type RunState = z.infer<typeof RunState>;

/** Whether beads that two designs share go into one bag, or each design has its own. */
export const BAGGINGS = ["together", "project"] as const;

/** What a box is sold at in one channel, tax in it: by itself, and to a subscriber where that differs. */
export const BoxPrice = z.strictObject({ channel: Uuid, single: Money, subscription: Money.nullish() });
export type BoxPrice = z.infer<typeof BoxPrice>;

/** One thing that would be otherwise. Money is decimal text, work in seconds. */
export const WhatIfChange = z.discriminatedUnion("what", [
  z.strictObject({ what: z.literal("price"), channel: Uuid, single: Money }),
  /** All of the run, shared out as it is now. */
  z.strictObject({ what: z.literal("boxes"), boxes: Boxes }),
  z.strictObject({ what: z.literal("component"), component: Uuid, with: Uuid }),
  /** Bought by another of its offers. */
  z.strictObject({ what: z.literal("pack"), component: Uuid, offer: Uuid }),
  z.strictObject({ what: z.literal("rate"), step: z.enum(WORK_STEPS), seconds: z.number().min(0).max(360_000) }),
  z.strictObject({ what: z.literal("wage"), wage: Money }),
  z.strictObject({ what: z.literal("spare"), rule: z.string().min(1).max(60), add: Spare }),
]);
export type WhatIfChange = z.infer<typeof WhatIfChange>;

/** Several of them together, kept under a name. */
export const WhatIf = z.strictObject({
  id: Uuid,
  name: Name,
  changes: z.array(WhatIfChange).max(100, "At most 100 changes."),
});
export type WhatIf = z.infer<typeof WhatIf>;

/** What a chosen component does wrong by the checks of fit, and somebody let stand. */
export const BoxOverrule = z.strictObject({
  id: Uuid,
  line: Uuid,
  first: Uuid,
  second: Uuid.nullable(),
  /** The component that was chosen then: another one is judged anew. */
  component: Uuid,
  ...Overrule.shape,
});
export type BoxOverrule = z.infer<typeof BoxOverrule>;

const Choice = z.strictObject({ id: Uuid, name: Name });

/** The most that a box may hold in all of its variants: more could not be committed or packed in the time one has. */
const MOST_OF_BOX = 20_000;

export const BoxInput = z
  .strictObject({
    month: Month,
    theme: Name,
    /** The day by which it is packed; none: the 20th of the month before. */
    packBy: Day.nullish(),
    lines: z.array(BoxLine).max(20, "A box holds at most 20 designs."),
    contents: z.array(BoxContent).max(200, "At most 200 things beside the designs.").default([]),
    bagging: z.enum(BAGGINGS).default("together"),
    /** First axis: the colourways. */
    colourways: z.array(Choice).max(50, "At most 50 colourways."),
    /** Second axis: a second choice beside the colourway, such as the metal of the findings. */
    seconds: z.array(Choice).max(20),
    /** How many boxes of each combination that is offered. */
    variants: z
      .array(
        z.strictObject({
          /** Its own identity, whatever it is chosen by; one without gets it when it is saved. */
          id: Uuid.optional(),
          first: Uuid,
          second: Uuid.nullable(),
          boxes: Boxes,
        }),
      )
      .max(1000),
    roles: z.array(BoxRole).max(1000),
    /** Which box role a design's role is bound to, line by line. */
    bindings: z.array(z.strictObject({ line: Uuid, role: z.string().min(1).max(100), boxRole: Uuid })).max(20_000),
    /**
     * The colour tray: which component a box role is, for a choice on either axis (null where it doesn't follow it).
     */
    picks: z
      .array(z.strictObject({ boxRole: Uuid, first: Uuid.nullable(), second: Uuid.nullable(), component: Uuid }))
      .max(MOST_OF_BOX),
    prices: z.array(BoxPrice).max(20, "At most 20 prices.").default([]),
    whatIfs: z.array(WhatIf).max(30, "At most 30 of them.").default([]),
    overrules: z.array(BoxOverrule).max(1000, "At most 1,000 of them.").default([]),
  })
  .superRefine((box, ctx) => {
    const all = box.variants.length * (box.roles.length + box.contents.length);
    if (all > MOST_OF_BOX) {
      const say = (n: number) => n.toLocaleString("en");
      ctx.addIssue({
        code: "custom",
        path: ["variants"],
        message:
          `${say(box.variants.length)} kinds of box, of ` +
          `${say(box.roles.length + box.contents.length)} things each, are ` +
          `${say(all)} to be counted and packed: at most ${say(MOST_OF_BOX)}. Make two boxes of it.`,
      });
    }
    const known = (field: "lines" | "contents" | "colourways" | "seconds" | "roles" | "whatIfs" | "overrules") => {
      const ids = new Set<string>();
      box[field].forEach((item, i) => {
        if (ids.has(item.id))
          ctx.addIssue({ code: "custom", path: [field, i, "id"], message: "This id is there twice." });
        ids.add(item.id);
      });
      return ids;
    };
    const [lines, firsts, seconds, roles] = [known("lines"), known("colourways"), known("seconds"), known("roles")];
    const must = (ok: boolean, path: (string | number)[], message: string) => {
      if (!ok) ctx.addIssue({ code: "custom", path, message });
    };
    known("contents");
    known("whatIfs");
    known("overrules");
    box.contents.forEach((c, i) => {
      must(
        c.first === null || firsts.has(c.first),
        ["contents", i, "first"],
        "There is no such colourway in this box.",
      );
      must(!c.pack || Number.isInteger(c.quantity), ["contents", i, "quantity"], "Write a whole number of packs.");
    });
    const seen = new Set<string>();
    const unique = (key: string, path: (string | number)[]) => {
      must(!seen.has(key), path, "This is there twice.");
      seen.add(key);
    };
    box.variants.forEach((v, i) => {
      must(firsts.has(v.first), ["variants", i, "first"], "There is no such colourway in this box.");
      must(
        v.second === null || seconds.has(v.second),
        ["variants", i, "second"],
        "There is no such second choice in this box.",
      );
      unique(`v ${v.first} ${v.second}`, ["variants", i]);
    });
    box.prices.forEach((p, i) => unique(`c ${p.channel}`, ["prices", i]));
    box.bindings.forEach((b, i) => {
      must(lines.has(b.line), ["bindings", i, "line"], "There is no such line in this box.");
      must(roles.has(b.boxRole), ["bindings", i, "boxRole"], "There is no such role in this box.");
      unique(`b ${b.line} ${b.role}`, ["bindings", i]);
    });
    box.overrules.forEach((o, i) => {
      must(lines.has(o.line), ["overrules", i, "line"], "There is no such design in this box.");
      must(firsts.has(o.first), ["overrules", i, "first"], "There is no such colourway in this box.");
      must(o.second === null || seconds.has(o.second), ["overrules", i, "second"], "There is no such choice.");
    });
    box.picks.forEach((p, i) => {
      must(roles.has(p.boxRole), ["picks", i, "boxRole"], "There is no such role in this box.");
      must(p.first === null || firsts.has(p.first), ["picks", i, "first"], "There is no such colourway in this box.");
      must(
        p.second === null || seconds.has(p.second),
        ["picks", i, "second"],
        "There is no such second choice in this box.",
      );
      unique(`p ${p.boxRole} ${p.first} ${p.second}`, ["picks", i]);
    });
  });
export type BoxInput = z.infer<typeof BoxInput>;

export const Box = z.object({ ...BoxInput.shape, id: Uuid, version: Version });
export type Box = z.infer<typeof Box>;

export const SaveBox = z.strictObject({ requestKey: RequestKey.nullish(), version: Version, box: BoxInput });

const IDS = /\b[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}\b/gi;
/** A row's key within its list: its id, or the fields that identify it with a space between; ids in small letters. */
const RowKey = z
  .string()
  .min(1)
  .max(250)
  .overwrite((key) => key.replace(IDS, (id) => id.toLowerCase()));
const changesOf = <T extends z.ZodType>(row: T) =>
  z
    .strictObject({
      /** Rows that are new or changed, whole. New ones are added behind the others. */
      put: z.array(row).max(100_000).optional(),
      /** Keys of rows that are taken out. */
      drop: z.array(RowKey).max(100_000).optional(),
      /** Keys of all rows in their order, where that changed. */
      order: z.array(RowKey).max(1000).optional(),
    })
    .optional();

/** What differs between two states of a box: what is not named stays. */
export const BoxChanges = z.strictObject({
  month: BoxInput.shape.month.optional(),
  theme: BoxInput.shape.theme.optional(),
  packBy: BoxInput.shape.packBy,
  bagging: z.enum(BAGGINGS).optional(),
  lines: changesOf(BoxLine),
  contents: changesOf(BoxContent),
  colourways: changesOf(Choice),
  seconds: changesOf(Choice),
  variants: changesOf(BoxInput.shape.variants.element),
  roles: changesOf(BoxRole),
  bindings: changesOf(BoxInput.shape.bindings.element),
  picks: changesOf(BoxInput.shape.picks.element),
  prices: changesOf(BoxPrice),
  whatIfs: changesOf(WhatIf),
  overrules: changesOf(BoxOverrule),
});
export type BoxChanges = z.infer<typeof BoxChanges>;

export const ChangeBox = z.strictObject({
  requestKey: RequestKey.nullish(),
  /** The version that the changes are based on. */
  version: Version,
  changes: BoxChanges,
});

/** What a save comes back with: the new version, and the box's totals as the server has them. */
export const SavedBox = z.object({
  version: Version,
  totals: z.object({ designs: z.int(), variants: z.int(), boxes: z.int() }),
});
export type SavedBox = z.infer<typeof SavedBox>;

/** A month on the shelf: what is drawn there, without the whole box. */
export const BoxSummary = z.object({
  id: Uuid,
  month: z.string(),
  theme: z.string(),
  version: Version,
  state: RunState,
  packBy: z.string(),
  designs: z.int(),
  boxes: z.int(),
  /** How many of them are packed; of a sent box, as many as went out. */
  packed: z.int(),
  colourways: z.array(z.object({ id: Uuid, name: z.string(), stripe: z.array(z.string()) })),
});
export type BoxSummary = z.infer<typeof BoxSummary>;

/** All that counting and costing a box needs. */
export const BoxDetail = z.object({
  box: Box,
  designs: z.array(PinnedDesign),
  components: z.array(Component),
  /** The workshop's rules of what is put in to spare. */
  spares: z.array(SpareRule),
  /** By which marks the workshop measures what it cuts. */
  ruler: z.enum(RULERS).nullable(),
});
export type BoxDetail = z.infer<typeof BoxDetail>;
