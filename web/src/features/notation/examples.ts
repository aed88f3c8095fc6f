/** Examples of the notation in a design's own keys, and their pictures. */
import { type Design, DESIGN_VERSION, type KeyEntry, type Part } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import { type Appearance, appearancesOf, layOut, type Picture } from "@jar-count/core/picture";
import type { Construct, ExampleKeys } from "@jar-count/core/shorthand";

/** What examples are written with where a design has too little of its own yet. */
const STAND_INS: KeyEntry[] = [
  { key: "A", name: "6 mm round, teal", kind: "bead", alongMm: 6 },
  { key: "B", name: "4 mm bicone, amber", kind: "bead", alongMm: 4 },
  { key: "C", name: "11/0 seed, white", kind: "bead", alongMm: 1.4, acrossMm: 2.1 },
  { key: "D", name: "drop, coral", kind: "focal", alongMm: 12, acrossMm: 7 },
  { key: "R", name: "jump ring", kind: "finding", alongMm: 5 },
  { key: "W", name: "3 mm chain", kind: "stringing", linkMm: 3 },
];

export interface Examples {
  keys: ExampleKeys;
  entries: readonly KeyEntry[];
  sizes: NonNullable<Design["sizes"]>;
}

/** The keys that a design's examples are written in: its own, and letters that stand in for what it has not. */
export function examplesOf(
  design: (Pick<Design, "key" | "sizes"> & { parts: readonly Pick<Part, "as">[] }) | null,
): Examples {
  const own = design?.key ?? [];
  const taken = new Set([...own.map((e) => e.key), ...(design?.parts ?? []).flatMap((p) => p.as ?? [])]);
  const standIn = (index: number): KeyEntry => {
    const entry = STAND_INS[index]!;
    if (!taken.has(entry.key)) return entry;
    return { ...entry, key: `${entry.key}${[..."23456789"].find((n) => !taken.has(entry.key + n)) ?? "0"}` };
  };
  const beads = own.filter((e) => e.kind === "bead").slice(0, 3);
  // Of one or two beads each stands more than once before another letter is brought in.
  const three = [0, 1, 2].map((i) => beads[i] ?? beads.at(-1) ?? standIn(i)) as [KeyEntry, KeyEntry, KeyEntry];
  const hung = own.find((e) => e.kind === "focal") ?? (own.length > 0 ? three[1] : standIn(3));
  const finding = own.find((e) => e.kind === "finding") ?? standIn(4);
  const chain = own.find((e) => e.kind === "stringing" && e.linkMm) ?? standIn(5);
  const declared = design?.sizes ?? [];
  const sizes = declared.length > 1 ? declared : [{ key: "S" }, { key: "M" }];
  return {
    keys: {
      beads: [three[0].key, three[1].key, three[2].key],
      hung: hung.key,
      finding: finding.key,
      sub: design?.parts.find((p) => p.as)?.as ?? "CHN",
      sizes: [sizes[0]!.key, sizes[1]!.key],
    },
    entries: [...new Map([...three, hung, finding, chain].map((e) => [e.key, e])).values()],
    sizes,
  };
}

/** The picture of one construct's example. */
export function pictureOf(
  construct: Construct,
  { keys, entries }: Examples,
): { picture: Picture; looks: ReadonlyMap<string, Appearance> } | null {
  const { strands = 1, chain, targetMm = null } = construct.on ?? {};
  const key = entries.map((e) => (construct.id === "hole" ? { ...e, holes: 2 } : e));
  const design: Design = {
    format: "jar-count/design",
    version: DESIGN_VERSION,
    name: construct.title,
    key,
    parts: [
      {
        id: "example",
        name: "example",
        steps: construct.example(keys),
        strands,
        targetMm,
        stringing: chain ? (entries.find((e) => e.linkMm)?.key ?? null) : null,
      },
    ],
  };
  const counting = countWhole(design, {});
  const strung = counting.parts[0];
  if (!strung) return null;
  const looks = appearancesOf(key);
  return { picture: layOut(counting, strung, looks, undefined, { laid: "strand" }), looks };
}
