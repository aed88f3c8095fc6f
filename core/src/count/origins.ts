import type { Design, Part } from "../contract/index.ts";
import { placeOf } from "../shorthand/index.ts";
import type { Counting } from "./count.ts";
import { shareOut } from "./roles.ts";
import type { Place } from "./strung.ts";
import { ofSize } from "./walk.ts";

/** One of the things that add up to a number: where it stands, how much of it one part takes, and times what. */
export interface Origin {
  /** Null for what the whole item, or a kit, takes beside its parts. */
  part: Part | null;
  /** How it comes in: written in a row, hung from something written, named as a finding, shared out from a mix … */
  how: "row" | "hangs" | "uses" | "item" | "kit" | "box" | "mix" | "strung" | "also" | "cut" | "measured";
  /** Where it is written, for what is written in a row. */
  place: (Place & { row: number; column: number }) | null;
  /** The text there. */
  text: string;
  /** Pieces, or millimetres, that one part takes because of it; for a mix its share of the item. */
  each: number;
  /** How often the part stands in one finished item. */
  times: number;
  /** How many in one finished item: `each × times`. */
  total: number;
  /** What brings it: the mix it is shared out from, or what it hangs from. */
  by: string | null;
}

/** What a role's count in one item, or once a kit, is made of. The totals add up to the count, and to the kit's. */
export function originsOf(counting: Counting, key: string): Origin[] {
  const { design, answer, roles } = counting;
  const found = [...directOrigins(counting, key)];
  for (const [mixKey, n] of counting.mixes) {
    const mix = roles.get(mixKey);
    const given = counting.shares.get(mixKey);
    if (mix?.type !== "mix" || !given) continue;
    const own = mix.members.reduce((sum, m, i) => (m.key === key ? sum + given[i]! : sum), 0);
    if (own === 0) continue;
    // The member's number, shared out again over the places where the mix is picked up.
    const places = directOrigins(counting, mixKey);
    const shares = shareOut(
      own,
      places.map((p) => p.total / n),
    );
    places.forEach((p, j) => {
      if (shares[j]! > 0) found.push({ ...p, how: "mix", each: shares[j]!, times: 1, total: shares[j]!, by: mixKey });
    });
  }
  const box = onceABox(design, key, answer.perKit);
  const kit = (answer.perKit[key] ?? 0) - box;
  if (box > 0) found.push({ part: null, how: "box", place: null, text: "", each: box, times: 1, total: box, by: null });
  if (kit > 0) {
    const by = (design.uses ?? []).some((u) => u.per === "kit" && u.key === key) ? null : "kit";
    found.push({ part: null, how: "kit", place: null, text: "", each: kit, times: 1, total: kit, by });
  }
  return found;
}

/** How many of a role are there once a box, of those in a kit: where several designs ask for it, it is there once. */
export function onceABox({ uses }: Design, key: string, perKit: Readonly<Record<string, number>>): number {
  const asked = (uses ?? []).reduce((n, use) => (use.per === "box" && use.key === key ? n + use.count : n), 0);
  return Math.min(asked, perKit[key] ?? 0);
}

function directOrigins({ design, answer, parts, roles, timesUsed }: Counting, key: string): Origin[] {
  const found: Origin[] = [];
  for (const { part, pattern, placings } of parts) {
    const times = timesUsed.get(part.id) ?? 0;
    if (times === 0) continue;
    const add = (how: Origin["how"], each: number, at: Place | null, by: string | null) => {
      if (each === 0) return;
      const place = at && { ...at, row: placeOf(pattern.text, at).row, column: placeOf(pattern.text, at).from };
      found.push({
        part,
        how,
        place,
        text: at ? pattern.text.slice(at.from, at.to) : "",
        each,
        times,
        total: each * times,
        by,
      });
    };
    for (const p of placings) {
      if (p.key === key) add("row", p.picked, p.at, null);
      if (p.how !== "hung") continue;
      for (const use of roles.get(p.key)?.hangsBy ?? [])
        if (use.key === key) add("hangs", p.picked * use.count, p.at, p.key);
    }
    for (const use of part.uses ?? []) {
      if (use.key !== key) continue;
      const each = placings.reduce((n, p) => (p.key === use.forEach && p.how !== "rest" ? n + p.picked : n), 0);
      add("uses", (ofSize(use.count, answer.size) ?? 0) * (use.forEach == null ? 1 : each), null, use.forEach ?? null);
    }
  }
  for (const use of design.uses ?? []) {
    if (use.key === key && (use.per ?? "item") === "item")
      found.push({
        part: null,
        how: "item",
        place: null,
        text: "",
        each: use.count,
        times: 1,
        total: use.count,
        by: null,
      });
  }
  return found;
}

/**
 * What the length of a stringing role in one item is made of: its cuts, part by part; last, by how much all of them are
 * longer as they are measured.
 * @param measured how long a cut is made, mm; as it is counted where nothing is said
 */
export function lengthOrigins(
  { parts, timesUsed }: Counting,
  key: string,
  measured: (mm: number) => number = (mm) => mm,
): Origin[] {
  let more = 0;
  const found = parts.flatMap(({ part, cuts, pattern }) => {
    const times = timesUsed.get(part.id) ?? 0;
    return cuts.flatMap((cut): Origin[] => {
      if (cut.key !== key || times === 0 || cut.offcut) return [];
      const each = cut.mm * cut.count;
      more += (measured(cut.mm) - cut.mm) * cut.count * times;
      const how = cut.how === "named" ? "cut" : cut.how;
      const text = cut.how === "named" ? "" : pattern.text;
      return [{ part, how, place: null, text, each, times, total: each * times, by: null }];
    });
  });
  if (more < 1e-4) return found;
  return [
    ...found,
    { part: null, how: "measured", place: null, text: "", each: more, times: 1, total: more, by: null },
  ];
}
