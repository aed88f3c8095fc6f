import type { BoxInput, BoxRole, Design, PinnedDesign } from "../contract/index.ts";
import { roleId } from "../contract/index.ts";
import { usedKeys } from "./bom.ts";

/**
 * Puts every role that the box's designs use on the colour tray, and takes off what none uses any more. A new role
 * joins one of the same name and kind, so that two designs with an “11/0 seed” share a jar; otherwise it gets its
 * own. Beads start out following the colourway; findings and everything else are the same in every box.
 */
export function layTray<B extends BoxInput>(box: B, designs: readonly PinnedDesign[], newId: () => string): B {
  const roles: BoxRole[] = [...box.roles];
  const bindings: BoxInput["bindings"] = [];
  for (const line of box.lines) {
    const pinned = designs.find((d) => d.designId === line.designId && d.revision === line.revision);
    if (!pinned) {
      bindings.push(...box.bindings.filter((b) => b.line === line.id));
      continue;
    }
    for (const entry of trayEntries(pinned.design)) {
      const role = roleId(entry);
      const known = box.bindings.find((b) => b.line === line.id && b.role === role);
      if (known) {
        bindings.push(known);
        continue;
      }
      const like = roles.find((r) => r.kind === entry.kind && r.name.toLowerCase() === entry.name.toLowerCase());
      const own = like ?? {
        id: newId(),
        name: entry.name,
        kind: entry.kind,
        follows: entry.kind === "bead" || entry.kind === "focal" ? ("first" as const) : ("none" as const),
      };
      if (!like) roles.push(own);
      bindings.push({ line: line.id, role, boxRole: own.id });
    }
  }
  const bound = new Set(bindings.map((b) => b.boxRole));
  return {
    ...box,
    bindings,
    roles: roles.filter((r) => bound.has(r.id)),
    picks: box.picks.filter((p) => bound.has(p.boxRole)),
  };
}

/**
 * Chooses for what is new on the tray, a role or a colourway, the component that a design's bead key was taken from.
 * What somebody chose or cleared stays.
 * @param isKnown whether a component is in this workshop and in use
 */
export function chooseFromKeys<B extends BoxInput>(
  before: BoxInput,
  box: B,
  designs: readonly PinnedDesign[],
  isKnown: (component: string) => boolean,
): B {
  if (box.roles === before.roles && box.colourways === before.colourways) return box;
  const [roles, colourways] = [before.roles, before.colourways].map((list) => new Set(list.map((x) => x.id)));
  const chosen = new Set(box.picks.map((p) => `${p.boxRole} ${p.first ?? ""}`));
  const picks = box.roles.flatMap((role) => {
    const places = role.follows === "none" ? [null] : box.colourways.map((c) => c.id);
    const open = places.filter(
      (first) =>
        !chosen.has(`${role.id} ${first ?? ""}`) &&
        (!roles!.has(role.id) || (first !== null && !colourways!.has(first))),
    );
    const component = open.length > 0 ? componentOfRole(box, role.id, designs) : null;
    if (component === null || !isKnown(component)) return [];
    return open.map((first) => ({ boxRole: role.id, first, second: null, component }));
  });
  return picks.length > 0 ? { ...box, picks: [...box.picks, ...picks] } : box;
}

function componentOfRole(box: BoxInput, role: string, designs: readonly PinnedDesign[]): string | null {
  for (const binding of box.bindings) {
    if (binding.boxRole !== role) continue;
    const line = box.lines.find((l) => l.id === binding.line);
    const pinned = designs.find((d) => d.designId === line?.designId && d.revision === line.revision);
    const entry = pinned?.design.key.find((e) => roleId(e) === binding.role);
    if (entry?.component != null) return entry.component;
  }
  return null;
}

const trayEntries = (design: Design) => {
  const used = new Set(usedKeys(design));
  return design.key.filter((entry) => used.has(entry.key));
};
