import type { Design } from "../src/contract/index.ts";
import { type GroupStep, parsePattern, type PickStep, type Sequence, type Step } from "../src/shorthand/index.ts";

/** What one strand does, one thing after the other. */
type Event =
  | { type: "pick" | "pass"; key: string; hole: number; mm: number }
  | { type: "room"; strand: number; path: number }
  | { type: "hang"; key: string }
  | { type: "join"; key: string; mm: number }
  | { type: "off"; of: Event[] };

const isUnit = (e: Event | Event[]) => Array.isArray(e) || e.type === "pick";

/**
 * A part's text written out bead by bead, as a person would do it on paper: no multiplication anywhere. The reference
 * that the counting is held against; it knows no sizes, no fits, no chain and no sub-assemblies.
 */
export function writtenOut(design: Design) {
  const part = design.parts[0]!;
  const strands = part.strands ?? 1;
  const along = (key: string) => design.key.find((e) => e.key === key)?.alongMm ?? 0;

  /** A list of what happens; an `each` is a list of its own, so that it can be told from a bead. */
  type Line = (Event | Event[])[];
  const flat = (line: Line): Event[] => line.flat();
  const passing = (line: Line): Line =>
    flat(line).flatMap((e): Event[] => {
      if (e.type === "pick") return [{ ...e, type: "pass" }];
      if (e.type === "off") return [{ type: "off", of: flat(passing(e.of)) }];
      return e.type === "hang" ? [] : [e];
    });

  const pick = ({ n, key, hole }: PickStep): Line =>
    Array.from({ length: n }, () => ({ type: "pick", key, hole, mm: along(key) }));
  const spaced = (line: Line, spacer: PickStep | GroupStep | null): Line => {
    if (!spacer) return line;
    const put: Line = [];
    let begun = false;
    for (const e of line) {
      if (isUnit(e)) {
        if (begun) put.push(...bracketOrPick(spacer));
        begun = true;
      }
      put.push(e);
    }
    return put;
  };
  const bracketOrPick = (step: PickStep | GroupStep): Line =>
    step.type === "pick" ? pick(step) : spaced(sequence(step), step.spaced);
  const sequence = ({ steps }: Sequence): Line => steps.flatMap((step) => of(step));

  function of(step: Step): Line {
    switch (step.type) {
      case "pick":
      case "group":
        return bracketOrPick(step);
      case "repeat": {
        const line: Line = [];
        for (let i = 0; i < step.times.n; i++) {
          if (i > 0 && step.between) line.push(...sequence(step.between));
          line.push(...of(step.step));
        }
        return spaced(line, step.spaced);
      }
      case "pass": {
        const line: Line = [];
        for (let i = 0; i < (step.times?.n ?? 1); i++) line.push(...passing(bracketOrPick(step.step)));
        return [{ type: "off", of: flat(line) }];
      }
      case "mirror": {
        const half = bracketOrPick(step.step);
        const around = step.around ? bracketOrPick(step.around) : [];
        return [...half, ...around, ...bracketOrPick(step.step).reverse()];
      }
      case "fringe": {
        const down = sequence(step.down);
        return [{ type: "off", of: flat([...down, ...passing(sequence(step.down)), ...sequence(step.turn)]) }];
      }
      case "loop":
        return [{ type: "off", of: flat(bracketOrPick(step.step)) }];
      case "hang":
        return step.picks.flatMap((p) => Array.from({ length: p.n }, (): Event => ({ type: "hang", key: p.key })));
      case "space": {
        const mm = step.mm ?? step.pick!.n * along(step.pick!.key);
        return [{ type: "room", strand: mm, path: mm }];
      }
      case "knot":
        return [{ type: "room", strand: step.mm, path: step.takesMm ?? step.mm }];
      case "join": {
        const picks = step.step.type === "pick" ? [step.step] : (step.step.steps as PickStep[]);
        return picks.flatMap((p) =>
          Array.from({ length: p.n }, (): Event => ({ type: "join", key: p.key, mm: along(p.key) })),
        );
      }
      default:
        throw new Error(`${step.type} is not written out here`);
    }
  }

  const counts: Record<string, number> = {};
  const add = (key: string) => {
    counts[key] = (counts[key] ?? 0) + 1;
    return key;
  };
  let [strandMm, pathMm] = [0, 0];
  const segments: { path: number; strung: boolean }[] = [{ path: 0, strung: false }];
  const beads: string[] = [];
  const through = new Map<string, number>();
  const go = (e: Event, onStrand: boolean) => {
    const here = segments.at(-1)!;
    switch (e.type) {
      case "pick":
      case "pass": {
        const hole = `${e.key} ${e.hole}`;
        through.set(hole, (through.get(hole) ?? 0) + strands);
        if (e.type === "pick") {
          add(e.key);
          beads.push(e.key);
          if (onStrand) strandMm += e.mm;
        }
        here.path += e.mm;
        pathMm += e.mm;
        here.strung = true;
        return;
      }
      case "room":
        if (onStrand) strandMm += e.strand;
        here.path += e.path;
        pathMm += e.path;
        here.strung = true;
        return;
      case "hang":
        add(e.key);
        for (const use of design.key.find((k) => k.key === e.key)?.hangsBy ?? [])
          for (let i = 0; i < use.count; i++) add(use.key);
        return;
      case "join":
        add(e.key);
        strandMm += e.mm;
        segments.push({ path: 0, strung: false });
        return;
      case "off":
        here.strung = true;
        e.of.forEach((x) => go(x, false));
        return;
    }
  };
  for (const row of parsePattern(part.steps ?? "").rows) flat(sequence(row)).forEach((e) => go(e, true));
  const passes: Record<string, number> = {};
  for (const [hole, n] of through) {
    const key = hole.split(" ")[0]!;
    const many = beads.filter((b) => b === key).length;
    if (many > 0) passes[key] = Math.max(passes[key] ?? 0, Math.ceil(n / many));
  }
  const cuts = segments.length > 1 ? segments.filter((s) => s.strung) : segments;
  return { counts, strandMm, pathMm, passes, segments: cuts.map((s) => s.path) };
}
