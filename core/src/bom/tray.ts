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

const trayEntries = (design: Design) => {
  const used = new Set(usedKeys(design));
  return design.key.filter((entry) => used.has(entry.key));
};
