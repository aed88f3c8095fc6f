/**
 * The shapes of beads, focal pieces and findings as areas in millimetres: their middle at 0,0, the thread running to
 * the right. Of what hangs, the right is down: its hole lies at the left. Of what stands at an end, the right is
 * outward. All drawn for Jar Count.
 */
import type { Appearance } from "./appearance.ts";

/** One area: an SVG path, filled with the shading or with a plain colour, or drawn as a wire of its own thickness. */
export interface Area {
  d: string;
  fill: "shading" | string;
  opacity?: number;
  /** Thickness, mm, of a path that is drawn as wire and not filled. */
  wire?: number;
}

/** A path whose numbers are rounded to a thousandth of a millimetre: nothing is seen of the rest. */
const path = (words: TemplateStringsArray, ...numbers: number[]) =>
  words.reduce((text, word, i) => text + Number(numbers[i - 1]!.toFixed(3)) + word);

/** A rectangle round a middle with rounded corners. */
function box(w: number, h: number, r: number, cx = 0, cy = 0): string {
  const [x, y] = [w / 2, h / 2];
  const q = Math.min(r, x, y);
  return (
    path`M${cx - x + q} ${cy - y}H${cx + x - q}A${q} ${q} 0 0 1 ${cx + x} ` +
    path`${cy - y + q}V${cy + y - q}A${q} ${q} 0 0 1 ${cx + x - q} ` +
    path`${cy + y}H${cx - x + q}A${q} ${q} 0 0 1 ${cx - x} ` +
    path`${cy + y - q}V${cy - y + q}A${q} ${q} 0 0 1 ${cx - x + q} ${cy - y}Z`
  );
}
const round = (cx: number, cy: number, r: number) => box(2 * r, 2 * r, r, cx, cy);
const oval = (x: number, y: number, cx = 0, cy = 0) =>
  path`M${cx - x} ${cy}A${x} ${y} 0 0 1 ${cx + x} ${cy}A${x} ${y} 0 0 1 ${cx - x} ${cy}Z`;
const body = (d: string): Area => ({ d, fill: "shading" });
const wire = (d: string, thick: number): Area => ({ d, fill: "none", wire: thick });
const hole = (cx: number, cy: number, r: number): Area => ({ d: round(cx, cy, r), fill: "#000", opacity: 0.4 });
const shine = (d: string, opacity = 0.3): Area => ({ d, fill: "#fff", opacity });
const shade = (d: string, opacity = 0.25): Area => ({ d, fill: "#000", opacity });
const line = (thick: number, x1: number, y1: number, x2: number, y2: number) => {
  const long = Math.hypot(x2 - x1, y2 - y1) || 1;
  const [dx, dy] = [(-(y2 - y1) / long) * (thick / 2), ((x2 - x1) / long) * (thick / 2)];
  return path`M${x1 + dx} ${y1 + dy}L${x2 + dx} ${y2 + dy}L${x2 - dx} ${y2 - dy}L${x1 - dx} ${y1 - dy}Z`;
};

const isRound = new Set<Appearance["shape"]>(["round", "drop", "chip", "dagger", "coin", "cabochon", "heart", "knot"]);
/** Whether a shape is shaded from a point, as a ball is, and not from one side, as a cylinder. */
export const isBall = ({ shape }: Appearance) => isRound.has(shape);

export function areasOf({ shape, alongMm: a, acrossMm: b }: Appearance): Area[] {
  const [x, y] = [a / 2, b / 2];
  // Wire of findings: thin for small ones, never thicker than can be bent.
  const w = Math.min(1, Math.max(0.45, Math.min(a, b) * 0.09));
  switch (shape) {
    case "seed":
      return [body(box(a, b, Math.min(x, y) * 0.75))];
    case "cylinder":
    case "tube":
      return [body(box(a, b, Math.min(x, y) * 0.18))];
    case "cube":
      return [body(box(a, b, Math.min(a, b) * 0.12)), shine(box(a * 0.62, b * 0.62, 0.1), 0.13)];
    case "bicone":
      return [
        body(path`M${-x} ${-y * 0.22}L0 ${-y}L${x} ${-y * 0.22}V${y * 0.22}L0 ${y}L${-x} ` + path`${y * 0.22}Z`),
        shine(box(0.14, b * 0.96, 0.05), 0.35),
      ];
    case "rondelle":
      return [body(box(a, b, x * 0.9))];
    case "disc":
      return [body(box(a, b, x * 0.5))];
    case "drop": // hangs by its top: across is its length, along its thickness; else it lies along the thread
      if (a > b)
        return [
          body(
            path`M${-x} 0C${-x * 0.4} ${-y * 0.5} 0 ${-y} ${x * 0.4} ${-y}` +
              path`A${x * 0.6} ${y} 0 0 1 ${x * 0.4} ${y}C0 ${y} ${-x * 0.4} ${y * 0.5} ${-x} 0Z`,
          ),
          hole(-x * 0.82, 0, Math.min(0.4, y * 0.12)),
        ];
      return [
        body(
          path`M0 ${-y}C${x * 0.5} ${-y * 0.4} ${b * 0.32} 0 ${b * 0.32} ` +
            path`${y * 0.45}A${b * 0.32} ${y * 0.55} 0 0 1 ${-b * 0.32} ${y * 0.45}C${-b * 0.32} 0 ` +
            path`${-x * 0.5} ${-y * 0.4} 0 ${-y}Z`,
        ),
      ];
    case "dagger":
      return [
        body(
          path`M${-x * 0.7} ${-y}C${x} ${-y} ${x} ${y * 0.3} 0 ${y}C${-x} ${y * 0.3} ` +
            path`${-x} ${-y} ${x * 0.7} ${-y}Z`,
        ),
      ];
    case "chip":
      return [
        body(
          path`M${-x} ${-y * 0.3}L${-x * 0.4} ${-y}L${x * 0.55} ${-y * 0.8}L${x} ` +
            path`${y * 0.1}L${x * 0.5} ${y}L${-x * 0.7} ${y * 0.75}Z`,
        ),
      ];
    case "two-hole":
      return [body(box(a, b, a * 0.2)), hole(0, -y * 0.5, a * 0.13), hole(0, y * 0.5, a * 0.13)];
    case "bar":
      return [body(box(a, b, a * 0.4))];
    case "coin":
      return [body(oval(x, y)), { d: oval(x * 0.82, y * 0.82), fill: "none", wire: 0.18 }, hole(-x * 0.86, 0, 0.4)];
    case "leaf":
      return [
        body(
          path`M${-x} 0C${-x * 0.5} ${-y * 1.25} ${x * 0.5} ${-y * 1.1} ${x} 0C${x * 0.5} ` +
            path`${y * 1.1} ${-x * 0.5} ${y * 1.25} ${-x} 0Z`,
        ),
        shade(line(0.22, -x * 0.8, 0, x * 0.85, 0)),
        ...[-0.35, 0.05, 0.45].flatMap((t) => [
          shade(line(0.16, x * t, 0, x * (t + 0.25), -y * 0.55)),
          shade(line(0.16, x * t, 0, x * (t + 0.25), y * 0.55)),
        ]),
        hole(-x * 0.86, 0, 0.4),
      ];
    case "star": {
      const points = Array.from({ length: 10 }, (_, i) => {
        const angle = Math.PI + (i * Math.PI) / 5;
        const r = i % 2 === 0 ? 1 : 0.45;
        return path`${x * r * Math.cos(angle)} ${y * r * Math.sin(angle)}`;
      });
      return [body(`M${points.join("L")}Z`), hole(-x * 0.72, 0, 0.35)];
    }
    case "ring": {
      const thick = Math.min(a, b) * 0.26;
      return [wire(oval(x - thick / 2, y - thick / 2), thick)];
    }
    case "shell":
      return [
        body(
          path`M${-x} ${-y * 0.25}C${-x * 0.2} ${-y * 0.9} ${x * 0.3} ${-y} ${x * 0.55} ${-y * 0.9}` +
            path`C${x * 1.12} ${-y * 0.5} ${x * 1.12} ${y * 0.5} ${x * 0.55} ${y * 0.9}` +
            path`C${x * 0.3} ${y} ${-x * 0.2} ${y * 0.9} ${-x} ${y * 0.25}Z`,
        ),
        ...[-0.6, -0.3, 0, 0.3, 0.6].map((t) => shade(line(0.2, -x * 0.8, 0, x * (0.95 - Math.abs(t) * 0.4), y * t))),
        hole(-x * 0.8, 0, 0.4),
      ];
    case "heart":
      return [
        body(
          path`M${x} 0C${x * 0.3} ${-y * 0.7} ${-x * 0.1} ${-y} ${-x * 0.5} ${-y}` +
            path`C${-x * 1.15} ${-y} ${-x * 1.1} ${-y * 0.1} ${-x * 0.55} 0` +
            path`C${-x * 1.1} ${y * 0.1} ${-x * 1.15} ${y} ${-x * 0.5} ${y}` +
            path`C${-x * 0.1} ${y} ${x * 0.3} ${y * 0.7} ${x} 0Z`,
        ),
        hole(-x * 0.35, 0, 0.4),
      ];
    case "bird":
      // Hangs by its back: left is up, its beak to one side.
      return [
        body(
          path`M${-x * 0.75} ${y * 0.55}C${-x * 1.05} ${y * 0.75} ${-x * 0.95} ${y} ${-x * 0.5} ` +
            path`${y * 0.95}L${-x * 0.42} ${y * 1.0}L${-x * 0.3} ${y * 0.8}C${x * 0.5} ${y * 0.7} ` +
            path`${x} ${y * 0.2} ${x * 0.6} ${-y * 0.35}L${x * 0.3} ${-y}L${x * 0.02} ${-y * 0.92}` +
            path`C${-x * 0.1} ${-y * 0.3} ${-x * 0.35} ${y * 0.2} ${-x * 0.75} ${y * 0.55}Z`,
        ),
        shade(
          path`M${-x * 0.1} ${y * 0.4}C${x * 0.35} ${y * 0.35} ${x * 0.4} ${-y * 0.1} ${x * 0.2} ` +
            path`${-y * 0.5}C${0} ${-y * 0.1} ${-x * 0.2} ${y * 0.15} ${-x * 0.1} ${y * 0.4}Z`,
          0.18,
        ),
        { d: round(-x * 0.62, y * 0.78, Math.min(0.35, y * 0.12)), fill: "#000", opacity: 0.75 },
      ];
    case "rectangle":
      return [
        body(box(a, b, Math.min(a, b) * 0.12)),
        { d: box(a * 0.8, b * 0.72, Math.min(a, b) * 0.08), fill: "none", wire: 0.18 },
        hole(-x * 0.86, 0, 0.4),
      ];
    case "diamond":
      return [
        body(path`M${-x} 0L0 ${-y}L${x} 0L0 ${y}Z`),
        shine(path`M${-x * 0.6} 0L0 ${-y * 0.6}L${x * 0.6} 0L0 ${y * 0.6}Z`, 0.16),
        hole(-x * 0.78, 0, 0.35),
      ];
    case "cross": {
      // Its foot is outward, its arms nearer to where it hangs.
      const arm = Math.min(a, b) * 0.26;
      return [body(box(a, arm, arm * 0.3)), body(box(arm, b, arm * 0.3, -x * 0.3, 0)), hole(-x * 0.86, 0, 0.35)];
    }
    case "medal":
      return [
        body(oval(x * 0.88, y * 0.88, x * 0.12, 0)),
        { d: oval(x * 0.74, y * 0.74, x * 0.12, 0), fill: "none", wire: 0.22 },
        shine(oval(x * 0.4, y * 0.4, x * 0.12, 0), 0.2),
        wire(round(-x * 0.84, 0, Math.max(0.8, x * 0.16)), 0.5),
      ];
    case "gear": {
      const teeth = 10;
      const points = Array.from({ length: teeth * 4 }, (_, i) => {
        const angle = Math.PI + ((i + 0.5) * Math.PI) / (teeth * 2);
        const r = i % 4 < 2 ? 1 : 0.78;
        return path`${x * r * Math.cos(angle)} ${y * r * Math.sin(angle)}`;
      });
      return [body(`M${points.join("L")}Z`), hole(0, 0, Math.min(x, y) * 0.32)];
    }
    case "animal":
      // A sitting one from the side, hung by its back: left is up, its head to one side.
      return [
        body(
          path`M${-x} ${y * 0.55}L${-x * 0.8} ${y * 0.85}C${-x * 0.6} ${y} ${-x * 0.35} ${y * 0.95} ` +
            path`${-x * 0.25} ${y * 0.6}C${x * 0.1} ${y * 0.55} ${x * 0.6} ${y * 0.6} ${x} ${y * 0.5}` +
            path`V${y * 0.2}C${x * 0.75} ${y * 0.2} ${x * 0.7} ${y * 0.1} ${x * 0.7} 0H${x}V${-y * 0.55}` +
            path`C${x * 0.9} ${-y} ${x * 0.2} ${-y} ${x * 0.1} ${-y * 0.85}C${x * 0.3} ${-y * 0.8} ${x * 0.4} ` +
            path`${-y * 0.7} ${x * 0.4} ${-y * 0.55}C${-x * 0.1} ${-y * 0.75} ${-x * 0.5} ${-y * 0.2} ` +
            path`${-x * 0.55} ${y * 0.2}L${-x * 0.75} ${y * 0.3}Z`,
        ),
        { d: round(-x * 0.55, y * 0.6, Math.min(0.35, y * 0.09)), fill: "#000", opacity: 0.7 },
        hole(-x * 0.28, 0, 0.35),
      ];
    case "cabochon":
      return [
        body(
          path`M${-x} ${y * 0.1}C${-x} ${-y * 0.8} ${-x * 0.4} ${-y * 1.02} ${x * 0.1} ${-y}` +
            path`C${x * 0.75} ${-y * 0.95} ${x} ${-y * 0.4} ${x} ${y * 0.1}` +
            path`C${x} ${y * 0.8} ${x * 0.4} ${y} ${-x * 0.1} ${y}` +
            path`C${-x * 0.7} ${y} ${-x} ${y * 0.6} ${-x} ${y * 0.1}Z`,
        ),
        shine(oval(x * 0.3, y * 0.16, -x * 0.25, -y * 0.5), 0.35),
      ];
    case "ear wire": {
      // Bottom loop at the right (down), the hook over the top, and the end that goes down behind.
      const r = y * 0.62;
      return [
        wire(
          path`M${x - 1.4} ${-0.2}L${-x + r} 0A${r} ${r} 0 0 0 ${-x + r} ${2 * r}L${x * 0.35} ${2 * r * 0.92}` +
            path`L${x * 0.55} ${2 * r * 1.05}`,
          w,
        ),
        wire(round(x - 1.1, 0, 1.1), w),
      ];
    }
    case "post":
      return [body(round(-x * 0.3, 0, y)), wire(round(x - 1, 0, 1), w)];
    case "jump ring":
    case "loop": {
      const thick = Math.min(0.9, Math.max(0.4, a * 0.14));
      return [wire(oval(x - thick / 2, y - thick / 2), thick)];
    }
    case "wrapped loop":
      return [
        wire(round(-x + 1.5, 0, 1.2), w),
        ...[0, 1, 2].map((i) => body(box(0.5, 1.6, 0.25, -x + 3.1 + i * 0.55, 0))),
      ];
    case "toggle ring": {
      const thick = Math.min(a, b) * 0.16;
      return [wire(oval(x - thick / 2, y - thick / 2), thick), wire(round(-x, 0, 0.9), 0.5)];
    }
    case "toggle bar":
      return [
        body(box(Math.min(2, a * 0.45), Math.max(b, a * 1.4), 1, x - 1, 0)),
        wire(oval(Math.max(0.8, x * 0.6), 1, -x * 0.35, 0), 0.5),
      ];
    case "lobster":
      return [
        body(
          path`M${-x * 0.6} ${-y * 0.6}C${x * 0.2} ${-y * 1.1} ${x} ${-y} ${x} 0` +
            path`C${x} ${y} ${x * 0.2} ${y * 1.1} ${-x * 0.6} ${y * 0.6}Z`,
        ),
        { d: oval(x * 0.42, y * 0.5, x * 0.28, 0), fill: "var(--board)", opacity: 1 },
        shade(line(0.3, x * 0.1, -y, x * 0.5, -y * 0.4)),
        wire(round(-x * 0.8, 0, Math.min(1.1, y * 0.6)), 0.5),
      ];
    case "hook":
      return [
        wire(
          path`M${-x + 1} 0L${x * 0.3} 0A${y * 0.5} ${y * 0.5} 0 0 1 ${x * 0.3} ${y}L${-x * 0.1} ${y * 0.75}`,
          Math.max(w, 0.8),
        ),
        wire(round(-x + 1, 0, 1), 0.6),
      ];
    case "magnetic":
      return [body(box(a * 0.49, b, b * 0.2, -x * 0.5, 0)), body(box(a * 0.49, b, b * 0.2, x * 0.5, 0))];
    case "box clasp":
      return [
        body(box(a * 0.8, b, Math.min(x, y) * 0.3)),
        shine(box(a * 0.5, b * 0.55, 0.6), 0.18),
        wire(round(-x * 0.88, 0, 0.9), 0.5),
        wire(round(x * 0.88, 0, 0.9), 0.5),
      ];
    case "crimp":
      return [body(box(a, b, 0.2)), shade(line(0.2, 0, -y * 0.8, 0, y * 0.8))];
    case "crimp cover":
      return [body(oval(x, y)), shade(line(0.18, -x * 0.9, 0, x * 0.9, 0))];
    case "cone":
      return [
        body(
          path`M${-x} ${-y}C${0} ${-y * 0.8} ${x * 0.6} ${-y * 0.35} ${x} ${-y * 0.25}V${y * 0.25}` +
            path`C${x * 0.6} ${y * 0.35} ${0} ${y * 0.8} ${-x} ${y}Z`,
        ),
        shade(line(0.2, -x * 0.8, -y * 0.85, -x * 0.8, y * 0.85)),
      ];
    case "cap":
      return [
        body(
          path`M${-x} ${-y}C${x * 0.6} ${-y} ${x} ${-y * 0.4} ${x} 0C${x} ${y * 0.4} ${x * 0.6} ${y} ${-x} ${y}` +
            path`Z`,
        ),
      ];
    case "cord end":
      return [
        body(box(a * 0.78, b, 0.5, -x * 0.22, 0)),
        shade(line(0.2, -x * 0.75, -y * 0.9, -x * 0.75, y * 0.9)),
        wire(round(x * 0.78, 0, Math.max(0.8, x * 0.22)), 0.55),
      ];
    case "ribbon end":
      return [
        body(box(a * 0.6, b, 0.4, -x * 0.4, 0)),
        ...[-0.6, -0.2, 0.2, 0.6].map((t) => shade(line(0.25, -x * 0.9, y * t, -x * 0.5, y * t))),
        wire(round(x * 0.5, 0, Math.max(0.8, x * 0.35)), 0.55),
      ];
    case "connector":
      return [
        body(box(a * 0.72, b, Math.min(x, y) * 0.4)),
        shine(box(a * 0.45, b * 0.4, 0.5), 0.2),
        wire(round(-x * 0.86, 0, Math.max(0.7, x * 0.14)), 0.5),
        wire(round(x * 0.86, 0, Math.max(0.7, x * 0.14)), 0.5),
      ];
    case "guard":
      return [wire(path`M${-x} ${y}C${x * 1.2} ${y} ${x * 1.2} ${-y} ${-x} ${-y}`, 0.6)];
    case "pin head":
      return [body(box(a, b, 0.4))];
    case "coiled drop":
      return [wire(oval(x * 0.9, y * 0.9), w), wire(oval(x * 0.58, y * 0.58), w), wire(oval(x * 0.26, y * 0.26), w)];
    case "tassel":
      return [
        body(box(a * 0.14, b * 0.5, b * 0.16, -x * 0.86, 0)),
        ...[-1, -0.66, -0.33, 0, 0.33, 0.66, 1].map((t) =>
          wire(
            path`M${-x * 0.74} ${y * 0.4 * t}C${-x * 0.2} ${y * 0.8 * t} ${x * 0.4} ${y * t} ${x} ${y * 0.92 * t}`,
            Math.max(0.5, b * 0.09),
          ),
        ),
      ];
    case "knot":
      return [
        body(oval(x, y)),
        shade(
          path`M${-x * 0.5} ${-y * 0.8}C${x * 0.3} ${-y * 0.3} ${x * 0.1} ${y * 0.4} ${-x * 0.3} ${y * 0.85}` +
            path`L${-x * 0.1} ${y * 0.85}C${x * 0.4} ${y * 0.3} ${x * 0.5} ${-y * 0.3} ${-x * 0.3} ${-y * 0.85}Z`,
        ),
      ];
    default:
      return [body(oval(x, y))];
  }
}
