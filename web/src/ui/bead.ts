import { type Appearance, areasOf, isBall } from "@jar-count/core/picture";

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

const EDGE_MM = 0.14;

const cssColour = (name: string) =>
  getComputedStyle(document.documentElement).getPropertyValue(name.slice(4, -1)) || "#ccc";

const wireSvg = (d: string, colour: string, wide: number) =>
  `<path d="${d}" fill="none" stroke="${colour}" stroke-width="${wide}" stroke-linecap="round"/>`;

/** A bent wire, with a contour on either side and a light along it. */
export function strokeWire(
  ctx: CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D,
  path: Path2D,
  wire: number,
  colour: string,
  contour: string,
  scale: number,
) {
  ctx.lineCap = ctx.lineJoin = "round";
  ctx.strokeStyle = contour;
  ctx.lineWidth = Math.max(wire + 2 * EDGE_MM, 1.6 / scale);
  ctx.stroke(path);
  ctx.strokeStyle = colour;
  ctx.lineWidth = Math.max(wire, 0.9 / scale);
  ctx.stroke(path);
  ctx.strokeStyle = "rgb(255 255 255 / .35)";
  ctx.lineWidth = wire * 0.3;
  ctx.stroke(path);
}

/**
 * One bead as SVG, its middle at 0,0, the thread running to the right, in millimetres: a gradient and its areas, with
 * ids that start with `id`.
 */
export function beadSvg(look: Appearance, id: string): string {
  const stops = shades(look)
    .map(([at, colour, opacity]) => `<stop offset="${at}" stop-color="${colour}" stop-opacity="${opacity}"/>`)
    .join("");
  const gradient = isBall(look)
    ? `<radialGradient id="${id}-g" cx="0.38" cy="0.3" r="0.75">${stops}</radialGradient>`
    : `<linearGradient id="${id}-g" x1="0" y1="0" x2="0" y2="1">${stops}</linearGradient>`;
  const areas = areasOf(look).map(({ d, fill, opacity, wire }) =>
    wire !== undefined
      ? wireSvg(d, "var(--contour)", wire + 2 * EDGE_MM) + wireSvg(d, look.colour, wire)
      : fill === "shading"
        ? `<path d="${d}" fill="url(#${id}-g)" stroke="var(--contour)" stroke-width="${EDGE_MM}"/>`
        : `<path d="${d}" fill="${fill}" opacity="${opacity}"/>`,
  );
  return gradient + areas.join("");
}

/**
 * The same bead drawn once as a small image at `scale` pixels a millimetre, to be stamped wherever it lies. The
 * image's middle is the bead's.
 */
export function beadStamp(look: Appearance, scale: number, contour: string): ImageBitmap {
  const { alongMm: a, acrossMm: b } = look;
  const reach = Math.max(a, b, 2) * 0.62 + 0.6;
  const size = Math.max(2, Math.ceil(2 * reach * scale));
  const stamp = new OffscreenCanvas(size, size);
  const ctx = stamp.getContext("2d")!;
  ctx.translate(stamp.width / 2, stamp.height / 2);
  ctx.scale(scale, scale);
  const shading = isBall(look)
    ? ctx.createRadialGradient(-0.12 * a, -0.2 * b, 0, -0.12 * a, -0.2 * b, 0.75 * Math.max(a, b))
    : ctx.createLinearGradient(0, -b / 2, 0, b / 2);
  for (const [at, colour, opacity] of shades(look)) shading.addColorStop(at, colour.replace(")", ` / ${opacity})`));
  for (const { d, fill, opacity, wire } of areasOf(look)) {
    const path = new Path2D(d);
    ctx.globalAlpha = opacity ?? 1;
    if (wire !== undefined) {
      strokeWire(ctx, path, wire, look.colour, contour, scale);
      continue;
    }
    ctx.fillStyle = fill === "shading" ? shading : fill.startsWith("var(") ? cssColour(fill) : fill;
    ctx.fill(path);
    if (fill !== "shading") continue;
    ctx.lineWidth = Math.max(EDGE_MM, 0.7 / scale);
    ctx.strokeStyle = contour;
    ctx.stroke(path);
  }
  // An image that can't change any more is copied several times faster than a canvas.
  return stamp.transferToImageBitmap();
}
