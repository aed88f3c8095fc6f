import type { Trial } from "../contract/index.ts";
import type { Counting } from "../count/index.ts";
import { methodsOf, minutesOf as minutesOfMethod } from "../method/index.ts";

export interface Minutes {
  handsOn: number;
  waiting: number;
  /** From where the hands-on minutes come. */
  from: "model" | "trials" | "said";
  /** What they are made of by the model, in the order in which they weigh. */
  of: { say: string; minutes: number }[];
}

/** Seconds for one of each, by the model of the work: common practice, from memory. Trials replace it. */
const SECONDS = {
  strung: 4,
  stitched: 9,
  pass: 4,
  hung: 25,
  joined: 30,
  cut: 20,
  piece: 40,
};
/** To lay everything out and read the sheet. */
const BEGIN = 5;
/** Glue that sets until the piece can be handled; overnight to wear it. */
const GLUE = 30;

/**
 * Minutes for one finished item. Hands-on: what trials took, else what a person said, else a model of the work, bead by
 * bead. Waiting apart: glue sets while nobody works.
 */
export function minutesFor(counting: Counting, trials: readonly Pick<Trial, "minutes">[] = []): Minutes {
  const { design, parts, timesUsed, answer } = counting;
  const stitched = design.about?.technique === "stitched";
  let [beads, passes, hung, joined, cuts, methods, pieces] = [0, 0, 0, 0, 0, 0, 0];
  let waiting = 0;
  for (const strung of parts) {
    const n = timesUsed.get(strung.part.id) ?? 0;
    if (n === 0) continue;
    for (const p of strung.placings) {
      if (p.how === "hung") hung += n * p.picked;
      else if (p.how === "strung") {
        beads += n * p.picked;
        if (p.picked === 0) passes += n * p.through;
      } else joined += n * p.picked;
    }
    cuts += n * strung.cuts.reduce((sum, c) => sum + c.count, 0);
    pieces += n;
    for (const method of methodsOf(design, strung.part)) {
      const took = minutesOfMethod(method);
      const { each } = method;
      const many = each === null ? 1 : strung.placings.reduce((sum, p) => (p.key === each ? sum + p.picked : sum), 0);
      methods += n * many * took.handsOn;
      waiting = Math.max(waiting, took.waiting);
    }
  }
  const glued = design.key.some(
    (e) => e.form === "glue" && ((answer.counts[e.key] ?? 0) > 0 || (answer.perKit[e.key] ?? 0) > 0),
  );
  if (glued) waiting = Math.max(waiting, GLUE);
  const of = [
    { say: "Picking up beads", minutes: (beads * (stitched ? SECONDS.stitched : SECONDS.strung)) / 60 },
    { say: "Passing through again", minutes: (passes * SECONDS.pass) / 60 },
    { say: "Hanging", minutes: (hung * SECONDS.hung) / 60 },
    { say: "Linking", minutes: (joined * SECONDS.joined) / 60 },
    { say: "Cutting", minutes: (cuts * SECONDS.cut) / 60 },
    { say: "Starting each part", minutes: (pieces * SECONDS.piece) / 60 },
    { say: "Ends, links and knots", minutes: methods },
    { say: "Laying everything out", minutes: BEGIN },
  ]
    .filter((x) => x.minutes > 0)
    .sort((a, b) => b.minutes - a.minutes);
  const model = toFive(of.reduce((sum, x) => sum + x.minutes, 0));
  const tried = trials.flatMap((t) => t.minutes ?? []);
  const mean = tried.length > 0 ? Math.round(tried.reduce((sum, m) => sum + m, 0) / tried.length) : null;
  return {
    handsOn: mean ?? design.minutes ?? model,
    waiting: design.waitMinutes ?? waiting,
    from: mean !== null ? "trials" : design.minutes != null ? "said" : "model",
    of,
  };
}

const toFive = (minutes: number) => Math.max(5, Math.round(minutes / 5) * 5);

/** `45 min hands on, 30 min waiting`; hours from an hour and a half on. */
export function sayMinutes({ handsOn, waiting }: Pick<Minutes, "handsOn" | "waiting">): string {
  const said = (minutes: number) => {
    const n = Math.round(minutes);
    if (n < 90) return `${n} min`;
    return `${Math.floor(n / 60)} h${n % 60 === 0 ? "" : ` ${n % 60} min`}`;
  };
  return waiting > 0 ? `${said(handsOn)} hands on, ${said(waiting)} waiting` : `${said(handsOn)} hands on`;
}
