import type { Design, KeyEntry, Measures, Part, Use } from "../contract/index.ts";

/** A key of the design, with the measures that hold in this colourway. */
export type Role = {
  key: string;
  alongMm: number | null;
  hangsBy: readonly Use[];
} & (
  | { type: "plain"; entry: KeyEntry }
  | { type: "stringing"; entry: KeyEntry; linkMm: number | null; lossLinks: number; coilMm: number | null }
  | { type: "mix"; entry: KeyEntry; members: Member[] }
  | { type: "sub"; part: Part }
);

/** A member of a mix: exactly `count` of the whole item's number, or a `share` of what is left of it. */
export interface Member {
  key: string;
  /** Of the members with shares, made to add up to 1; 0 for one with a count. */
  share: number;
  count: number | null;
}

export type Colourway = Readonly<Record<string, Measures | undefined>>;
export type Complain = (level: "error" | "warning", part: string | null, message: string) => void;

/**
 * Settles what every key means: plain role, stringing, mix or sub-assembly. A colourway's measures replace the
 * role's own. Sub-assemblies get their strand length later, when they have been strung.
 */
export function settleRoles(design: Design, colourway: Colourway | null, complain: Complain): Map<string, Role> {
  const roles = new Map<string, Role>();
  for (const entry of design.key) {
    if (roles.has(entry.key)) {
      complain("error", null, `Key ${entry.key} is in the bead key twice. Give each bead its own key.`);
      continue;
    }
    const own = colourway && Object.hasOwn(colourway, entry.key) ? colourway[entry.key] : undefined;
    const alongMm = finite(own?.alongMm ?? entry.alongMm);
    const shared = { key: entry.key, alongMm, hangsBy: entry.hangsBy ?? [], entry };
    if (entry.kind === "stringing") {
      const linkMm = finite(own?.linkMm ?? entry.linkMm);
      roles.set(entry.key, {
        ...shared,
        type: "stringing",
        linkMm,
        lossLinks: entry.lossLinks ?? 0,
        coilMm: finite(entry.coilMm),
      });
    } else if (entry.kind === "mix") {
      roles.set(entry.key, { ...shared, type: "mix", members: [] });
    } else {
      roles.set(entry.key, { ...shared, type: "plain" });
    }
  }
  for (const part of design.parts) {
    if (part.as == null) continue;
    const known = roles.get(part.as);
    if (known?.type === "sub") {
      complain("error", part.id, `Two sub-assemblies are called ${part.as}. Give this one another key.`);
      continue;
    }
    roles.set(part.as, {
      type: "sub",
      key: part.as,
      part,
      alongMm: finite(part.alongMm),
      hangsBy: part.hangsBy?.length ? part.hangsBy : (known?.hangsBy ?? []),
    });
  }
  for (const role of roles.values()) if (role.type === "mix") settleMix(role, roles, complain);
  return roles;
}

function settleMix(mix: Extract<Role, { type: "mix" }>, roles: Map<string, Role>, complain: Complain) {
  const members: Member[] = [];
  for (const { key, share, count } of mix.entry.mix ?? []) {
    const member = roles.get(key);
    const usable = count == null ? share != null && share > 0 && Number.isFinite(share) : count > 0;
    if ((member?.type === "plain" || member?.type === "sub") && usable) {
      members.push({ key, share: count == null ? share! : 0, count: count ?? null });
    } else {
      const what = !member
        ? "is not in the bead key"
        : member.type === "plain" || member.type === "sub"
          ? "needs a share or a count over 0"
          : `is ${NOUN[member.type]}`;
      complain("error", null, `Mix ${mix.key}: ${key} ${what}. A mix is made of beads and sub-assemblies of the key.`);
    }
  }
  if (members.length === 0) {
    complain("error", null, `Mix ${mix.key} has no members. Say which beads it is made of, and their shares.`);
    return;
  }
  const total = members.reduce((sum, m) => sum + m.share, 0);
  if (total > 0 && Math.abs(total - 1) > 1e-6) {
    complain(
      "warning",
      null,
      `The shares of mix ${mix.key} add up to ${Number(total.toFixed(4))}; they were made to add up to 1.`,
    );
  }
  mix.members = members.map((m) => ({ ...m, share: total > 0 ? m.share / total : 0 }));
}

/**
 * How many of a mix each member is: those with a count exactly so many, the rest by their shares.
 * @param n how many of the mix the whole item has
 * @returns one number a member; or, where the counts don't fit in `n`, what they add up to
 */
export function shareMix(n: number, members: readonly Member[]): number[] | { counted: number } {
  const counted = members.reduce((sum, m) => sum + (m.count ?? 0), 0);
  const shared = members.some((m) => m.count === null);
  if (counted > n || (counted < n && !shared)) return { counted };
  const shares = shareOut(
    n - counted,
    members.map((m) => m.share),
  );
  return members.map((m, i) => m.count ?? shares[i]!);
}

export const NOUN: Record<Role["type"], string> = {
  plain: "a bead",
  stringing: "thread, cord, wire or chain",
  mix: "a mix",
  sub: "a sub-assembly",
};

const finite = (n: number | null | undefined) => (n != null && Number.isFinite(n) && n > 0 ? n : null);

/**
 * Shares a whole number out by largest remainder, ties to the earlier member, so that the members add up exactly.
 * (Hamilton's method of apportionment.)
 */
export function shareOut(n: number, shares: readonly number[]): number[] {
  const exact = shares.map((share) => share * n);
  const whole = exact.map((x) => Math.floor(x + 1e-9));
  const left = n - whole.reduce((sum, x) => sum + x, 0);
  const order = exact
    .map((x, i) => ({ i, rest: x - whole[i]! }))
    .sort((a, b) => (Math.abs(a.rest - b.rest) < 1e-9 ? a.i - b.i : b.rest - a.rest));
  // A share of nothing gets nothing, not even what is left over by rounding.
  const open = order.filter(({ i }) => shares[i]! > 0);
  for (let k = 0; k < left && open.length > 0; k++) whole[open[k % open.length]!.i]!++;
  return whole;
}
