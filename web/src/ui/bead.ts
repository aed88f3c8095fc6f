import type { Appearance } from "@jar-count/core/picture";

/** Mixes a #rrggbb colour towards white (`to` 255) or black (`to` 0). */
function mix(hex: string, to: number, share: number): string {
  const part = (i: number) => Math.round(parseInt(hex.slice(i, i + 2), 16) * (1 - share) + to * share);
  return `rgb(${part(1)} ${part(3)} ${part(5)})`;
}

/** Shades from the lit side to the shadow, by finish: [offset, colour, opacity]. */
function shades({ colour, finish }: Appearance): [number, string, number][] {
  const light = (share: number) => mix(colour, 255, share);
  const dark = (share: number) => mix(colour, 0, share);
  switch (finish) {
    case "matt":
      return [
        [0, light(0.18), 1],
        [0.6, colour, 1],
        [1, dark(0.18), 1],
      ];
    case "clear":
      return [
        [0, light(0.75), 1],
        [0.25, light(0.25), 0.9],
        [0.75, colour, 0.8],
        [1, light(0.3), 0.9],
      ];
    case "metal":
      return [
        [0, light(0.85), 1],
        [0.35, light(0.1), 1],
        [0.6, dark(0.4), 1],
        [0.8, light(0.2), 1],
        [1, dark(0.45), 1],
      ];
    case "iridescent":
      return [
        [0, light(0.7), 1],
        [0.35, colour, 1],
        [0.65, mix("#5b4a8c", 0, 0.1), 1],
        [0.85, dark(0.3), 1],
        [1, mix("#3f7d74", 0, 0.1), 1],
      ];
    case "pearl":
      return [
        [0, light(0.9), 1],
        [0.5, light(0.25), 1],
        [0.85, dark(0.08), 1],
        [1, dark(0.25), 1],
      ];
    case "lustre":
      return [
        [0, light(0.8), 1],
        [0.3, light(0.15), 1],
        [0.75, dark(0.1), 1],
        [1, dark(0.35), 1],
      ];
    default:
      return [
        [0, light(0.55), 1],
        [0.4, colour, 1],
        [1, dark(0.35), 1],
      ];
  }
}

/** One area of a bead: an SVG path in millimetres, filled with the bead's shading or with a plain colour. */
interface Area {
  d: string;
  fill: "shading" | string;
  opacity?: number;
}

const EDGE_MM = 0.14;
const isRound = ({ shape }: Appearance) =>
  shape === "round" || shape === "drop" || shape === "chip" || shape === "dagger";

/**
 * One bead as SVG, its middle at 0,0, the thread running to the right, in millimetres: a gradient and its areas, with
 * ids that start with `id`.
 */
export function beadSvg(look: Appearance, id: string): string {
  const stops = shades(look)
    .map(([at, colour, opacity]) => `<stop offset="${at}" stop-color="${colour}" stop-opacity="${opacity}"/>`)
    .join("");
  const gradient = isRound(look)
    ? `<radialGradient id="${id}-g" cx="0.38" cy="0.3" r="0.75">${stops}</radialGradient>`
    : `<linearGradient id="${id}-g" x1="0" y1="0" x2="0" y2="1">${stops}</linearGradient>`;
  const areas = areasOf(look).map(({ d, fill, opacity }) =>
    fill === "shading"
      ? `<path d="${d}" fill="url(#${id}-g)" stroke="var(--contour)" stroke-width="${EDGE_MM}"/>`
      : `<path d="${d}" fill="${fill}" opacity="${opacity}"/>`,
  );
  return gradient + areas.join("");
}

/**
 * The same bead drawn once on a small canvas at `scale` pixels a millimetre, to be stamped wherever it lies.
 * The canvas's middle is the bead's.
 */
export function beadStamp(look: Appearance, scale: number, contour: string): HTMLCanvasElement {
  const { alongMm: a, acrossMm: b } = look;
  const reach = Math.max(a, b) / 2 + 0.3;
  const stamp = document.createElement("canvas");
  stamp.width = stamp.height = Math.max(2, Math.ceil(2 * reach * scale));
  const ctx = stamp.getContext("2d")!;
  ctx.translate(stamp.width / 2, stamp.height / 2);
  ctx.scale(scale, scale);
  const shading = isRound(look)
    ? ctx.createRadialGradient(-0.12 * a, -0.2 * b, 0, -0.12 * a, -0.2 * b, 0.75 * Math.max(a, b))
    : ctx.createLinearGradient(0, -b / 2, 0, b / 2);
  for (const [at, colour, opacity] of shades(look)) shading.addColorStop(at, colour.replace(")", ` / ${opacity})`));
  for (const { d, fill, opacity } of areasOf(look)) {
    const path = new Path2D(d);
    ctx.globalAlpha = opacity ?? 1;
    ctx.fillStyle = fill === "shading" ? shading : fill;
    ctx.fill(path);
    if (fill !== "shading") continue;
    ctx.lineWidth = Math.max(EDGE_MM, 0.7 / scale);
    ctx.strokeStyle = contour;
    ctx.stroke(path);
  }
  return stamp;
}

const n = (x: number) => Number(x.toFixed(3));

/** A rectangle round 0,0 with rounded corners. */
function box(w: number, h: number, r: number, cx = 0, cy = 0): string {
  const [x, y] = [w / 2, h / 2];
  const q = Math.min(r, x, y);
  return (
    `M${n(cx - x + q)} ${n(cy - y)}H${n(cx + x - q)}A${n(q)} ${n(q)} 0 0 1 ${n(cx + x)} ` +
    `${n(cy - y + q)}V${n(cy + y - q)}A${n(q)} ${n(q)} 0 0 1 ${n(cx + x - q)} ` +
    `${n(cy + y)}H${n(cx - x + q)}A${n(q)} ${n(q)} 0 0 1 ${n(cx - x)} ` +
    `${n(cy + y - q)}V${n(cy - y + q)}A${n(q)} ${n(q)} 0 0 1 ${n(cx - x + q)} ${n(cy - y)}Z`
  );
}
const dot = (cy: number, r: number) => box(2 * r, 2 * r, r, 0, cy);

function areasOf({ shape, alongMm: a, acrossMm: b }: Appearance): Area[] {
  const [x, y] = [a / 2, b / 2];
  const body = (d: string): Area => ({ d, fill: "shading" });
  switch (shape) {
    case "seed":
      return [body(box(a, b, Math.min(x, y) * 0.75))];
    case "cylinder":
    case "tube":
      return [body(box(a, b, Math.min(x, y) * 0.18))];
    case "cube":
      return [body(box(a, b, Math.min(a, b) * 0.12)), { d: box(a * 0.62, b * 0.62, 0.1), fill: "#fff", opacity: 0.13 }];
    case "bicone":
      return [
        body(
          `M${n(-x)} ${n(-y * 0.22)}L0 ${n(-y)}L${n(x)} ${n(-y * 0.22)}V${n(y * 0.22)}L0 ${n(y)}L${n(-x)} ` +
            `${n(y * 0.22)}Z`,
        ),
        { d: box(0.14, b * 0.96, 0.05), fill: "#fff", opacity: 0.35 },
      ];
    case "rondelle":
      return [body(box(a, b, x * 0.9))];
    case "disc":
      return [body(box(a, b, x * 0.5))];
    case "drop": // hangs by its top: across is its length, along its thickness
      return [
        body(
          `M0 ${n(-y)}C${n(x * 0.5)} ${n(-y * 0.4)} ${n(b * 0.32)} 0 ${n(b * 0.32)} ` +
            `${n(y * 0.45)}A${n(b * 0.32)} ${n(y * 0.55)} 0 0 1 ${n(-b * 0.32)} ${n(y * 0.45)}C${n(-b * 0.32)} 0 ` +
            `${n(-x * 0.5)} ${n(-y * 0.4)} 0 ${n(-y)}Z`,
        ),
      ];
    case "dagger":
      return [
        body(
          `M${n(-x * 0.7)} ${n(-y)}C${n(x)} ${n(-y)} ${n(x)} ${n(y * 0.3)} 0 ${n(y)}C${n(-x)} ${n(y * 0.3)} ` +
            `${n(-x)} ${n(-y)} ${n(x * 0.7)} ${n(-y)}Z`,
        ),
      ];
    case "chip":
      return [
        body(
          `M${n(-x)} ${n(-y * 0.3)}L${n(-x * 0.4)} ${n(-y)}L${n(x * 0.55)} ${n(-y * 0.8)}L${n(x)} ` +
            `${n(y * 0.1)}L${n(x * 0.5)} ${n(y)}L${n(-x * 0.7)} ${n(y * 0.75)}Z`,
        ),
      ];
    case "two-hole":
      return [
        body(box(a, b, a * 0.2)),
        { d: dot(-y * 0.5, a * 0.13), fill: "#000", opacity: 0.35 },
        { d: dot(y * 0.5, a * 0.13), fill: "#000", opacity: 0.35 },
      ];
    case "bar":
      return [body(box(a, b, a * 0.4))];
    default:
      return [body(`M${n(-x)} 0A${n(x)} ${n(y)} 0 0 1 ${n(x)} 0A${n(x)} ${n(y)} 0 0 1 ${n(-x)} 0Z`)];
  }
}
