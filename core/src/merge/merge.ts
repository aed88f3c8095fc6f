/** A place that both changed, to something else each. */
export interface Clash {
  /** Names of fields, and of a list's members by their name or code, the outermost first. */
  path: string[];
  mine: unknown;
  theirs: unknown;
}

type Fields = Record<string, unknown>;
const isFields = (x: unknown): x is Fields => typeof x === "object" && x !== null && !Array.isArray(x);
const isList = (x: unknown): x is (Fields & { id: string })[] =>
  Array.isArray(x) && x.every((item) => isFields(item) && typeof item.id === "string");
const same = (a: unknown, b: unknown) => JSON.stringify(a ?? null) === JSON.stringify(b ?? null);

/**
 * Merges two changes of one record (a three-way merge): a field that only one of them changed is as they made it, lists
 * of things with an id go member by member. Where both changed the same place, or one changed what the other took out,
 * that is a clash, and `mine` or `theirs` decides.
 * @param base what both began with
 * @param prefer whose value stands in `merged` where they clash
 */
export function mergeRecords<T>(
  base: T,
  mine: T,
  theirs: T,
  prefer: "mine" | "theirs" = "mine",
): { merged: T; clashes: Clash[] } {
  const clashes: Clash[] = [];
  const merged = merge(base, mine, theirs, prefer, [], clashes);
  return { merged: merged as T, clashes };
}

function merge(
  base: unknown,
  mine: unknown,
  theirs: unknown,
  prefer: "mine" | "theirs",
  path: string[],
  clashes: Clash[],
): unknown {
  if (same(mine, theirs) || same(theirs, base)) return mine;
  if (same(mine, base)) return theirs;
  if (isFields(mine) && isFields(theirs)) {
    const from = isFields(base) ? base : {};
    const names = [...new Set([...Object.keys(theirs), ...Object.keys(mine)])];
    return Object.fromEntries(names.map((n) => [n, merge(from[n], mine[n], theirs[n], prefer, [...path, n], clashes)]));
  }
  if (isList(mine) && isList(theirs)) {
    return mergeLists(isList(base) ? base : [], mine, theirs, prefer, path, clashes);
  }
  clashes.push({ path, mine, theirs });
  return prefer === "mine" ? mine : theirs;
}

/** Members by their ids, in the order of whoever changed the order; what is new on the other side stands behind. */
function mergeLists(
  base: (Fields & { id: string })[],
  mine: (Fields & { id: string })[],
  theirs: (Fields & { id: string })[],
  prefer: "mine" | "theirs",
  path: string[],
  clashes: Clash[],
): unknown[] {
  const byId = (list: (Fields & { id: string })[]) => new Map<string, Fields>(list.map((item) => [item.id, item]));
  const [was, here, there] = [byId(base), byId(mine), byId(theirs)];
  const ids = (list: { id: string }[]) => list.map((item) => item.id);
  const inBoth = (list: { id: string }[]) => ids(list).filter((id) => was.has(id) && here.has(id) && there.has(id));
  const iMoved = !same(inBoth(mine), inBoth(base));
  const [first, second] = iMoved ? [mine, theirs] : [theirs, mine];
  const order = [...new Set([...ids(first), ...ids(second)])];
  return order.flatMap((id) => {
    const [b, m, t] = [was.get(id), here.get(id), there.get(id)];
    const at = [...path, nameOf(m ?? t ?? b, id)];
    if (m && t) return [merge(b, m, t, prefer, at, clashes)];
    if (!b) return [m ?? t];
    // One of them took it out: that stands, unless the other changed it.
    const kept = m ?? t;
    if (kept === undefined || same(kept, b)) return [];
    clashes.push({ path: at, mine: m ?? null, theirs: t ?? null });
    return (prefer === "mine" ? m : t) ? [kept] : [];
  });
}

const nameOf = (item: Fields | undefined, id: string) => {
  const name = item?.name ?? item?.code;
  return typeof name === "string" && name !== "" ? name : id;
};
