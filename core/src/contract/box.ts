import { z } from "zod";
import { Component } from "./component.ts";
import { ROLE_KINDS } from "./design.ts";
import { PinnedDesign } from "./library.ts";
import { Boxes, Month, Name, RequestKey, Uuid, Version } from "./values.ts";

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

export const BoxRole = z.strictObject({
  id: Uuid,
  name: Name,
  kind: z.enum(ROLE_KINDS),
  follows: z.enum(FOLLOWS),
});
export type BoxRole = z.infer<typeof BoxRole>;

const Choice = z.strictObject({ id: Uuid, name: Name });

export const BoxInput = z
  .strictObject({
    month: Month,
    theme: Name,
    lines: z.array(BoxLine).max(20, "A box holds at most 20 designs."),
    /** First axis: the colourways. */
    colourways: z.array(Choice).max(50, "At most 50 colourways."),
    /** Second axis: a second choice beside the colourway, such as the metal of the findings. */
    seconds: z.array(Choice).max(20),
    /** How many boxes of each combination that is offered. */
    variants: z.array(z.strictObject({ first: Uuid, second: Uuid.nullable(), boxes: Boxes })).max(1000),
    roles: z.array(BoxRole).max(1000),
    /** Which box role a design's role is bound to, line by line. */
    bindings: z.array(z.strictObject({ line: Uuid, role: z.string().min(1).max(100), boxRole: Uuid })).max(20_000),
    /**
     * The colour tray: which component a box role is, for a choice on either axis (null where it doesn't follow it).
     */
    picks: z
      .array(z.strictObject({ boxRole: Uuid, first: Uuid.nullable(), second: Uuid.nullable(), component: Uuid }))
      .max(100_000),
  })
  .superRefine((box, ctx) => {
    const known = (field: "lines" | "colourways" | "seconds" | "roles") => {
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
    box.bindings.forEach((b, i) => {
      must(lines.has(b.line), ["bindings", i, "line"], "There is no such line in this box.");
      must(roles.has(b.boxRole), ["bindings", i, "boxRole"], "There is no such role in this box.");
      unique(`b ${b.line} ${b.role}`, ["bindings", i]);
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
  lines: changesOf(BoxLine),
  colourways: changesOf(Choice),
  seconds: changesOf(Choice),
  variants: changesOf(BoxInput.shape.variants.element),
  roles: changesOf(BoxRole),
  bindings: changesOf(BoxInput.shape.bindings.element),
  picks: changesOf(BoxInput.shape.picks.element),
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
  designs: z.int(),
  boxes: z.int(),
  colourways: z.array(z.object({ id: Uuid, name: z.string(), stripe: z.array(z.string()) })),
});
export type BoxSummary = z.infer<typeof BoxSummary>;

/** All that counting and costing a box needs. */
export const BoxDetail = z.object({
  box: Box,
  designs: z.array(PinnedDesign),
  components: z.array(Component),
});
export type BoxDetail = z.infer<typeof BoxDetail>;
