/** What is done on the colour tray, as changes to the box. */
import type { BoxInput, BoxRole } from "@jar-count/core/contract";

type Change = (box: BoxInput) => BoxInput;

export const addColourway: Change = (b) => {
  const id = crypto.randomUUID();
  return {
    ...b,
    colourways: [...b.colourways, { id, name: `Colourway ${b.colourways.length + 1}` }],
    // How many is for somebody to say: as many as of the one before, or none yet.
    variants: [
      ...b.variants,
      { id: crypto.randomUUID(), first: id, second: null, boxes: b.variants.at(-1)?.boxes ?? 0 },
    ],
  };
};

export const withoutColourway =
  (id: string): Change =>
  (b) => ({
    ...b,
    colourways: b.colourways.filter((w) => w.id !== id),
    variants: b.variants.filter((v) => v.first !== id),
    contents: b.contents.filter((c) => c.first !== id),
    picks: b.picks.filter((p) => p.first !== id),
  });

export const setColourwayName =
  (id: string, name: string): Change =>
  (b) => ({ ...b, colourways: b.colourways.map((w) => (w.id === id ? { ...w, name } : w)) });

export const setBoxes =
  (first: string, boxes: number): Change =>
  (b) => ({ ...b, variants: b.variants.map((v) => (v.first === first ? { ...v, boxes } : v)) });

/** What its designs ask for once a kit comes once a box, or for each of them. */
export const setOnceABox =
  (role: string, onceABox: boolean): Change =>
  (b) => ({ ...b, roles: b.roles.map((r) => (r.id === role ? { ...r, onceABox } : r)) });

/** How many more of some roles, and of what lies beside the designs, go into each bag; null: by the rules. */
export const setSpare =
  (of: ReadonlySet<string>, spare: number | null): Change =>
  (b) => ({
    ...b,
    roles: b.roles.map((r) => (of.has(r.id) ? { ...r, spare } : r)),
    contents: b.contents.map((c) => (of.has(c.id) ? { ...c, spare } : c)),
  });

/** Chooses a component for a role, in one colourway or (null) in all of them; null leaves it open. */
export const choose =
  (role: string, first: string | null, component: string | null): Change =>
  (b) => {
    const at = b.picks.findIndex((p) => p.boxRole === role && p.first === first && p.second === null);
    const pick = component === null ? [] : [{ boxRole: role, first, second: null, component }];
    // The other choices stay the same objects in the same order, so that only what changed is drawn and sent.
    if (at < 0) return { ...b, picks: [...b.picks, ...pick] };
    return { ...b, picks: [...b.picks.slice(0, at), ...pick, ...b.picks.slice(at + 1)] };
  };

/** Chooses a component for a role in every colourway at once. */
export const chooseInAll =
  (role: BoxRole, component: string): Change =>
  (b) =>
    b.colourways.reduce((box, w) => choose(role.id, w.id, component)(box), b);

/** A role that is the same everywhere gets a choice for each colourway, or the reverse; what was chosen stays. */
export const followColourway =
  (role: BoxRole): Change =>
  (b) => {
    const follows = role.follows === "none" ? ("first" as const) : ("none" as const);
    const had = b.picks.find((p) => p.boxRole === role.id);
    const kept = !had
      ? []
      : follows === "none"
        ? [{ ...had, first: null, second: null }]
        : b.colourways.map((w) => ({ ...had, first: w.id, second: null }));
    return {
      ...b,
      roles: b.roles.map((r) => (r.id === role.id ? { ...r, follows } : r)),
      picks: [...b.picks.filter((p) => p.boxRole !== role.id), ...kept],
    };
  };

/** What was bound to one role is bound to another, whose choices hold for both from here on. */
export const joinRole =
  (role: string, other: string): Change =>
  (b) => ({
    ...b,
    bindings: b.bindings.map((x) => (x.boxRole === role ? { ...x, boxRole: other } : x)),
    roles: b.roles.filter((r) => r.id !== role),
    picks: b.picks.filter((p) => p.boxRole !== role),
  });

/** Each design that shares a role gets one of its own behind it, with the same choices to begin with. */
export const splitRole =
  (role: BoxRole, newId: () => string): Change =>
  (b) => {
    const [, ...rest] = b.bindings.filter((x) => x.boxRole === role.id);
    const own = rest.map((binding) => ({ binding, role: { ...role, id: newId() } }));
    const at = b.roles.findIndex((r) => r.id === role.id) + 1;
    const picks = b.picks.filter((p) => p.boxRole === role.id);
    return {
      ...b,
      roles: [...b.roles.slice(0, at), ...own.map((o) => o.role), ...b.roles.slice(at)],
      bindings: b.bindings.map((x) => {
        const mine = own.find((o) => o.binding.line === x.line && o.binding.role === x.role);
        return mine ? { ...x, boxRole: mine.role.id } : x;
      }),
      picks: [...b.picks, ...own.flatMap((o) => picks.map((p) => ({ ...p, boxRole: o.role.id })))],
    };
  };
