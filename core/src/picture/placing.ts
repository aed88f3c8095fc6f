import { childrenOf, type Counting, type Role, type Strung, unitsOf } from "../count/index.ts";
import { unreachable } from "../shorthand/index.ts";
import type { Appearance } from "./appearance.ts";
import type { Mark, Picture } from "./picture.ts";

const MAX_STEPS = 50_000;

interface Spot {
  x: number;
  y: number;
  turn: number;
  part: string;
  /** Laid last to first: the second half of a mirror. */
  back: boolean;
  depth: number;
  lane: number | null;
}

export class Layout {
  readonly picture: Picture = {
    marks: [],
    links: [],
    coils: [],
    threads: [],
    form: "strip",
    path: [],
    strandMm: 0,
    left: 0,
    right: 0,
    top: 0,
    bottom: 0,
    leftOut: 0,
  };
  across = 2;
  lanes = 1;
  private steps = 0;
  /** What is spaced where the layout stands, outermost first, and whether a bead of it was placed already. */
  private spacers: { spacer: Strung; begun: boolean }[] = [];
  private readonly mixed = new Map<string, number[]>();
  /** How deep what hangs at a place already reaches, so that the next thing hangs below it. */
  private hung = { x: NaN, y: NaN, depth: 0 };

  constructor(
    readonly counting: Counting,
    readonly looks: ReadonlyMap<string, Appearance>,
    readonly most: number,
  ) {}

  /** Places a node at a spot and returns how far along the thread it went, mm. */
  place(node: Strung, spot: Spot): number {
    this.steps++;
    switch (node.type) {
      case "bead":
        return this.beads(node, spot);
      case "space":
      case "knot":
        return node.strandMm;
      case "links":
        return this.chain(node.n, node.n > 0 ? node.strandMm / node.n : 0, spot);
      case "join": {
        let mm = 0;
        for (const item of spot.back ? [...node.beads].reverse() : node.beads)
          mm += this.place(item, forward(spot, mm));
        return mm;
      }
      case "rest":
        this.one(node.key, this.counting.roles.get(node.key), node.at, spot, node.strandMm, 0);
        return node.strandMm;
      case "spaced": {
        this.spacers.push({ spacer: node.spacer, begun: false });
        this.place(node.item, spot);
        this.spacers.pop();
        return node.strandMm;
      }
      case "series": {
        let mm = 0;
        const items = spot.back ? [...node.items].reverse() : node.items;
        for (const item of items) mm += this.place(item, forward(spot, mm));
        return mm;
      }
      case "times":
        return this.repeated(node, spot);
      case "mirror": {
        let mm = this.place(node.item, spot);
        if (node.around) mm += this.place(node.around, forward(spot, mm));
        return mm + this.place(node.item, { ...forward(spot, mm), back: !spot.back });
      }
      case "each": {
        const before = node.branches.some((b) => unitsOf(b) > 0) ? this.spacer(spot, this.spacers.length) : 0;
        const held = this.spacers.splice(0);
        const at = forward(spot, before);
        for (let lane = 0; lane < node.strands; lane++) {
          const branch = node.branches.length === 1 ? node.branches[0]! : node.branches[lane];
          if (branch) this.place(branch, { ...sideways(at, this.laneY(lane)), lane });
        }
        this.spacers.push(...held);
        return before + node.strandMm;
      }
      case "fringe":
      case "loop":
      case "hang": {
        // What stands off the strand is not spaced by what is spaced along it.
        const held = this.spacers.splice(0);
        const mm = this.offStrand(node, spot);
        this.spacers.push(...held);
        return mm;
      }
      case "pass":
        return 0;
    }
  }

  private offStrand(node: Extract<Strung, { type: "fringe" | "loop" | "hang" }>, spot: Spot): number {
    switch (node.type) {
      case "fringe": {
        const from = this.hangFrom(spot);
        const down = this.place(node.down, from);
        const turned = this.ring(node.turn, forward(from, down));
        this.thread(from, forward(from, down + turned));
        this.reached(spot, from, down + turned);
        return 0;
      }
      case "loop": {
        const from = this.hangFrom(spot);
        this.reached(spot, from, this.ring(node.item, from));
        return 0;
      }
      case "hang": {
        const mm = node.onChain ? this.chain(1, node.strandMm, spot) : 0;
        for (const { key, n, at } of node.hung)
          for (let i = 0; i < n && !this.full(n - i); i++) this.hang(key, at, forward(spot, mm / 2));
        return mm;
      }
    }
  }

  private beads(node: Extract<Strung, { type: "bead" }>, spot: Spot): number {
    const role = this.counting.roles.get(node.key);
    let mm = 0;
    for (let i = 0; i < node.n; i++) {
      if (this.full(node.n - i)) break;
      mm += this.spacer(forward(spot, mm), this.spacers.length);
      this.one(node.key, role, node.at, forward(spot, mm), node.alongMm, spot.back ? node.n - 1 - i : i);
      mm += node.alongMm;
    }
    return Math.max(mm, node.strandMm);
  }

  /**
   * What stands before the next bead because something is spaced around it: of several, the innermost nearest the bead
   * before. Returns how far along the thread that went, mm.
   */
  private spacer(spot: Spot, level: number): number {
    if (level === 0) return 0;
    const of = this.spacers[level - 1]!;
    let mm = 0;
    if (of.begun) {
      // The spacer's own beads are spaced by what lies further out only.
      const inner = this.spacers.splice(level - 1);
      mm += this.place(of.spacer, spot);
      this.spacers.push(...inner);
    }
    of.begun = true;
    return mm + this.spacer(forward(spot, mm), level - 1);
  }

  /** One bead, or one sub-assembly in its slot of `slotMm`. */
  private one(
    key: string,
    role: Role | undefined,
    at: { from: number; to: number },
    spot: Spot,
    slotMm: number,
    nth: number,
  ) {
    this.steps++;
    if (role?.type === "sub") {
      const inner = this.counting.parts.find((p) => p.part === role.part);
      if (!inner || spot.depth >= 32) return;
      const own = inner.whole.strandMm;
      const inside = { ...spot, part: role.part.id, depth: spot.depth + 1 };
      if (own <= slotMm + 0.001) this.place(inner.whole, forward(inside, (slotMm - own) / 2));
      else this.place(inner.whole, { ...forward(inside, slotMm / 2), turn: 90, back: false });
      return;
    }
    const middle = forward(spot, slotMm / 2);
    this.picture.marks.push({
      key,
      drawn: this.drawn(key, role),
      x: middle.x,
      y: middle.y,
      turn: spot.turn,
      part: spot.part,
      from: at.from,
      to: at.to,
      nth,
      lane: spot.lane,
    });
  }

  /** Which member stands for the next bead of a mix: the one furthest behind its share. */
  drawn(key: string, role: Role | undefined): string {
    if (role?.type !== "mix" || role.members.length === 0) return key;
    const used = this.mixed.get(key) ?? role.members.map(() => 0);
    this.mixed.set(key, used);
    const n = used.reduce((sum, u) => sum + u, 0) + 1;
    let next = 0;
    role.members.forEach((m, i) => {
      if (m.share * n - used[i]! > role.members[next]!.share * n - used[next]! + 1e-9) next = i;
    });
    used[next]!++;
    return role.members[next]!.key;
  }

  private repeated(node: Extract<Strung, { type: "times" }>, spot: Spot): number {
    const marks = marksIn(node.item) + (node.between ? marksIn(node.between) : 0);
    if (marks === 0) return node.strandMm;
    // What has no length on the strand hangs side by side instead of in one place.
    const spread = node.item.strandMm === 0 && (node.between?.strandMm ?? 0) === 0 ? this.widthOf(node.item) : 0;
    let mm = 0;
    for (let i = 0; i < node.n; i++) {
      if (this.full((node.n - i) * marks)) return node.strandMm;
      if (i > 0 && node.between) mm += this.place(node.between, forward(spot, mm));
      const aside = spread === 0 ? 0 : (i - (node.n - 1) / 2) * spread;
      mm += this.place(node.item, aside === 0 ? forward(spot, mm) : { ...forward(spot, mm), x: spot.x + aside });
    }
    return mm;
  }

  private widthOf(node: Strung): number {
    let width = 1;
    // A sub-assembly is measured once: one that hangs from itself would never end.
    const seen = new Set<unknown>();
    const visit = (n: Strung) => {
      if (n.type === "bead") width = Math.max(width, this.looks.get(n.key)?.acrossMm ?? n.alongMm);
      else if (n.type === "hang") {
        for (const { key } of n.hung) {
          const role = this.counting.roles.get(key);
          const inner = role?.type === "sub" ? this.counting.parts.find((p) => p.part === role.part) : undefined;
          if (inner && !seen.has(inner)) {
            seen.add(inner);
            visit(inner.whole);
          }
          width = Math.max(width, this.looks.get(key)?.alongMm ?? 3);
        }
      } else if (n.type === "loop") width = Math.max(width, n.pathMm / Math.PI + 2);
      // What is passed through again is drawn where it was picked up.
      else if (n.type !== "pass") childrenOf(n).forEach(visit);
    };
    visit(node);
    return width + 0.6;
  }

  private hang(key: string, at: { from: number; to: number }, spot: Spot) {
    this.steps++;
    if (this.full(1)) return;
    const role = this.counting.roles.get(key);
    const from = this.hangFrom(spot);
    if (role?.type === "sub") {
      const inner = this.counting.parts.find((p) => p.part === role.part);
      if (!inner || spot.depth >= 32) return;
      const reach = this.place(inner.whole, { ...from, part: role.part.id, depth: spot.depth + 1, back: false });
      this.thread(spot, forward(from, reach));
      this.reached(spot, from, reach);
      return;
    }
    const look = this.looks.get(this.drawn(key, role));
    const tall = look?.acrossMm ?? 4;
    this.picture.marks.push({
      key,
      drawn: this.drawn(key, role),
      x: from.x,
      y: from.y + tall / 2 + 0.5,
      turn: 0,
      part: spot.part,
      ...at,
      nth: 0,
      lane: null,
    });
    this.reached(spot, from, tall + 1);
  }

  /** Where the next hanging thing starts: below the strand, and below what hangs at the same place already. */
  private hangFrom(spot: Spot): Spot {
    const same = Math.abs(this.hung.x - spot.x) < 0.01 && this.hung.y === spot.y;
    return { ...spot, turn: 90, y: spot.y + (same ? this.hung.depth : 1.2), back: false };
  }

  private reached(spot: Spot, from: Spot, mm: number) {
    this.hung = { x: spot.x, y: spot.y, depth: from.y + mm - spot.y };
  }

  /** Beads round a ring below a spot; few beads simply hang in line. Answers how far down it reaches, mm. */
  private ring(node: Strung, spot: Spot): number {
    const before = this.picture.marks.length;
    const length = this.place(node, spot);
    const placed = this.picture.marks.slice(before);
    if (placed.length < 3 || length <= 0) return length;
    const radius = length / (2 * Math.PI);
    for (const mark of placed) {
      const along = mark.y - spot.y;
      const angle = (along / length) * 2 * Math.PI - Math.PI / 2;
      mark.x = spot.x + radius * Math.cos(angle);
      mark.y = spot.y + radius + radius * Math.sin(angle);
      mark.turn = (angle * 180) / Math.PI + 90;
    }
    return 2 * radius;
  }

  private chain(n: number, lengthMm: number, spot: Spot): number {
    for (let i = 0; i < n && this.picture.links.length < this.most; i++) {
      const middle = forward(spot, (i + 0.5) * lengthMm);
      this.picture.links.push({ x: middle.x, y: middle.y, lengthMm });
    }
    return n * lengthMm;
  }

  private thread(from: Spot, to: Spot) {
    this.picture.threads.push({ x1: from.x, y1: from.y, x2: to.x, y2: to.y });
  }

  /** Whether nothing more can be drawn: too many marks, or too long a way to find few (repeats of links, say). */
  private full(more: number): boolean {
    if (this.picture.marks.length < this.most && this.steps < MAX_STEPS) return false;
    this.picture.leftOut += more;
    return true;
  }

  laneY(lane: number): number {
    return (lane - (this.lanes - 1) / 2) * this.across;
  }

  include(mark: Mark) {
    const look = this.looks.get(mark.drawn);
    const reach = look ? Math.max(look.alongMm, look.acrossMm) / 2 : 2;
    this.stretch(mark.x - reach, mark.y - reach, mark.x + reach, mark.y + reach);
  }

  stretch(left: number, top: number, right: number, bottom: number) {
    const p = this.picture;
    p.left = Math.min(p.left, left);
    p.top = Math.min(p.top, top);
    p.right = Math.max(p.right, right);
    p.bottom = Math.max(p.bottom, bottom);
  }
}

// Written out, as this is done for every bead and a spread here took half the time of the whole picture.
const shifted = ({ x, y, turn, part, back, depth, lane }: Spot, dx: number, dy: number): Spot => ({
  x: x + dx,
  y: y + dy,
  turn,
  part,
  back,
  depth,
  lane,
});
const forward = (spot: Spot, mm: number) => (spot.turn === 90 ? shifted(spot, 0, mm) : shifted(spot, mm, 0));
const sideways = (spot: Spot, mm: number) => (spot.turn === 90 ? shifted(spot, mm, 0) : shifted(spot, 0, mm));

/** How many marks a node draws: 0 is what matters, so that repeats of nothing are never gone through one by one. */
function marksIn(node: Strung): number {
  switch (node.type) {
    case "bead":
      return node.n;
    case "hang":
      return node.hung.reduce((sum, h) => sum + h.n, 0);
    case "join":
      return node.beads.reduce((sum, b) => sum + marksIn(b), 0);
    case "rest":
    case "links":
      return 1;
    case "space":
    case "knot":
    case "pass":
      return 0;
    case "series":
      return node.items.reduce((sum, item) => sum + marksIn(item), 0);
    case "times":
      return node.n * (marksIn(node.item) + (node.between ? marksIn(node.between) : 0));
    case "mirror":
      return 2 * marksIn(node.item) + (node.around ? marksIn(node.around) : 0);
    case "spaced":
      return marksIn(node.item) + node.gaps * marksIn(node.spacer);
    case "each":
      return node.branches.reduce((sum, branch) => sum + marksIn(branch), 0);
    case "fringe":
      return marksIn(node.down) + marksIn(node.turn);
    case "loop":
      return marksIn(node.item);
    default:
      return unreachable(node);
  }
}
