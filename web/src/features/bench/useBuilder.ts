import {
  type BeadAt,
  beadsBetween,
  between,
  bySizeStretch,
  copyRow,
  describeStretch,
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
} from "@jar-count/core/builder";
import type { Design, Part } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import type { Mark, Picture } from "@jar-count/core/picture";
import { useCallback, useLayoutEffect, useMemo, useRef, useState } from "react";
import type { Building } from "../../ui/StrandPicture.tsx";

interface Options {
  design: Design;
  part: Part | undefined;
  picture: Picture | null;
  size: string | null;
  option: string | null;
  sizes: readonly string[];
  onText: (text: string) => void;
}

export type Act = "repeat" | "mirror" | "fringe" | "loop" | "pass" | "size" | "remove" | "copy row";

export interface Builder {
  building: Building;
  /** The chosen stretch as text, or null. */
  chosen: { text: string; from: number; to: number; beads: number } | null;
  /** Beads of more than one row are chosen, which is no stretch. */
  across: boolean;
  fault: string | null;
  act: (what: Act, n?: number) => void;
  /** Puts a key after the chosen bead, or at the end. */
  put: (what: string) => void;
  /** Changes how many the pick at hand is. */
  setMany: (n: number) => void;
  clear: () => void;
}

const beadOf = (mark: Mark): BeadAt => ({ at: mark.from, nth: mark.nth });

/**
 * Building by pointing, over the same text: a stretch of beads is chosen on the strand, and what is done to it
 * becomes a small edit of the rows. An edit that would bring an error is not made, and its error is told.
 */
export function useBuilder({ design, part, picture, size, option, sizes, onText }: Options): Builder {
  const [stretch, setStretch] = useState<{ part: string; text: string; a: BeadAt; b: BeadAt; cursor: number } | null>(
    null,
  );
  const [fault, setFault] = useState<string | null>(null);
  const [typed, setTyped] = useState("");
  const text = part?.steps ?? "";
  const held = stretch?.part === part?.id && stretch?.text === text ? stretch : null;
  const marks = useMemo(
    () => picture?.marks.flatMap((m, i) => (m.part === part?.id ? [i] : [])) ?? [],
    [picture, part?.id],
  );

  const apply = (edited: Edited) => {
    if (!part) return;
    if ("fault" in edited) return setFault(edited.fault);
    const wrong = (steps: string) =>
      countWhole(
        { ...design, parts: design.parts.map((p) => (p.id === part.id ? { ...p, steps } : p)) },
        { size, option },
      ).answer.problems.filter((p) => p.level === "error" && p.part === part.id);
    const errors = wrong(edited.text);
    if (errors.length > wrong(text).length) return setFault(errors[0]!.message);
    setFault(null);
    setTyped("");
    onText(edited.text);
    const now = beadsBetween(edited.text, edited.from, edited.to);
    setStretch(now && { part: part.id, text: edited.text, a: now.first, b: now.last, cursor: -1 });
  };

  const choose = (index: number, extend: boolean) => {
    const mark = picture?.marks[index];
    if (!mark || !part || mark.part !== part.id) return;
    const bead = beadOf(mark);
    setFault(null);
    setTyped("");
    setStretch(
      extend && held ? { ...held, b: bead, cursor: index } : { part: part.id, text, a: bead, b: bead, cursor: index },
    );
  };
  const step = (by: number, extend: boolean) => {
    if (marks.length === 0) return;
    const known = held
      ? marks.findIndex((i) =>
          held.cursor >= 0
            ? i === held.cursor
            : picture!.marks[i]!.from === held.b.at && picture!.marks[i]!.nth === held.b.nth,
        )
      : -1;
    const next = known < 0 ? (by > 0 ? 0 : marks.length - 1) : Math.max(0, Math.min(marks.length - 1, known + by));
    choose(marks[next]!, extend && held !== null);
  };
  const act = (what: Act, n = 2) => {
    if (what === "copy row") return apply(copyRow(text, held?.a.at ?? text.length));
    if (!held) return setFault("Choose beads on the strand first: click one, then hold shift and click another.");
    const { a, b } = held;
    const edit: Record<Exclude<Act, "copy row">, () => Edited> = {
      repeat: () => repeatStretch(text, a, b, n),
      mirror: () => mirrorStretch(text, a, b),
      fringe: () => fringeStretch(text, a, b),
      loop: () => loopStretch(text, a, b),
      pass: () => passStretch(text, a, b),
      size: () => bySizeStretch(text, a, b, sizes),
      remove: () => removeStretch(text, a, b),
    };
    apply(edit[what]());
  };
  const put = (what: string) => apply(insertBeside(text, held?.b ?? null, "after", what));
  const setMany = (n: number) => held && apply(setCount(text, held.b, n));

  const onKey = (e: React.KeyboardEvent) => {
    if (e.ctrlKey || e.metaKey || e.altKey) return;
    const keys: Record<string, () => void> = {
      ArrowRight: () => step(1, e.shiftKey),
      ArrowDown: () => step(1, e.shiftKey),
      ArrowLeft: () => step(-1, e.shiftKey),
      ArrowUp: () => step(-1, e.shiftKey),
      Home: () => marks[0] !== undefined && choose(marks[0], e.shiftKey),
      End: () => marks.length > 0 && choose(marks.at(-1)!, e.shiftKey),
      Escape: () => setStretch(null),
      Delete: () => act("remove"),
      Backspace: () => act("remove"),
      m: () => act("mirror"),
      r: () => act("repeat"),
      f: () => act("fringe"),
      l: () => act("loop"),
      p: () => act("pass"),
    };
    if (/^\d$/.test(e.key) && held) {
      // Digits one after another make one number.
      const all = (typed + e.key).slice(-6);
      setMany(Number(all));
      setTyped(all);
    } else if (Object.hasOwn(keys, e.key)) keys[e.key]!();
    else return;
    e.preventDefault();
    e.stopPropagation();
  };
  const onDrop: Building["onDrop"] = (key, index, side) => {
    const target = index === null ? null : picture?.marks[index];
    if (key !== null)
      return apply(insertBeside(text, target && target.part === part?.id ? beadOf(target) : null, side, key));
    if (held && target && target.part === part?.id) apply(moveStretch(text, held.a, held.b, beadOf(target), side));
  };

  // The picture keeps the same hands while the beads stay: only what is chosen draws it anew.
  const hands = useRef({ choose, onKey, onDrop });
  useLayoutEffect(() => {
    hands.current = { choose, onKey, onDrop };
  });
  const isChosen = useCallback(
    (m: Mark) => held !== null && m.part === held.part && between(beadOf(m), held.a, held.b),
    [held],
  );
  const building = useMemo<Building>(
    () => ({
      isChosen,
      onChoose: (i, extend) => hands.current.choose(i, extend),
      onKey: (e) => hands.current.onKey(e),
      onDrop: (...how) => hands.current.onDrop(...how),
    }),
    [isChosen],
  );
  const chosen = useMemo(() => {
    const said = held && describeStretch(text, held.a, held.b);
    return said && { ...said, beads: picture?.marks.filter(isChosen).length ?? 0 };
  }, [held, text, picture, isChosen]);
  return {
    building,
    chosen,
    across: held !== null && chosen === null,
    fault,
    act,
    put,
    setMany,
    clear: () => setStretch(null),
  };
}
