import { NEW_WORDS } from "../shorthand/index.ts";

type Json = Record<string, unknown>;
const isRecord = (x: unknown): x is Json => typeof x === "object" && x !== null && !Array.isArray(x);
const records = (x: unknown): Json[] => (Array.isArray(x) ? x.filter(isRecord) : []);

const LABEL = /^[^(){}[\]#:\n\r]*:/;
const WORD = /\p{L}[\p{L}0-9_]*/gu;

/**
 * A design file of version 1 as version 2 reads it: a key that has become a word of the shorthand since gets a number
 * behind it, everywhere in the file, and keeps its old name as its id, by which colourways and trials know it. A `!` in
 * a label, which would begin a note now, becomes a full stop. Anything else stays as it is, faults too.
 */
export function freeNewWords(file: unknown): unknown {
  if (!isRecord(file)) return file;
  const keys = [...records(file.key).map((e) => e.key), ...records(file.parts).map((p) => p.as)];
  const taken = new Set(keys);
  const renamed = new Map<unknown, string>();
  for (const key of keys) {
    if (typeof key !== "string" || !NEW_WORDS.includes(key) || renamed.has(key)) continue;
    let n = 1;
    while (taken.has(`${key}${n}`)) n++;
    taken.add(`${key}${n}`);
    renamed.set(key, `${key}${n}`);
  }
  const hasMark = records(file.parts).some((p) => typeof p.steps === "string" && p.steps.includes("!"));
  if (renamed.size === 0 && !hasMark) return file;

  const free = (key: unknown) => renamed.get(key) ?? key;
  const keyed = (list: unknown): unknown =>
    Array.isArray(list) ? list.map((x: unknown) => (isRecord(x) && "key" in x ? { ...x, key: free(x.key) } : x)) : list;
  const within = (x: Json, lists: readonly string[]): Json => {
    const copy = { ...x };
    for (const name of lists) if (name in copy) copy[name] = keyed(copy[name]);
    return copy;
  };
  const entry = (e: unknown): unknown =>
    isRecord(e)
      ? {
          ...within(e, ["hangsBy", "mix"]),
          ...(renamed.has(e.key) ? { key: free(e.key), id: e.id ?? e.key } : {}),
        }
      : e;
  const part = (p: unknown): unknown =>
    isRecord(p)
      ? {
          ...within(p, ["hangsBy", "uses", "cuts"]),
          ...("as" in p ? { as: free(p.as) } : {}),
          ...("stringing" in p ? { stringing: free(p.stringing) } : {}),
          ...(typeof p.steps === "string" ? { steps: inRows(p.steps, renamed) } : {}),
        }
      : p;
  return {
    ...within(file, ["uses"]),
    ...(Array.isArray(file.key) ? { key: file.key.map(entry) } : {}),
    ...(Array.isArray(file.parts) ? { parts: file.parts.map(part) } : {}),
  };
}

/** Renames keys in a text's rows; labels and comments stay, but for a `!` in a label. */
function inRows(text: string, renamed: ReadonlyMap<unknown, string>): string {
  const rename = (word: string) => renamed.get(word) ?? word;
  return text
    .split("\n")
    .map((line) => {
      const label = LABEL.exec(line)?.[0] ?? "";
      const comment = line.indexOf("#", label.length);
      const end = comment < 0 ? line.length : comment;
      return label.replaceAll("!", ".") + line.slice(label.length, end).replace(WORD, rename) + line.slice(end);
    })
    .join("\n");
}
