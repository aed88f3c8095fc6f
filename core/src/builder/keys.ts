import type { Design, KeyEntry, Part } from "../contract/index.ts";
import { keysIn } from "../shorthand/index.ts";

/**
 * Gives a key another name, in the bead key and in every use of it: rows, findings, cuts, mixes, what hangs by what.
 */
export function renameKey(design: Design, from: string, to: string): Design {
  const key = (k: string) => (k === from ? to : k);
  const renamed = <T extends { key: string }>(x: T): T => (x.key === from ? { ...x, key: to } : x);
  const list = <T extends { key: string }>(uses: T[] | null | undefined) => (uses ? uses.map(renamed) : uses);
  const eachOf = <T extends { key: string; forEach?: string | null | undefined }>(uses: T[] | null | undefined) =>
    list(uses)?.map((u) => (u.forEach === from ? { ...u, forEach: to } : u));
  return {
    ...design,
    key: design.key.map((e): KeyEntry => ({
      ...renamed(e),
      // What is outside the design names the role by its id: it stays what it was.
      ...(e.key === from && e.id == null ? { id: from } : {}),
      ...(e.hangsBy ? { hangsBy: list(e.hangsBy) } : {}),
      ...(e.mix ? { mix: e.mix.map(renamed) } : {}),
    })),
    parts: design.parts.map((p): Part => ({
      ...p,
      ...(p.as != null ? { as: key(p.as) } : {}),
      ...(p.stringing != null ? { stringing: key(p.stringing) } : {}),
      ...(p.hangsBy ? { hangsBy: list(p.hangsBy) } : {}),
      ...(p.uses ? { uses: eachOf(p.uses) } : {}),
      ...(p.cuts ? { cuts: eachOf(p.cuts) } : {}),
      ...(p.also ? { also: list(p.also) } : {}),
      ...(p.steps ? { steps: renameIn(p.steps, from, to) } : {}),
    })),
    ...(design.uses ? { uses: design.uses.map(renamed) } : {}),
  };
}

/** Only the keys change; everything between them stays as it was typed. */
function renameIn(text: string, from: string, to: string): string {
  let out = "";
  let done = 0;
  for (const at of keysIn(text)) {
    if (at.key !== from) continue;
    // A number before the key stays its number: `3` before `x2` would read as something else.
    out += text.slice(done, at.from) + to;
    done = at.to;
  }
  return out + text.slice(done);
}

/** Keys that stand in the bead key and nowhere else, and keys that the rows name and the bead key doesn't have. */
export function keyUse(design: Design): { unused: string[]; undefined: string[] } {
  const used = new Set<string>();
  const note = (list: readonly { key: string }[] | null | undefined) => list?.forEach((x) => used.add(x.key));
  for (const p of design.parts) {
    if (p.stringing != null) used.add(p.stringing);
    [p.uses, p.cuts, p.also, p.hangsBy].forEach(note);
    [...(p.uses ?? []), ...(p.cuts ?? [])].forEach((u) => u.forEach != null && used.add(u.forEach));
    note(keysIn(p.steps ?? ""));
  }
  note(design.uses);
  // A member of a mix is used where the mix is, and what something hangs by where that is.
  for (let more = true; more;) {
    const before = used.size;
    for (const e of design.key) if (used.has(e.key)) [e.mix, e.hangsBy].forEach(note);
    more = used.size > before;
  }
  const known = new Set([
    ...design.key.map((e) => e.key),
    ...design.parts.flatMap((p) => (p.as != null ? [p.as] : [])),
  ]);
  return {
    unused: design.key.map((e) => e.key).filter((k) => !used.has(k)),
    undefined: [...used].filter((k) => !known.has(k)),
  };
}

/** Whether a part is made twice and has something one-sided in it: then the second is made mirrored. */
export function isMirroredPair(design: Design, part: Part): boolean {
  if ((part.makes ?? 1) !== 2 || part.as != null) return false;
  const handed = new Set(design.key.filter((e) => e.handed).map((e) => e.key));
  const inside = (p: Part, depth: number): boolean =>
    depth < 32 &&
    [...keysIn(p.steps ?? ""), ...(p.uses ?? [])].some(({ key }) => {
      const sub = design.parts.find((x) => x.as === key);
      return handed.has(key) || (sub !== undefined && inside(sub, depth + 1));
    });
  return inside(part, 0);
}
