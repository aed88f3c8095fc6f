import type { BoxChanges, BoxInput } from "../contract/index.ts";

const FIELDS = ["month", "theme", "packBy", "bagging"] as const;
type FieldName = (typeof FIELDS)[number];
type ListName = Exclude<keyof BoxChanges, FieldName>;
type Row<L extends ListName> = BoxInput[L][number];

/** What identifies a row within its list, for good: what else it says may change. */
const KEYS: { [L in ListName]: (row: Row<L>) => string } = {
  lines: (row) => row.id,
  contents: (row) => row.id,
  colourways: (row) => row.id,
  seconds: (row) => row.id,
  variants: (row) => `${row.first} ${row.second ?? ""}`,
  roles: (row) => row.id,
  bindings: (row) => `${row.line} ${row.role}`,
  prices: (row) => row.channel,
  whatIfs: (row) => row.id,
  overrules: (row) => row.id,
  picks: (row) => `${row.boxRole} ${row.first ?? ""} ${row.second ?? ""}`,
};
const LISTS = Object.keys(KEYS) as ListName[];
/** Lists whose order a person chose; the others come in any. */
const ORDERED: ReadonlySet<ListName> = new Set([
  "lines",
  "contents",
  "colourways",
  "seconds",
  "variants",
  "roles",
  "prices",
  "whatIfs",
  "overrules",
]);

/** A box with nothing in it: what a new one is compared with. */
export const EMPTY_BOX: Readonly<BoxInput> = {
  month: "",
  theme: "",
  packBy: null,
  lines: [],
  contents: [],
  bagging: "together",
  colourways: [],
  seconds: [],
  variants: [],
  roles: [],
  bindings: [],
  picks: [],
  prices: [],
  whatIfs: [],
  overrules: [],
};

const same = (a: object, b: object) => a === b || JSON.stringify(a) === JSON.stringify(b);

function listChanges<L extends ListName>(list: L, before: readonly Row<L>[], after: readonly Row<L>[]) {
  if (before === after) return undefined;
  const key = KEYS[list] as (row: Row<L>) => string;
  const was = new Map(before.map((row) => [key(row), row]));
  const is = new Map(after.map((row) => [key(row), row]));
  const put = after.filter((row) => {
    const known = was.get(key(row));
    return !known || !same(known, row);
  });
  const drop = [...was.keys()].filter((k) => !is.has(k));
  const order = [...is.keys()];
  const unasked = [...[...was.keys()].filter((k) => is.has(k)), ...order.filter((k) => !was.has(k))];
  const moved = ORDERED.has(list) && unasked.some((k, i) => k !== order[i]);
  if (put.length === 0 && drop.length === 0 && !moved) return undefined;
  return {
    ...(put.length > 0 ? { put } : {}),
    ...(drop.length > 0 ? { drop } : {}),
    ...(moved ? { order } : {}),
  };
}

/**
 * What differs between two states of a box, row by row.
 * @returns changes such that `applyChanges(before, changes)` holds the same rows as `after`, in its order where order
 *   matters
 */
export function changesOf(before: BoxInput, after: BoxInput): BoxChanges {
  const lists = LISTS.flatMap((list) => {
    const changes = listChanges(list, before[list], after[list]);
    return changes ? [[list, changes] as const] : [];
  });
  const fields = FIELDS.filter((f) => (before[f] ?? null) !== (after[f] ?? null)).map((f) => [f, after[f] ?? null]);
  return Object.fromEntries([...fields, ...lists]) as BoxChanges;
}

export const hasChanges = (changes: BoxChanges) => Object.keys(changes).length > 0;

function withChanges<L extends ListName>(list: L, before: readonly Row<L>[], changes: BoxChanges[L]): Row<L>[] {
  const key = KEYS[list] as (row: Row<L>) => string;
  const rows = new Map(before.map((row) => [key(row), row]));
  for (const k of changes?.drop ?? []) rows.delete(k);
  for (const row of (changes?.put ?? []) as Row<L>[]) rows.set(key(row), row);
  if (!changes?.order) return [...rows.values()];
  const place = new Map(changes.order.map((k, i) => [k, i]));
  // A row that the order forgets stays, behind those it names.
  const at = (row: Row<L>) => place.get(key(row)) ?? place.size;
  return [...rows.values()].sort((a, b) => at(a) - at(b));
}

/** A box with changes made to it; the result is yet to be checked whole, as changes may name what is not there. */
export function applyChanges(before: BoxInput, changes: BoxChanges): BoxInput {
  const lists = LISTS.map((list) => [
    list,
    changes[list] ? withChanges(list, before[list], changes[list]) : before[list],
  ]);
  const fields = FIELDS.map((f) => [f, changes[f] === undefined ? before[f] : changes[f]]);
  return Object.fromEntries([...fields, ...lists]) as BoxInput;
}
