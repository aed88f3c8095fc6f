import type { Design, KeyEntry, Measures, Part, Use } from "../contract/index.ts";

/** A key of the design, with the measures that hold in this colourway. */
export type Role = {
  key: string;
  alongMm: number | null;
  hangsBy: readonly Use[];
} & (
  | { type: "plain"; entry: KeyEntry }
  | { type: "stringing"; entry: KeyEntry; linkMm: number | null; lossLinks: number; coilMm: number | null }
  | { type: "mix"; entry: KeyEntry; members: { key: string; share: number }[] }
  | { type: "sub"; part: Part }
);

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
  const members: { key: string; share: number; alongMm: number | null }[] = [];
  for (const { key, share } of mix.entry.mix ?? []) {
    const member = roles.get(key);
    if (member?.type === "plain" && share > 0 && Number.isFinite(share)) {
      members.push({ key, share, alongMm: member.alongMm });
    } else {
      const what = !member
        ? "is not in the bead key"
        : member.type === "plain"
          ? "needs a share over 0"
          : `is a ${NOUN[member.type]}`;
      complain("error", null, `Mix ${mix.key}: ${key} ${what}. A mix is made of plain beads of the key.`);
    }
  }
  const total = members.reduce((sum, m) => sum + m.share, 0);
  if (members.length === 0) {
    complain("error", null, `Mix ${mix.key} has no members. Say which beads it is made of, and their shares.`);
    return;
  }
  if (Math.abs(total - 1) > 1e-6) {
    complain(
      "warning",
      null,
      `The shares of mix ${mix.key} add up to ${Number(total.toFixed(4))}; they were made to add up to 1.`,
    );
  }
  mix.members = members.map(({ key, share }) => ({ key, share: share / total }));
  if (mix.alongMm === null && members.every((m) => m.alongMm !== null)) {
    mix.alongMm = members.reduce((sum, m) => sum + (m.share / total) * m.alongMm!, 0);
  }
}

export const NOUN: Record<Role["type"], string> = {
  plain: "bead",
  stringing: "stringing material",
  mix: "mix",
  sub: "sub-assembly",
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
  for (let k = 0; k < left; k++) whole[order[k % order.length]!.i]!++;
  return whole;
}
