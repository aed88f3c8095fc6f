import { type Design, roleId } from "../contract/index.ts";
import { countKit } from "./kit.ts";

export interface Change {
  /** The role's id, and its key and name where it is now (or was). */
  role: string;
  key: string;
  name: string;
  unit: "piece" | "mm";
  from: number;
  to: number;
}

/** What changed in counts and lengths between two states of a design, role by role; renamed roles are followed. */
export function changesBetween(
  before: Design,
  after: Design,
  size: string | null = null,
  option: string | null = null,
): Change[] {
  const has = (design: Design) => ({
    size: (design.sizes ?? []).some((s) => s.key === size) ? size : null,
    option: (design.options ?? []).some((o) => o.key === option) ? option : null,
  });
  const sums = (design: Design) => {
    const chosen = has(design);
    const kit = countKit(design, chosen.size, chosen.option, null);
    return new Map(
      design.key.map((entry) => {
        const linear = entry.kind === "stringing";
        const n = linear
          ? (kit.lengthsMm[entry.key] ?? 0)
          : (kit.counts[entry.key] ?? 0) + (kit.perKit[entry.key] ?? 0);
        return [
          roleId(entry),
          { key: entry.key, name: entry.name, unit: linear ? ("mm" as const) : ("piece" as const), n },
        ];
      }),
    );
  };
  const [then, now] = [sums(before), sums(after)];
  return [...new Set([...then.keys(), ...now.keys()])].flatMap((role): Change[] => {
    const [a, b] = [then.get(role), now.get(role)];
    const { key, name, unit } = (b ?? a)!;
    const [from, to] = [a?.n ?? 0, b?.n ?? 0];
    return Math.abs(from - to) < 1e-6 ? [] : [{ role, key, name, unit, from, to }];
  });
}
