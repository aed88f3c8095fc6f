import type { Design, SentenceRow } from "../src/contract/index.ts";

/** By key: how many are picked up, hung or linked in. */
type Bag = Map<string, number>;

interface Block {
  begun: string;
  bag: Bag;
}

const add = (into: Bag, from: Bag, n = 1) => {
  for (const [key, many] of from) into.set(key, (into.get(key) ?? 0) + n * many);
};
const scaled = (bag: Bag, n: number): Bag => new Map([...bag].map(([key, many]) => [key, n * many]));

/** `3 A, 1 B and 1 W through the 2nd hole`, or with a range, of which the most counts. */
function itemsIn(words: string): Bag {
  const bag: Bag = new Map();
  for (const item of words.split(/, | and (?=\d)/)) {
    const found = /^(?:\d+ (?:or|to) )?(\d+) (\p{L}[\p{L}0-9_]*)(?: through the \d+(?:st|nd|rd|th) hole)?$/u.exec(
      item.trim(),
    );
    if (!found) throw new Error(`This is no list of beads: ${words}`);
    add(bag, new Map([[found[2]!, Number(found[1])]]));
  }
  return bag;
}

/** A sentence with letters where it has names: `Pick up one 6 mm round (g)` → `Pick up 1 g`. */
export function lettersFor(text: string, { key, parts }: Pick<Design, "key" | "parts">): string {
  const named = [...key, ...parts.flatMap((p) => (p.as == null ? [] : [{ key: p.as, name: p.name }]))];
  return named.reduce(
    (told, e) =>
      told
        .replaceAll(`one ${e.name} (${e.key})`, `1 ${e.key}`)
        .replaceAll(`of ${e.name} (${e.key})`, e.key)
        .replaceAll(`${e.name} (${e.key})`, e.key),
    text,
  );
}

/** `6 times`, `2 or 3 times`, `6 times for S and 7 times for L`. */
function timesIn(words: string, size: string | null): number {
  const bySize = [...words.matchAll(/(\d+) times? for ([^\s,]+)/g)];
  if (bySize.length > 0) return Number(bySize.find((m) => m[2] === size)?.[1] ?? NaN);
  return Number(/^(?:\d+ (?:or|to) )?(\d+) times?/.exec(words)?.[1] ?? NaN);
}

/**
 * Reads a sheet's sentences back and counts what they say is taken: a small reader that sees nothing but the sentences.
 * What is only passed through, left bare or knotted takes nothing. Anything that it can't read is an error.
 * @param size the size that is made
 */
export function readBack(
  rows: readonly SentenceRow[],
  size: string | null,
  design: Pick<Design, "key" | "parts">,
): Record<string, number> {
  const all: Bag = new Map();
  for (const row of rows) {
    const text = lettersFor(row.text, design);
    // Notes are the maker's own words.
    const [told = ""] = text.split(/(?:^|\s)Note: /);
    add(all, readRow(told, size));
  }
  return Object.fromEntries([...all].filter(([, n]) => n > 0));
}

function readRow(text: string, size: string | null): Bag {
  const open: Block[] = [{ begun: "row", bag: new Map() }];
  const sides: Bag[] = [];
  let only: string | null = null;
  const top = () => open.at(-1)!;
  const close = (begun: string) => {
    const block = open.pop();
    if (block?.begun !== begun) throw new Error(`${begun} ends, but ${block?.begun} is open: ${text}`);
    return block.bag;
  };
  for (const words of text.split(/(?<=\.)\s+/).map((s) => s.trim().replace(/\.$/, ""))) {
    if (words === "") continue;
    const inSize = /^In size (.+) only$/.exec(words);
    if (inSize) {
      if (only !== null) endSize();
      only = inSize[1]!;
      open.push({ begun: "size", bag: new Map() });
      continue;
    }
    if (words === "In every size again") {
      endSize();
      continue;
    }
    if (/^Begin a repeat$/.test(words)) open.push({ begun: "repeat", bag: new Map() });
    else if (/^Begin what comes between/.test(words)) open.push({ begun: "between", bag: new Map() });
    else if (/^Begin one side$/.test(words)) open.push({ begun: "side", bag: new Map() });
    else if (/^Begin what is done on each of the \d+ strands$/.test(words))
      open.push({ begun: "strands", bag: new Map() });
    else if (/^That is one side$/.test(words)) {
      const side = close("side");
      sides.push(side);
      add(top().bag, side);
    } else if (/^Make the other side the same/.test(words)) add(top().bag, sides.pop()!);
    else if (/^Do this on all \d+ strands$/.test(words)) {
      const strands = close("strands");
      add(top().bag, strands, Number(/\d+/.exec(words)![0]));
    } else if (/^Do this /.test(words)) {
      const n = timesIn(words.slice(8), size);
      if (top().begun === "repeat") {
        const inside = close("repeat");
        add(top().bag, inside, n);
      } else top().bag = scaled(top().bag, n);
    } else if (/^That is .* in all$/.test(words)) {
      const n = timesIn(words.slice(8), size);
      const inside = close("between");
      add(top().bag, inside, n);
    } else if (/^(Hang|Link in) /.test(words)) {
      const what = words.replace(/^(Hang|Link in) /, "").replace(/ side by side$|, as long as what is left$/, "");
      add(top().bag, itemsIn(what));
    } else if (/^Pick up /.test(words)) add(top().bag, itemsIn(words.slice(8).replace(/ with the .*$/, "")));
    else if (/^\d/.test(words)) add(top().bag, itemsIn(words));
    else if (!TAKES_NOTHING.test(words)) throw new Error(`This can't be read: ${words}`);
  }
  if (only !== null) throw new Error(`A size does not end: ${text}`);
  if (open.length !== 1) throw new Error(`${top().begun} does not end: ${text}`);
  return top().bag;

  function endSize() {
    const bag = close("size");
    // Another size's steps are read, and left out.
    if (only === size) add(top().bag, bag);
    only = null;
  }
}

const TAKES_NOTHING = new RegExp(
  "^(Pass |Through |Leave |Tie a knot |Skip |Begin a (fringe|loop)$|Close the loop$|Turn round the next beads$|" +
    "Go back up through the fringe, past the turn$|On strand \\d+ alone$|All strands together again$|Nothing here$|" +
    "Work this row behind what is there$)",
);
