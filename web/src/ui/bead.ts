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
      return [[0, light(0.18), 1], [0.6, colour, 1], [1, dark(0.18), 1]];
    case "clear":
      return [[0, light(0.75), 1], [0.25, light(0.25), 0.9], [0.75, colour, 0.8], [1, light(0.3), 0.9]];
    case "metal":
      return [[0, light(0.85), 1], [0.35, light(0.1), 1], [0.6, dark(0.4), 1], [0.8, light(0.2), 1], [1, dark(0.45), 1]];
    case "iridescent":
      return [[0, light(0.7), 1], [0.35, colour, 1], [0.65, mix("#5b4a8c", 0, 0.1), 1], [0.85, dark(0.3), 1], [1, mix("#3f7d74", 0, 0.1), 1]];
    case "pearl":
      return [[0, light(0.9), 1], [0.5, light(0.25), 1], [0.85, dark(0.08), 1], [1, dark(0.25), 1]];
    case "lustre":
      return [[0, light(0.8), 1], [0.3, light(0.15), 1], [0.75, dark(0.1), 1], [1, dark(0.35), 1]];
    default:
      return [[0, light(0.55), 1], [0.4, colour, 1], [1, dark(0.35), 1]];
  }
}

const EDGE = `stroke="var(--contour)" stroke-width="0.14" vector-effect="none"`;

/**
 * One bead as SVG, its middle at 0,0, the thread running to the right, in millimetres: gradients and marks, with ids
 * that start with `id`.
 */
export function beadSvg(look: Appearance, id: string): string {
  const { shape, alongMm: a, acrossMm: b } = look;
  const round = shape === "round" || shape === "drop" || shape === "chip" || shape === "dagger";
  const stops = shades(look).map(([at, colour, opacity]) => `<stop offset="${at}" stop-color="${colour}" stop-opacity="${opacity}"/>`).join("");
  const gradient = round
    ? `<radialGradient id="${id}-g" cx="0.38" cy="0.3" r="0.75">${stops}</radialGradient>`
    : `<linearGradient id="${id}-g" x1="0" y1="0" x2="0" y2="1">${stops}</linearGradient>`;
  return gradient + outline(shape, a, b, `fill="url(#${id}-g)" ${EDGE}`);
}

const n = (x: number) => Number(x.toFixed(3));
const box = (x: number, y: number, w: number, h: number, r: number, how: string) =>
  `<rect x="${n(x)}" y="${n(y)}" width="${n(w)}" height="${n(h)}" rx="${n(r)}" ${how}/>`;

function outline(shape: Appearance["shape"], a: number, b: number, how: string): string {
  const [x, y] = [a / 2, b / 2];
  switch (shape) {
    case "seed":
      return box(-x, -y, a, b, Math.min(x, y) * 0.75, how);
    case "cylinder":
    case "tube":
      return box(-x, -y, a, b, Math.min(x, y) * 0.18, how);
    case "cube":
      return box(-x, -y, a, b, Math.min(a, b) * 0.12, how) + box(-x * 0.62, -y * 0.62, a * 0.62, b * 0.62, 0.1, `fill="#fff" opacity="0.13"`);
    case "bicone":
      return `<path d="M${n(-x)} ${n(-y * 0.22)}L0 ${n(-y)}L${n(x)} ${n(-y * 0.22)}V${n(y * 0.22)}L0 ${n(y)}L${n(-x)} ${n(y * 0.22)}Z" ${how}/><path d="M0 ${n(-y)}V${n(y)}" stroke="#fff" stroke-opacity="0.35" stroke-width="0.12"/>`;
    case "rondelle":
      return box(-x, -y, a, b, x * 0.9, how);
    case "disc":
      return box(-x, -y, a, b, x * 0.5, how);
    case "drop": // hangs by its top: across is its length, along its thickness
      return `<path d="M0 ${n(-y)}C${n(x * 0.5)} ${n(-y * 0.4)} ${n(b * 0.32)} 0 ${n(b * 0.32)} ${n(y * 0.45)}A${n(b * 0.32)} ${n(y * 0.55)} 0 0 1 ${n(-b * 0.32)} ${n(y * 0.45)}C${n(-b * 0.32)} 0 ${n(-x * 0.5)} ${n(-y * 0.4)} 0 ${n(-y)}Z" ${how}/>`;
    case "dagger":
      return `<path d="M${n(-x * 0.7)} ${n(-y)}C${n(x)} ${n(-y)} ${n(x)} ${n(y * 0.3)} 0 ${n(y)}C${n(-x)} ${n(y * 0.3)} ${n(-x)} ${n(-y)} ${n(x * 0.7)} ${n(-y)}Z" ${how}/>`;
    case "chip":
      return `<path d="M${n(-x)} ${n(-y * 0.3)}L${n(-x * 0.4)} ${n(-y)}L${n(x * 0.55)} ${n(-y * 0.8)}L${n(x)} ${n(y * 0.1)}L${n(x * 0.5)} ${n(y)}L${n(-x * 0.7)} ${n(y * 0.75)}Z" stroke-linejoin="round" ${how}/>`;
    case "two-hole":
      return box(-x, -y, a, b, a * 0.2, how) + `<circle cx="0" cy="${n(-y * 0.5)}" r="${n(a * 0.13)}" fill="#000" opacity="0.35"/><circle cx="0" cy="${n(y * 0.5)}" r="${n(a * 0.13)}" fill="#000" opacity="0.35"/>`;
    case "bar":
      return box(-x, -y, a, b, a * 0.4, how);
    default:
      return `<ellipse cx="0" cy="0" rx="${n(x)}" ry="${n(y)}" ${how}/>`;
  }
}
