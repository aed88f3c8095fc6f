import {
  apartMm,
  childrenOf,
  type Counting,
  type Role,
  type Strung,
  type StrungPartOf,
  unitsOf,
} from "../count/index.ts";
import { unreachable } from "../shorthand/index.ts";
import { type Appearance, hungKey, isTopDrilled } from "./appearance.ts";
import { AT_ENDS, AT_TOP, fittingOf, fittingSize } from "./fittings.ts";
import { type Taken, takenBy } from "./taken.ts";
import { laidOf } from "./laid.ts";
import { type FittingShape, type Line, type Mark, type Picture, emptyPicture, reach } from "./picture.ts";
import { layRing } from "./ring.ts";

const MAX_STEPS = 50_000;
/** How far below the middle of the strand what hangs begins, and how far apart things hang side by side, mm. */
const [BELOW_MM, ASIDE_MM] = [0.8, 0.6];

export interface Spot {
  x: number;
  y: number;
  /** 0: the thread runs to the right; 90: downwards. */
  turn: number;
  part: string;
  /** Laid last to first: the second half of a mirror, and what rises. */
  back: boolean;
  depth: number;
  lane: number | null;
  /** Where along the strand this hangs from; undefined on the strand itself. */
  hangsAt: number | undefined;
}

export const startOf = (part: string, turn: 0 | 90, back = false): Spot => ({
  x: 0,
  y: 0,
  turn,
  part,
  back,
  depth: 0,
  lane: null,
  hangsAt: undefined,
});

/** How many of each list of the picture there were: what was put since is what lies behind. */
interface Since {
  marks: number;
  fittings: number;
  links: number;
  lines: number;
}

/** What hangs from one place, side by side. */
interface Cluster {
  x: number;
  y: number;
  /** One that hangs crosswise stays under the middle: what hangs beside it hangs before it. */
  members: { from: Since; to: Since; left: number; right: number; dx: number; crosswise: boolean }[];
}

/** How the strands of the part at hand lie. */
interface Frame {
  lanes: number;
  across: number;
  /** From where to where strands run apart or through one bead, and where no thread is because something is joined. */
  traces: { from: number; to: number; how: "apart" | "together" | "joined" }[];
}

export class Layout {
  readonly picture: Picture;
  private frame: Frame = { lanes: 1, across: 2, traces: [] };
  private steps = 0;
  /** What is spaced where the layout stands, outermost first, and whether a bead of it was placed already. */
  private spacers: { spacer: Strung; begun: boolean }[] = [];
  private readonly mixed = new Map<string, number[]>();
  private cluster: Cluster | null = null;
  private asides = 0;

  constructor(
    readonly counting: Counting,
    readonly looks: ReadonlyMap<string, Appearance>,
    readonly most: number,
    /** Whether strands of a braid are laid round one another. */
    readonly braids = false,
    form: Picture["form"] = "strip",
  ) {
    this.picture = emptyPicture(form);
  }

  /**
   * Lays a part along a spot: its rows one after the other, its thread, and the findings that it takes. Returns how
   * far along the thread it went, mm.
   */
  strand(strung: StrungPartOf, spot: Spot): number {
    const outer = { frame: this.frame, cluster: this.cluster, spacers: this.spacers };
    // Strands are told apart, however thick they are.
    const thread = strung.part.stringing == null ? 0 : this.thickness(strung.part.stringing) * 1.25;
    const across = Math.max(laneGap(strung.whole, this.looks), thread);
    this.frame = { lanes: strung.part.strands ?? 1, across, traces: [] };
    this.cluster = null;
    this.spacers = [];
    const from = this.since();
    let mm = 0;
    for (const row of spot.back ? [...strung.rows].reverse() : strung.rows) {
      const first = this.picture.marks.length;
      mm += this.place(row.strung, forward(spot, mm));
      if (row.behind) for (const mark of this.picture.marks.slice(first)) mark.behind = true;
    }
    const ratio = strung.part.finishedRatio ?? 1;
    // Bare strands have nothing on them that would show how they lie round one another.
    const braided = this.braids && isBraid(strung) && this.rope(from.marks, spot, strung.part.strands!, ratio);
    if (!braided) this.threads(strung, spot, mm);
    if (this.braids && ratio !== 1) mm = this.squeeze(from, spot, mm, ratio);
    this.ends(takenBy(strung.part, this.counting), spot, mm);
    [this.frame, this.cluster, this.spacers] = [outer.frame, outer.cluster, outer.spacers];
    return mm;
  }

  /** Places a node at a spot and returns how far along the thread it went, mm. */
  place(node: Strung, spot: Spot): number {
    this.steps++;
    switch (node.type) {
      case "bead":
        return this.beads(node, spot);
      case "space":
        if (this.stringing(spot.part) === null && node.strandMm > 0) this.line(null, 1, spot, node.strandMm);
        return node.strandMm;
      case "knot": {
        const key = this.stringing(spot.part);
        const size = Math.max(node.strandMm, 2);
        this.fit("knot", key, forward(spot, node.strandMm / 2), size, Math.max(2, 2.2 * this.thickness(key)));
        if (spot.lane === null && this.frame.lanes > 1) this.trace(spot, node.strandMm, "together");
        return node.strandMm;
      }
      case "links":
        return this.chain(node.n, node.n > 0 ? node.strandMm / node.n : 0, spot);
      case "fringe":
      case "loop":
      case "hang": {
        // What stands off the strand is not spaced by what is spaced along it.
        const held = this.spacers.splice(0);
        const mm = this.offStrand(node, spot);
        this.spacers.push(...held);
        return mm;
      }
      case "join": {
        let mm = 0;
        for (const item of spot.back ? [...node.beads].reverse() : node.beads)
          mm += this.place(item, forward(spot, mm));
        this.trace(spot, mm, "joined");
        return mm;
      }
      case "rest":
        this.one(node.key, this.counting.roles.get(node.key), node.at, spot, node.strandMm, 0);
        this.trace(spot, node.strandMm, "joined");
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
        this.trace(at, node.strandMm, "apart");
        return before + node.strandMm;
      }
      case "pass":
        return 0;
      default:
        return unreachable(node);
    }
  }

  private offStrand(node: Extract<Strung, { type: "fringe" | "loop" | "hang" }>, spot: Spot): number {
    switch (node.type) {
      case "fringe":
        this.member(spot, (from) => {
          const down = this.place(node.down, from);
          const turned = this.ring(node.turn, forward(from, down));
          this.line(this.stringing(spot.part), null, from, down + turned);
        });
        return 0;
      case "loop":
        this.member(spot, (from) => void this.ring(node.item, from));
        return 0;
      case "hang": {
        const mm = node.onChain ? this.chain(1, node.strandMm, spot) : 0;
        for (const { key, n, at } of node.hung)
          for (let i = 0; i < n && !this.full(n - i); i++) this.hang(key, at, forward(spot, mm / 2), i);
        return mm;
      }
      default:
        return unreachable(node);
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
    const all = Math.max(mm, node.strandMm);
    if (spot.lane === null && this.frame.lanes > 1) this.trace(spot, all, "together");
    return all;
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
    this.turnAside(spot);
    const drawn = this.drawn(key, role);
    const shown = drawn === key ? role : this.counting.roles.get(drawn);
    if (shown?.type === "sub") return this.sub(shown, spot, slotMm);
    const middle = forward(spot, slotMm / 2);
    this.picture.marks.push(markAt(key, drawn, middle, spot.turn, spot.part, at, nth, spot.lane));
  }

  /** A sub-assembly where it stands on a strand. */
  private sub({ part }: Extract<Role, { type: "sub" }>, spot: Spot, slotMm: number) {
    const inner = this.counting.parts.find((p) => p.part === part);
    if (!inner || spot.depth >= 32 || this.full(1)) return;
    const inside: Spot = { ...spot, part: part.id, depth: spot.depth + 1, lane: null };
    const { laid } = laidOf(this.counting, inner);
    if (laid === "ring") {
      const ring = layRing(this.counting, inner, this.looks, this.most - this.picture.marks.length);
      const middle = forward(spot, slotMm / 2);
      return this.put(ring, middle.x, middle.y, spot.hangsAt);
    }
    if (laid === "hanging" || laid === "rising")
      return this.member(forward(spot, slotMm / 2), (from) => {
        this.strand(inner, { ...from, part: part.id, depth: spot.depth + 1, back: laid === "rising" });
      });
    const own = inner.whole.strandMm * (this.braids ? (part.finishedRatio ?? 1) : 1);
    if (own > slotMm + 0.001) {
      // Longer than the room it takes: it stands across.
      const across = sideways(forward(inside, slotMm / 2), -own / 2);
      this.strand(inner, { ...across, turn: spot.turn === 90 ? 0 : 90, back: false });
      return;
    }
    const room = (slotMm - own) / 2;
    if (own > 0 && room > 0.4) {
      // A link: its own wire goes through it and ends in a loop on either side.
      const loop = Math.min(room, 4);
      this.line(null, 0.6, forward(spot, room - loop), own + 2 * loop);
      this.fit("loop", null, forward(spot, room - loop / 2), loop, Math.min(loop, 3));
      this.fit("loop", null, forward(spot, room + own + loop / 2), loop, Math.min(loop, 3));
    }
    this.strand(inner, forward(inside, room));
  }

  /** Which member stands for the next bead of a mix: the one furthest behind its part of it. */
  drawn(key: string, role: Role | undefined): string {
    if (role?.type !== "mix" || role.members.length === 0) return key;
    const shares = this.counting.shares.get(key);
    const all = shares?.reduce((sum, n) => sum + n, 0) ?? 0;
    const part = (i: number) => (all > 0 ? shares![i]! / all : role.members[i]!.share);
    const used = this.mixed.get(key) ?? role.members.map(() => 0);
    this.mixed.set(key, used);
    const n = used.reduce((sum, u) => sum + u, 0) + 1;
    let next = 0;
    role.members.forEach((_, i) => {
      if (part(i) * n - used[i]! > part(next) * n - used[next]! + 1e-9) next = i;
    });
    used[next]!++;
    return role.members[next]!.key;
  }

  private repeated(node: Extract<Strung, { type: "times" }>, spot: Spot): number {
    const marks = marksIn(node.item) + (node.between ? marksIn(node.between) : 0);
    if (marks === 0) return node.strandMm;
    let mm = 0;
    for (let i = 0; i < node.n; i++) {
      if (this.full((node.n - i) * marks)) return node.strandMm;
      if (i > 0 && node.between) mm += this.place(node.between, forward(spot, mm));
      mm += this.place(node.item, forward(spot, mm));
    }
    return mm;
  }

  private hang(key: string, at: { from: number; to: number }, spot: Spot, nth: number) {
    this.steps++;
    if (this.full(1)) return;
    const role = this.counting.roles.get(key);
    const drawn = this.drawn(key, role);
    const shown = drawn === key ? role : this.counting.roles.get(drawn);
    const part = shown?.type === "sub" ? this.counting.parts.find((p) => p.part === shown.part) : undefined;
    const crosswise = part !== undefined && laidOf(this.counting, part).laid === "strand";
    const put = (from: Spot) => {
      const below = { ...from, y: from.y + this.hangers(role, from) };
      if (shown?.type === "sub") {
        const { part } = shown;
        const inner = this.counting.parts.find((p) => p.part === part);
        if (!inner || spot.depth >= 32) return;
        const inside = { ...below, part: part.id, depth: spot.depth + 1 };
        const { laid } = laidOf(this.counting, inner);
        if (laid === "ring") {
          const ring = layRing(this.counting, inner, this.looks, this.most - this.picture.marks.length);
          return this.put(ring, inside.x, inside.y - ring.top, inside.hangsAt);
        }
        if (laid === "strand") return this.swing(inner, inside);
        this.strand(inner, { ...inside, back: laid === "rising" });
        return;
      }
      const look = this.looks.get(hungKey(drawn)) ?? this.looks.get(drawn);
      const upright = look !== undefined && isTopDrilled(look);
      const tall = upright ? look.acrossMm : (look?.alongMm ?? 4);
      const name = this.looks.has(hungKey(drawn)) ? hungKey(drawn) : drawn;
      const middle = { ...below, y: below.y + tall / 2 };
      const mark = markAt(key, name, middle, upright ? 0 : 90, spot.part, at, nth, null);
      this.picture.marks.push(mark);
    };
    this.member(spot, put, crosswise);
  }

  /** A strand that hangs crosswise: from two lengths of chain, where it takes two, else by its middle. */
  private swing(inner: StrungPartOf, spot: Spot) {
    const own = inner.whole.strandMm;
    const chains = inner.cuts.flatMap((cut) => {
      const role = this.counting.roles.get(cut.key);
      if (cut.how !== "named" || role?.type !== "stringing" || role.linkMm === null) return [];
      const mm = cut.mm - role.lossLinks * role.linkMm;
      return Array.from({ length: Math.min(cut.count, 3) }, () => ({ key: cut.key, mm, linkMm: role.linkMm! }));
    });
    const two = chains.length === 2 ? chains : [];
    const drop = two.length === 2 ? Math.sqrt(Math.max(0, two[0]!.mm ** 2 - (own / 2) ** 2)) : 2;
    two.forEach(({ key, mm, linkMm }, i) => {
      const dx = (i === 0 ? -1 : 1) * (own / 2);
      const turn = (Math.atan2(drop, dx) * 180) / Math.PI;
      for (let n = 0; n < Math.floor(mm / linkMm); n++) {
        const share = ((n + 0.5) * linkMm) / mm;
        const [x, y] = [spot.x + dx * share, spot.y + drop * share];
        const stone = isStoneChain(this.counting, key);
        this.picture.links.push({ x, y, lengthMm: linkMm, turn, key, stone, ...plumbOf(spot) });
      }
    });
    this.strand(inner, { ...spot, turn: 0, x: spot.x - own / 2, y: spot.y + drop });
  }

  /** The rings by which something hangs; returns how far down they reach, mm. */
  private hangers(role: Role | undefined, from: Spot): number {
    let mm = 0;
    for (const use of role?.hangsBy ?? []) {
      const entry = this.counting.design.key.find((e) => e.key === use.key);
      const shape = entry && fittingOf(entry);
      if (!entry || shape !== "jump ring") continue;
      const { alongMm } = fittingSize(shape, entry);
      this.fit(shape, entry.key, { ...from, y: from.y + mm + alongMm / 2 - BELOW_MM }, alongMm, alongMm);
      mm += alongMm * 0.8;
    }
    return mm;
  }

  /** Puts something that hangs from a place: beside what hangs there already. */
  private member(spot: Spot, put: (from: Spot) => void, crosswise = false) {
    const known = this.cluster;
    const same = known !== null && Math.abs(known.x - spot.x) < 0.01 && Math.abs(known.y - spot.y) < 0.01;
    const cluster: Cluster = same ? known : { x: spot.x, y: spot.y, members: [] };
    this.cluster = null;
    const from = this.since();
    const hangsAt = spot.hangsAt ?? (spot.turn === 0 ? spot.x : undefined);
    const marksBefore = this.picture.marks.length;
    put({ ...spot, turn: 90, y: spot.y + BELOW_MM, back: false, lane: null, hangsAt });
    const to = this.since();
    // Bounds are those of the picture without what lies elsewhere.
    let [left, right] = [Infinity, -Infinity];
    const widen = (x: number, half: number) => {
      left = Math.min(left, x - spot.x - half);
      right = Math.max(right, x - spot.x + half);
    };
    for (const m of this.picture.marks.slice(marksBefore)) widen(m.x, this.halfWidth(m));
    for (const f of this.picture.fittings.slice(from.fittings)) widen(f.x, f.acrossMm / 2);
    for (const l of this.picture.links.slice(from.links)) widen(l.x, l.lengthMm * 0.35);
    if (left > right) [left, right] = [-1, 1];
    cluster.members.push({ from, to, left, right, dx: 0, crosswise });
    const beside = cluster.members.filter((m) => !m.crosswise);
    if (beside.length > 1) {
      const wide = beside.reduce((sum, m) => sum + m.right - m.left + ASIDE_MM, -ASIDE_MM);
      let x = -wide / 2;
      for (const m of beside) {
        this.shift(m.from, m.to, x - m.left - m.dx);
        m.dx = x - m.left;
        x += m.right - m.left + ASIDE_MM;
      }
    }
    this.cluster = cluster;
  }

  private halfWidth(m: Mark): number {
    const look = this.looks.get(m.drawn);
    if (!look) return 2;
    return Math.abs(Math.sin((m.turn * Math.PI) / 180)) > 0.5 ? look.acrossMm / 2 : look.alongMm / 2;
  }

  /** What hangs within a strand that itself hangs goes aside when the strand goes on below it. */
  private turnAside(spot: Spot) {
    const { cluster } = this;
    if (!cluster || spot.turn !== 90 || Math.abs(cluster.x - spot.x) > 0.01 || cluster.y > spot.y + 0.01) return;
    const left = Math.min(...cluster.members.map((m) => m.left + m.dx));
    const right = Math.max(...cluster.members.map((m) => m.right + m.dx));
    const dx = this.asides++ % 2 === 0 ? 1.5 - left : -1.5 - right;
    for (const m of cluster.members) this.shift(m.from, m.to, dx);
    this.cluster = null;
  }

  private since = (): Since => ({
    marks: this.picture.marks.length,
    fittings: this.picture.fittings.length,
    links: this.picture.links.length,
    lines: this.picture.lines.length,
  });

  private shift(from: Since, to: Since, dx: number) {
    const { marks, fittings, links, lines } = this.picture;
    for (let i = from.marks; i < to.marks; i++) marks[i]!.x += dx;
    for (let i = from.fittings; i < to.fittings; i++) fittings[i]!.x += dx;
    for (let i = from.links; i < to.links; i++) links[i]!.x += dx;
    for (let i = from.lines; i < to.lines; i++) for (const p of lines[i]!.points) p.x += dx;
  }

  /** Puts a picture of its own, such as a ring, into this one. */
  private put(other: Picture, x: number, y: number, hangsAt: number | undefined) {
    const plumb = hangsAt === undefined ? {} : { hangsAt };
    for (const m of other.marks) this.picture.marks.push({ ...m, x: m.x + x, y: m.y + y, ...plumb });
    for (const f of other.fittings) this.picture.fittings.push({ ...f, x: f.x + x, y: f.y + y, ...plumb });
    this.picture.leftOut += other.leftOut;
  }

  /** Beads round a ring below a spot; few beads simply hang in line. Returns how far down it reaches, mm. */
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
    if (n > 0) this.turnAside(spot);
    const key = this.stringing(spot.part);
    const stone = isStoneChain(this.counting, key);
    for (let i = 0; i < n && this.picture.links.length < this.most; i++) {
      const { x, y } = forward(spot, (i + 0.5) * lengthMm);
      this.picture.links.push({ x, y, lengthMm, turn: spot.turn, key, stone, ...plumbOf(spot) });
    }
    return n * lengthMm;
  }

  private stringing(part: string): string | null {
    return this.counting.parts.find((p) => p.part.id === part)?.part.stringing ?? null;
  }

  /** How thick a stringing role is, mm: as measured, else as its name has it. */
  private thickness(key: string | null): number {
    const entry = this.counting.design.key.find((e) => e.key === key);
    if (entry?.diameterMm != null) return entry.diameterMm;
    const said = `${entry?.form ?? ""} ${entry?.name ?? ""}`;
    return /ribbon/i.test(said) ? 6 : /cord|leather|lace/i.test(said) ? 1.5 : /wire/i.test(said) ? 0.5 : 0.3;
  }

  private line(key: string | null, wideMm: number | null, spot: Spot, mm: number) {
    const end = forward(spot, mm);
    const points = [
      { x: spot.x, y: spot.y },
      { x: end.x, y: end.y },
    ];
    this.picture.lines.push({ key, wideMm: wideMm ?? this.thickness(key), points, ...plumbOf(spot) });
  }

  private fit(shape: FittingShape, key: string | null, at: Spot, alongMm: number, acrossMm: number, turn = at.turn) {
    this.picture.fittings.push({ shape, key, x: at.x, y: at.y, turn, alongMm, acrossMm, ...plumbOf(at) });
  }

  private trace(spot: Spot, mm: number, how: Frame["traces"][number]["how"]) {
    const at = spot.turn === 90 ? spot.y : spot.x;
    if (mm > 0) this.frame.traces.push({ from: at, to: at + mm, how });
  }

  /** The thread of a part: one line a strand, that runs through the beads on all of them and crosses there. */
  private threads({ part }: StrungPartOf, spot: Spot, mm: number) {
    const key = part.stringing ?? null;
    const role = key === null ? undefined : this.counting.roles.get(key);
    if (key === null || mm <= 0 || (role?.type === "stringing" && role.linkMm !== null)) return;
    const { lanes, traces } = this.frame;
    const wideMm = this.thickness(key);
    const start = spot.turn === 90 ? spot.y : spot.x;
    const at = (along: number, aside: number) =>
      spot.turn === 90 ? { x: spot.x + aside, y: along } : { x: along, y: spot.y + aside };
    const lines: Line["points"][] = Array.from({ length: lanes }, (_, lane) => [at(start, this.laneY(lane))]);
    let done: Line["points"][] = [];
    let crossed = false;
    for (const { from, to, how } of [...traces].sort((a, b) => a.from - b.from)) {
      if (how === "joined") {
        lines.forEach((points, lane) => {
          points.push(at(from, lanes === 1 ? 0 : points.at(-1)!.y - spot.y));
          done.push(points);
          lines[lane] = [at(to, 0)];
        });
        continue;
      }
      if (lanes === 1) continue;
      // Two ends that go through one bead from either side change sides in it.
      const lane = (i: number) => (crossed && lanes === 2 ? 1 - i : i);
      lines.forEach((points, i) => {
        const y = how === "together" ? 0 : this.laneY(lane(i));
        points.push(at(from, y), at(to, y));
      });
      if (how === "together") crossed = !crossed;
    }
    const end = start + mm;
    const open = lanes === 1 || traces.length === 0;
    lines.forEach((points, lane) => points.push(at(end, open ? this.laneY(lane) : points.at(-1)!.y - spot.y)));
    done = [...done, ...lines].filter((points) => points.length > 1);
    for (const points of done) this.picture.lines.push({ key, wideMm, points, ...plumbOf(spot) });
    if (part.folded && spot.turn === 90 && lanes === 2) {
      // Bent double over what it hangs from: two sides.
      const [a, b] = [at(start, this.laneY(0)), at(start, this.laneY(1))];
      const top = { x: (a.x + b.x) / 2, y: start - 1.5 };
      this.picture.lines.push({ key, wideMm, points: [a, top, b], ...plumbOf(spot) });
    }
  }

  /** Strands of a braid lie round one another as on a rope: a schematic. @returns whether there are beads on them */
  private rope(first: number, spot: Spot, strands: number, ratio: number): boolean {
    const marks = this.picture.marks.slice(first).filter((m) => m.lane !== null);
    if (marks.length === 0) return false;
    const wide = marks.reduce((sum, m) => sum + (this.looks.get(m.drawn)?.acrossMm ?? 2), 0) / marks.length;
    const r = strands < 3 ? wide / 2 : wide / (2 * Math.sin(Math.PI / strands));
    const pitch = Math.max(2 * Math.PI * r, 3 * wide);
    const start = spot.turn === 90 ? spot.y : spot.x;
    for (const m of marks) {
      const along = (spot.turn === 90 ? m.y : m.x) - start;
      const angle = (2 * Math.PI * along * ratio) / pitch + (2 * Math.PI * m.lane!) / strands;
      const aside = r * Math.sin(angle);
      const lean = (Math.atan((2 * Math.PI * r * Math.cos(angle)) / pitch) * 180) / Math.PI;
      if (spot.turn === 90) m.x = spot.x - aside;
      else m.y = spot.y + aside;
      m.turn += lean;
      if (Math.cos(angle) < 0) m.behind = true;
    }
    return true;
  }

  /** Brings what was put along a spot to its finished length. Returns that, mm. */
  private squeeze(from: Since, spot: Spot, mm: number, ratio: number): number {
    const { marks, fittings, links, lines } = this.picture;
    const put = (p: { x: number; y: number }) => {
      if (spot.turn === 90) p.y = spot.y + (p.y - spot.y) * ratio;
      else p.x = spot.x + (p.x - spot.x) * ratio;
    };
    for (const m of marks.slice(from.marks)) if (m.hangsAt === spot.hangsAt) put(m);
    for (const f of fittings.slice(from.fittings)) put(f);
    for (const l of links.slice(from.links)) put(l);
    for (const l of lines.slice(from.lines)) l.points.forEach(put);
    return mm * ratio;
  }

  /** The findings that a part takes, in their places: pins through it, what closes it at its ends, hooks above it. */
  ends(taken: readonly Taken[], spot: Spot, mm: number) {
    const rank = ({ shape }: Taken) => (/cone|cap|cord end|ribbon|guard|crimp/.test(shape) ? 0 : 1);
    const out = { start: 0, end: 0 };
    const vertical = spot.turn === 90;
    const wireEnds = this.wireEnds(spot, mm);
    /** Where crimps stand: their covers are closed over them. */
    const crimps: { along: number; turn: number }[] = [];
    for (const { entry, shape, count } of [...taken].sort((a, b) => rank(a) - rank(b))) {
      const { alongMm, acrossMm } = fittingSize(shape, entry);
      const beside = (end: "start" | "end", size = acrossMm) => {
        const along = end === "start" ? -out.start - alongMm / 2 : mm + out.end + alongMm / 2;
        if (shape === "crimp") crimps.push({ along, turn: spot.turn + (end === "start" ? 180 : 0) });
        out[end] += alongMm;
        this.fit(shape, entry.key, forward(spot, along), alongMm, size, spot.turn + (end === "start" ? 180 : 0));
      };
      if (shape === "crimp" && wireEnds.isLinked) {
        // What is linked in ends the wire: each end of a length of it is crimped.
        for (const along of wireEnds.list.slice(0, count)) {
          crimps.push({ along, turn: spot.turn });
          this.fit(shape, entry.key, forward(spot, along), alongMm, acrossMm);
        }
      } else if (shape === "crimp cover" && crimps.length > 0) {
        for (const { along, turn } of crimps.slice(0, count))
          this.fit(shape, entry.key, forward(spot, along), alongMm, acrossMm, turn);
      } else if (shape === "pin head") {
        const eye = /eye/i.test(`${entry.form ?? ""} ${entry.name}`);
        this.picture.lines.push({
          key: null,
          wideMm: 0.6,
          points: [forward(spot, -1), forward(spot, mm + 0.6)].map(({ x, y }) => ({ x, y })),
          ...plumbOf(spot),
        });
        this.fit("loop", entry.key, forward(spot, -1.5), 3, 3);
        if (eye) this.fit("loop", entry.key, forward(spot, mm + 1.5), 3, 3);
        else this.fit("pin head", entry.key, forward(spot, mm + 0.4), alongMm, acrossMm);
      } else if (AT_TOP.has(shape)) {
        this.fit(shape, entry.key, { ...spot, y: spot.y - alongMm / 2 }, alongMm, acrossMm, 90);
      } else if (shape === "tassel" || shape === "coiled drop") {
        const at = vertical ? forward(spot, mm) : forward(spot, mm / 2);
        this.fit(shape, entry.key, { ...at, y: at.y + alongMm / 2 + (vertical ? 0 : 1) }, alongMm, acrossMm, 90);
      } else if (AT_ENDS.has(shape)) {
        if (vertical && shape === "jump ring") beside("start");
        else if (count >= 2) {
          beside("start");
          beside("end");
        } else beside("end");
      }
    }
    return out;
  }

  /** Where along a strand its wire begins and ends: at its ends, and at whatever is linked in. The outermost first. */
  private wireEnds(spot: Spot, mm: number): { list: number[]; isLinked: boolean } {
    const start = spot.turn === 90 ? spot.y : spot.x;
    const joined = this.frame.traces.filter((t) => t.how === "joined").sort((a, b) => a.from - b.from);
    let from = 0;
    const ends: number[] = [];
    for (const t of [...joined, { from: start + mm, to: start + mm }]) {
      if (t.from - start > from + 0.01) ends.push(from, t.from - start);
      from = t.to - start;
    }
    return { list: [...ends.slice(0, 1), ...ends.slice(-1), ...ends.slice(1, -1)], isLinked: joined.length > 0 };
  }

  /** Whether nothing more can be drawn: too many marks, or too long a way to find few (repeats of links, say). */
  private full(more: number): boolean {
    if (this.picture.marks.length < this.most && this.steps < MAX_STEPS) return false;
    this.picture.leftOut += more;
    return true;
  }

  laneY(lane: number): number {
    return (lane - (this.frame.lanes - 1) / 2) * this.frame.across;
  }

  /** Widens the picture's bounds to all that was put into it. */
  measure() {
    measure(this.picture, this.looks);
  }
}

/** Widens a picture's bounds to all that is in it. */
export function measure(p: Picture, looks: ReadonlyMap<string, Appearance>) {
  for (const mark of p.marks) {
    const look = looks.get(mark.drawn);
    const r = look ? Math.max(look.alongMm, look.acrossMm) / 2 : 2;
    reach(p, mark.x - r, mark.y - r, mark.x + r, mark.y + r);
  }
  for (const f of p.fittings) {
    const r = Math.max(f.alongMm, f.acrossMm) / 2;
    reach(p, f.x - r, f.y - r, f.x + r, f.y + r);
  }
  for (const { x, y, lengthMm } of p.links) {
    const r = lengthMm / 2;
    reach(p, x - r, y - Math.min(r, 2), x + r, y + Math.min(r, 2));
  }
  for (const line of p.lines) for (const { x, y } of line.points) reach(p, x, y, x, y);
  for (const { x, y } of p.body) reach(p, x, y, x, y);
}

/** Whether a chain's links hold stones, as its name has it. */
export function isStoneChain({ design }: Counting, key: string | null): boolean {
  const entry = design.key.find((e) => e.key === key);
  return entry !== undefined && /stone|cup chain|crystal/i.test(`${entry.form ?? ""} ${entry.name}`);
}

const plumbOf = ({ hangsAt }: Spot) => (hangsAt === undefined ? {} : { hangsAt });

function markAt(
  key: string,
  drawn: string,
  at: Spot,
  turn: number,
  part: string,
  { from, to }: { from: number; to: number },
  nth: number,
  lane: number | null,
): Mark {
  // Written out, as this is done for every bead.
  const mark: Mark = { key, drawn, x: at.x, y: at.y, turn, part, from, to, nth, lane };
  if (at.hangsAt !== undefined) mark.hangsAt = at.hangsAt;
  return mark;
}

// Written out, as this is done for every bead and a spread here took half the time of the whole picture.
const shifted = ({ x, y, turn, part, back, depth, lane, hangsAt }: Spot, dx: number, dy: number): Spot => ({
  x: x + dx,
  y: y + dy,
  turn,
  part,
  back,
  depth,
  lane,
  hangsAt,
});
const forward = (spot: Spot, mm: number) => (spot.turn === 90 ? shifted(spot, 0, mm) : shifted(spot, mm, 0));
const sideways = (spot: Spot, mm: number) => (spot.turn === 90 ? shifted(spot, mm, 0) : shifted(spot, 0, mm));

/** Whether a part's strands are laid round one another: three or more, apart along most of its length. */
export const isBraid = ({ part, whole }: StrungPartOf) =>
  (part.strands ?? 1) > 2 && apartMm(whole) > 0.6 * whole.strandMm;

/** Strands of an `each` lie as far apart as the widest bead on them needs. */
function laneGap(node: Strung, looks: ReadonlyMap<string, Appearance>): number {
  let gap = 1;
  const visit = (n: Strung, inEach: boolean) => {
    if (n.type === "bead" && inEach) gap = Math.max(gap, looks.get(n.key)?.acrossMm ?? n.alongMm);
    // What stands off the strands does not push them apart.
    else if (n.type !== "fringe" && n.type !== "loop" && n.type !== "pass") {
      for (const child of childrenOf(n)) visit(child, inEach || n.type === "each");
    }
  };
  visit(node, false);
  return gap + 0.3;
}

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
    case "pass":
      return 0;
    case "knot":
      return 1;
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
