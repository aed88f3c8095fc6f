import type { Counting, Strung, StrungPartOf } from "../count/index.ts";
import { unreachable } from "../shorthand/index.ts";
import type { Appearance } from "./appearance.ts";
import type { Mark, Picture } from "./picture.ts";
import { Layout, startOf } from "./placing.ts";

/**
 * One thing that a row does, in its order: picks up a bead, passes through one again, or does something off the
 * strand.
 */
type Event =
  | { type: "bead"; mark: Omit<Mark, "x" | "y" | "turn">; alongMm: number }
  | { type: "pass"; key: string }
  | { type: "off"; node: Strung };

const MAX_EVENTS = 20_000;

function eventsOf(node: Strung, part: string, into: Event[], passing = false, back = false): void {
  if (into.length > MAX_EVENTS) return;
  switch (node.type) {
    case "bead":
      for (let i = 0; i < node.n && into.length <= MAX_EVENTS; i++) {
        into.push(
          passing
            ? { type: "pass", key: node.key }
            : {
                type: "bead",
                alongMm: node.alongMm,
                mark: {
                  key: node.key,
                  drawn: node.key,
                  part,
                  from: node.at.from,
                  to: node.at.to,
                  nth: back ? node.n - 1 - i : i,
                  lane: null,
                },
              },
        );
      }
      return;
    case "series":
      return (back ? [...node.items].reverse() : node.items).forEach((item) =>
        eventsOf(item, part, into, passing, back),
      );
    case "spaced": {
      const before = into.length;
      eventsOf(node.item, part, into, passing, back);
      const units = into.splice(before);
      let begun = false;
      for (const event of units) {
        if (event.type === "bead") {
          if (begun) eventsOf(node.spacer, part, into, passing, back);
          begun = true;
        }
        into.push(event);
      }
      return;
    }
    case "times":
      for (let i = 0; i < node.n && into.length <= MAX_EVENTS; i++) {
        if (i > 0 && node.between) eventsOf(node.between, part, into, passing, back);
        const before = into.length;
        eventsOf(node.item, part, into, passing, back);
        if (into.length === before) return; // nothing in it, however often
      }
      return;
    case "mirror":
      eventsOf(node.item, part, into, passing, back);
      if (node.around) eventsOf(node.around, part, into, passing, back);
      return eventsOf(node.item, part, into, passing, !back);
    case "pass":
      for (let i = 0; i < node.times && into.length <= MAX_EVENTS; i++) eventsOf(node.item, part, into, true, back);
      return;
    case "each":
      return node.branches[0] && eventsOf(node.branches[0], part, into, passing, back);
    case "join":
      return node.beads.forEach((item) => eventsOf(item, part, into, passing, back));
    case "fringe":
    case "loop":
    case "hang":
    case "rest":
      if (!passing) into.push({ type: "off", node });
      return;
    case "space":
    case "knot":
    case "links":
      return;
    default:
      return unreachable(node);
  }
}

/**
 * Whether a part's first row closes to a ring: a later row passes through its beads, and either picks up more on the
 * way (a round on it) or only goes through its first beads again (closing it). A schematic reading: rows don't say so
 * in words.
 */
export function closesToRing(part: StrungPartOf): boolean {
  const [first, ...later] = part.rows;
  if (!first || later.length === 0 || (part.part.strands ?? 1) > 1) return false;
  const base: Event[] = [];
  eventsOf(first.strung, "", base);
  const beads = base.filter((e) => e.type === "bead");
  if (beads.length < 3 || base.some((e) => e.type === "off")) return false;
  const keys = new Set(beads.map((b) => b.mark.key));
  return later.some((row) => {
    const events: Event[] = [];
    eventsOf(row.strung, "", events);
    const passes = events.filter((e) => e.type === "pass");
    // A pass through a bead that the row itself picks up goes back along the row, not round to the first.
    const own = new Set(events.flatMap((e) => (e.type === "bead" ? [e.mark.key] : [])));
    return (
      passes.some((p) => keys.has(p.key) && !own.has(p.key)) &&
      // A row that only passes through as many beads as there are goes back through them.
      (events.length > passes.length || (passes[0]!.key === beads[0]!.mark.key && passes.length < beads.length))
    );
  });
}

/**
 * Radius of the circle on which beads of these lengths lie, hole to hole, as chords: the r for which 2·asin(aᵢ ÷
 * 2r) add up to a full turn. For n beads of length a that is a ÷ (2·sin(π ÷ n)), a little less than n·a ÷ 2π
 * (plane geometry).
 */
export function ringRadius(lengths: readonly number[]): number {
  const sum = lengths.reduce((a, b) => a + b, 0);
  const longest = Math.max(...lengths);
  const turn = (r: number) => lengths.reduce((t, a) => t + 2 * Math.asin(Math.min(1, a / (2 * r))), 0);
  // A bead longer than all the others together leaves no ring: then it is a diameter.
  let [low, high] = [longest / 2, Math.max(sum / 2, longest)];
  if (turn(low) < 2 * Math.PI) return low;
  for (let i = 0; i < 60; i++) {
    const r = (low + high) / 2;
    if (turn(r) > 2 * Math.PI) low = r;
    else high = r;
  }
  return (low + high) / 2;
}

interface Placed {
  /** Clockwise from the top, radians; grows round after round. */
  angle: number;
  radius: number;
}

const FULL = 2 * Math.PI;

/** Placed beads of each key, by their angle within one turn: of several at one angle the outermost. */
class Rail {
  private readonly beads = new Map<string, Placed[]>();
  private readonly fresh: [string, Placed][] = [];

  add(key: string, placed: Placed) {
    this.fresh.push([key, placed]);
  }

  /** Takes in what was added: a round finds only the beads of the rounds before it. */
  close() {
    const changed = new Set<string>();
    for (const [key, { angle, radius }] of this.fresh) {
      const list = this.beads.get(key) ?? [];
      this.beads.set(key, list);
      list.push({ angle: angle % FULL, radius });
      changed.add(key);
    }
    this.fresh.length = 0;
    for (const key of changed) {
      const sorted = this.beads.get(key)!.sort((a, b) => a.angle - b.angle || b.radius - a.radius);
      this.beads.set(
        key,
        sorted.filter((bead, i) => i === 0 || bead.angle - sorted[i - 1]!.angle > 1e-6),
      );
    }
  }

  /** The next bead of a key, clockwise from an angle. */
  next(key: string, angle: number): Placed | null {
    const list = this.beads.get(key);
    if (!list || list.length === 0) return null;
    const turns = Math.floor(angle / FULL);
    const within = angle - turns * FULL;
    let [low, high] = [0, list.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (list[middle]!.angle > within + 1e-6) high = middle;
      else low = middle + 1;
    }
    const found = list[low] ?? list[0]!;
    const around = low < list.length ? turns : turns + 1;
    return { angle: found.angle + around * FULL, radius: found.radius };
  }
}

/** The first row closed to a ring, later rows in their places around it as far as the passes tell: a schematic. */
export function layRing(
  counting: Counting,
  part: StrungPartOf,
  looks: ReadonlyMap<string, Appearance>,
  most: number,
): Picture {
  const layout = new Layout(counting, looks, most, false, "ring");
  const { picture } = layout;
  const [first, ...later] = part.rows;
  const base: Event[] = [];
  eventsOf(first!.strung, part.part.id, base);
  const beads = base.filter((e) => e.type === "bead");
  const radius = ringRadius(beads.map((b) => b.alongMm || 0.1));
  const rail = new Rail();
  const at = (angle: number, r: number) => ({ x: r * Math.sin(angle), y: -r * Math.cos(angle) });
  let behind = false;
  const put = (event: Extract<Event, { type: "bead" }>, angle: number, r: number, turn = (angle * 180) / Math.PI) => {
    if (picture.marks.length >= most) return void picture.leftOut++;
    // Written out: a spread here took most of the time of a large ring.
    const { key, part: of, from, to, nth } = event.mark;
    const drawn = layout.drawn(key, counting.roles.get(key));
    const look = looks.get(drawn);
    // A stone too wide to stand between beads of the ring sits within it.
    const held = look !== undefined && look.acrossMm > 1.2 * radius && beads.length > 5;
    const spot = held ? { x: 0, y: 0 } : at(angle, r);
    const mark: Mark = { key, drawn, x: spot.x, y: spot.y, turn: held ? 0 : turn, part: of, from, to, nth, lane: null };
    if (behind) mark.behind = true;
    picture.marks.push(mark);
    picture.path.push(spot);
    rail.add(key, { angle, radius: r });
  };
  let angle = 0;
  for (const bead of base) {
    if (bead.type === "off") {
      // It hangs from between two beads of the ring.
      const spot = at(angle, radius);
      layout.place(bead.node, { ...startOf(part.part.id, 0), ...spot });
      continue;
    }
    if (bead.type === "pass") continue;
    const wide = 2 * Math.asin(Math.min(1, (bead.alongMm || 0.1) / (2 * radius)));
    // The bead's middle lies on its chord, a little inside the circle of the holes.
    put(bead, angle + wide / 2, radius * Math.cos(wide / 2));
    angle += wide;
  }

  let here: Placed = { angle: 0, radius };
  for (const row of later) {
    const events: Event[] = [];
    eventsOf(row.strung, part.part.id, events);
    behind = row.behind;
    // Each round begins where the thread comes out, and looks on clockwise from there.
    let start: Placed = { ...here, angle: here.angle % FULL };
    rail.close();
    let pending: Extract<Event, { type: "bead" }>[] = [];
    const arch = (to: Placed) => {
      if (pending.length === 0) return;
      const span = to.angle - start.angle;
      const outer = Math.max(start.radius, to.radius);
      const half = (p: (typeof pending)[number]) => (looks.get(p.mark.key)?.acrossMm ?? p.alongMm) / 2;
      const lift = Math.max(...pending.map(half)) + 0.8;
      const chord = Math.max(span * outer, 0.1);
      const long = pending.reduce((s, p) => s + p.alongMm, 0);
      // An arc longer than its chord bows out: L ≈ c + 8h²/3c, for a shallow one.
      const bow = long > chord ? Math.min(Math.sqrt((3 * chord * (long - chord)) / 8), long / 2) : 0;
      let along = 0;
      for (const p of pending) {
        const share = (along + p.alongMm / 2) / Math.max(long, 0.1);
        along += p.alongMm;
        const lean = (Math.cos(Math.PI * share) * bow * Math.PI) / Math.max(long, 1);
        put(
          p,
          start.angle + span * share,
          outer + lift + bow * Math.sin(Math.PI * share),
          ((start.angle + span * share) * 180) / Math.PI - (Math.atan(lean) * 180) / Math.PI,
        );
      }
      pending = [];
    };
    for (const event of events) {
      if (event.type === "bead") pending.push(event);
      else if (event.type === "pass") {
        const next = rail.next(event.key, start.angle);
        if (!next) continue;
        arch(next);
        picture.path.push(at(next.angle, next.radius));
        start = next;
      } else {
        const spot = at(start.angle, start.radius);
        layout.place(event.node, { ...startOf(part.part.id, 0), x: spot.x, y: spot.y + 2 });
      }
    }
    // Beads after the last pass stand out from where the thread is.
    let out = start.radius + 1;
    for (const p of pending) {
      put(p, start.angle, out + p.alongMm / 2, (start.angle * 180) / Math.PI + 90);
      out += p.alongMm;
    }
    here = start;
  }
  // A stone that the part takes and no row strings is held in the middle of its ring.
  for (const use of part.part.uses ?? []) {
    const entry = counting.design.key.find((e) => e.key === use.key);
    const look = looks.get(use.key);
    if (entry?.kind !== "focal" || !look || use.forEach != null) continue;
    const { alongMm, acrossMm } = look;
    if (Math.max(alongMm, acrossMm) < radius || Math.min(alongMm, acrossMm) > 2.6 * radius) continue;
    picture.fittings.unshift({ key: use.key, shape: look.shape, x: 0, y: 0, turn: 0, alongMm, acrossMm });
  }
  picture.strandMm = part.whole.strandMm;
  layout.measure();
  return picture;
}
