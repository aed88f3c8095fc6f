/**
 * Building by pointing, over the same text: a stretch of beads is chosen on the strand, and what is done to it becomes
 * a small edit of the rows. An edit that would bring an error is not made, and its error is shown.
 */
import {
  beadsBetween,
  bySizeStretch,
  copyRow,
  type Edited,
  fringeStretch,
  insertBeside,
  loopStretch,
  mirrorStretch,
  moveStretch,
  passStretch,
  removeStretch,
  repeatStretch,
  setCount,
  spacedStretch,
} from "@jar-count/core/builder";
import { awaitsTarget, countWhole } from "@jar-count/core/count";
import type { BenchStore } from "./benchStore.ts";
import { beadOf } from "./benchStore.ts";

export type Act = "repeat" | "mirror" | "fringe" | "loop" | "pass" | "size" | "remove";

export interface Builder {
  /** Chooses the bead of a mark, or everything from the one chosen before to it. */
  choose: (index: number, extend: boolean) => void;
  act: (what: Act, times?: number) => void;
  copyRow: () => void;
  /** Puts a key after the chosen bead, or at the end. */
  put: (what: string) => void;
  /** Puts a key between every two beads of the stretch. */
  space: (by: string) => void;
  /** Changes how many the pick at hand is. */
  setMany: (n: number) => void;
  onKey: (e: React.KeyboardEvent) => void;
  onDrop: (key: string | null, index: number | null, side: "before" | "after") => void;
}

export function makeBuilder({ state, set, editPart }: BenchStore): Builder {
  /** Digits typed one after another make one number. */
  let digits = "";
  const textOf = () => state.getState().part?.steps ?? "";
  const marksOf = () => {
    const { picture, part } = state.getState();
    return picture?.marks.flatMap((m, i) => (m.part === part?.id ? [i] : [])) ?? [];
  };

  const errorsWith = (steps: string) => {
    const { design, part, size, option } = state.getState();
    const parts = design.parts.map((p) => (p.id === part?.id ? { ...p, steps } : p));
    const { problems } = countWhole({ ...design, parts }, { size, option }).answer;
    return problems.filter((p) => p.level === "error" && p.part === part?.id && !awaitsTarget(p));
  };
  const apply = (edited: Edited) => {
    const { part } = state.getState();
    if (!part) return;
    if ("fault" in edited) return set({ fault: edited.fault });
    const errors = errorsWith(edited.text);
    if (errors.length > errorsWith(textOf()).length) return set({ fault: errors[0]!.message });
    digits = "";
    editPart({ steps: edited.text });
    const now = beadsBetween(edited.text, edited.from, edited.to);
    const stretch = now && { part: part.id, text: edited.text, a: now.first, b: now.last, cursor: -1 };
    set({ fault: null, stretch });
  };

  const choose: Builder["choose"] = (index, extend) => {
    const { picture, selected } = state.getState();
    const mark = picture?.marks[index];
    if (!mark) return;
    // In the whole piece a bead of another part takes one to that part.
    if (mark.part !== state.getState().part?.id) {
      if (extend) return;
      set({ partId: mark.part });
    }
    const { part } = state.getState();
    if (!part || mark.part !== part.id) return;
    const bead = beadOf(mark);
    digits = "";
    const fresh = { part: part.id, text: textOf(), a: bead, b: bead, cursor: index };
    set({ fault: null, stretch: extend && selected ? { ...selected, b: bead, cursor: index } : fresh });
  };
  const step = (by: number, extend: boolean) => {
    const { picture, selected } = state.getState();
    const marks = marksOf();
    if (marks.length === 0) return;
    const isLast = (i: number) => {
      const mark = picture!.marks[i]!;
      return selected!.cursor >= 0
        ? i === selected!.cursor
        : mark.from === selected!.b.at && mark.nth === selected!.b.nth;
    };
    const known = selected ? marks.findIndex(isLast) : -1;
    const next = known < 0 ? (by > 0 ? 0 : marks.length - 1) : Math.max(0, Math.min(marks.length - 1, known + by));
    choose(marks[next]!, extend && selected !== null);
  };

  const act: Builder["act"] = (what, times = 2) => {
    const { selected, sizes } = state.getState();
    if (!selected) {
      return set({ fault: "Choose beads on the strand first: click one, then hold shift and click another." });
    }
    const text = textOf();
    const { a, b } = selected;
    const edits: Record<Act, () => Edited> = {
      repeat: () => repeatStretch(text, a, b, times),
      mirror: () => mirrorStretch(text, a, b),
      fringe: () => fringeStretch(text, a, b),
      loop: () => loopStretch(text, a, b),
      pass: () => passStretch(text, a, b),
      size: () => bySizeStretch(text, a, b, sizes),
      remove: () => removeStretch(text, a, b),
    };
    apply(edits[what]());
  };
  const space: Builder["space"] = (by) => {
    const { selected } = state.getState();
    if (!selected)
      return set({ fault: "Choose the beads to be spaced first: click one, then shift and click another." });
    apply(spacedStretch(textOf(), selected.a, selected.b, by));
  };
  const setMany: Builder["setMany"] = (n) => {
    const { selected } = state.getState();
    if (selected) apply(setCount(textOf(), selected.b, n));
  };

  const keys: Record<string, (shift: boolean) => void> = {
    ArrowRight: (shift) => step(1, shift),
    ArrowDown: (shift) => step(1, shift),
    ArrowLeft: (shift) => step(-1, shift),
    ArrowUp: (shift) => step(-1, shift),
    Home: (shift) => choose(marksOf()[0] ?? -1, shift),
    End: (shift) => choose(marksOf().at(-1) ?? -1, shift),
    Escape: () => set({ stretch: null }),
    Delete: () => act("remove"),
    Backspace: () => act("remove"),
    m: () => act("mirror"),
    r: () => act("repeat"),
    f: () => act("fringe"),
    l: () => act("loop"),
    p: () => act("pass"),
  };

  return {
    choose,
    act,
    space,
    setMany,
    copyRow: () => apply(copyRow(textOf(), state.getState().selected?.a.at ?? textOf().length)),
    put: (what) => apply(insertBeside(textOf(), state.getState().selected?.b ?? null, "after", what)),
    onKey: (e) => {
      if (e.ctrlKey || e.metaKey || e.altKey) return;
      if (/^\d$/.test(e.key) && state.getState().selected) {
        const all = (digits + e.key).slice(-6);
        setMany(Number(all));
        digits = all;
      } else if (Object.hasOwn(keys, e.key)) keys[e.key]!(e.shiftKey);
      else return;
      e.preventDefault();
      e.stopPropagation();
    },
    onDrop: (key, index, side) => {
      const { picture, part, selected } = state.getState();
      const mark = index === null ? null : picture?.marks[index];
      const target = mark && mark.part === part?.id ? beadOf(mark) : null;
      if (key !== null) apply(insertBeside(textOf(), target, side, key));
      else if (selected && target) apply(moveStretch(textOf(), selected.a, selected.b, target, side));
    },
  };
}
