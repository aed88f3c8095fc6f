import { alongStrand } from "../count/index.ts";
import { finishedMm, USUAL_EASE } from "../length/index.ts";
import { type Finder, long } from "./finder.ts";

/**
 * Whether a piece goes round the wrist or neck that its size is for. The finished length must be the body's, the room
 * between, and π × how thick the beads lie, since the strand runs through their middles. Geometry.
 */
export function checkBody(f: Finder) {
  const { design, answer } = f.counting;
  const body = design.sizes?.find((s) => s.key === answer.size)?.bodyMm;
  if (design.about?.sizeMeans !== "body" || !body) return;
  const lengths = f.parts
    .filter(({ part, strung }) => part.as == null && strung.whole.strandMm > 0)
    .map((of) => ({ of, have: finishedMm(f.counting, of.strung) }));
  // What hangs in pieces of their own beside it is not what goes round.
  const longest = lengths.sort((a, b) => b.have - a.have)[0];
  if (!longest) return;
  const { of, have } = longest;
  const keys = [...alongStrand(of.strung.whole).keys()].filter((key) => f.roles.get(key)?.alongMm != null);
  const across = keys.flatMap((key) => {
    const mm = f.ask("body", of, key, "acrossMm");
    return mm === null ? [] : [{ key, mm }];
  });
  const widest = across.sort((a, b) => b.mm - a.mm)[0];
  const key = widest?.key ?? keys[0] ?? of.part.stringing;
  if (key == null) return;
  const ease = design.about.easeMm ?? USUAL_EASE;
  const round = body + Math.PI * (widest?.mm ?? 0);
  // What stretches may lie closer, but not be shorter than what it goes round.
  const stretches = of.part.stringing != null && f.roles.get(of.part.stringing)?.form === "stretch cord";
  const least = stretches ? body : round;
  const what = design.about.kind === "necklace" ? "neck" : design.about.kind === "ring" ? "finger" : "wrist";
  f.found({
    rule: "body",
    key,
    need: round + ease,
    have,
    unit: "mm",
    part: of,
    level: have < least - 0.005 ? "fail" : have < round + ease - 0.005 ? "warn" : "fine",
    message:
      `Round a ${what} of ${long(body)} with ${long(ease)} of room it should be ${long(round + ease)}` +
      `${widest ? `, with beads ${long(widest.mm)} thick (${f.say(key)})` : ` (${f.say(key)})`}; it comes out at ` +
      `${long(have)}.`,
  });
}
