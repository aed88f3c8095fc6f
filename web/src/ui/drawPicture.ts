import { type Appearance, colourOf, linkLook, lookOfFitting, type Mark, type Picture } from "@jar-count/core/picture";
import { beadStamp, strokeWire } from "./bead.ts";

/** A bead, or a stretch of the text, that is being pointed at. */
export interface Lit {
  key: string;
  part?: string | undefined;
  from?: number | undefined;
  to?: number | undefined;
}

export interface Inks {
  contour: string;
  ink: string;
  action: string;
}

/** The colours of the page in which pictures are drawn; they differ by theme. */
export function inksOf(_theme: string | undefined): Inks {
  const colours = getComputedStyle(document.documentElement);
  return {
    contour: colours.getPropertyValue("--contour"),
    ink: colours.getPropertyValue("--ink"),
    action: colours.getPropertyValue("--action"),
  };
}

/** Beads drawn once each, to be stamped: they hold for one scale and theme, while a bead looks the same. */
export interface Stamps {
  for: string;
  of: Map<string, Stamp>;
}
interface Stamp {
  look: Appearance;
  stamp: ImageBitmap;
  /** The same turned, by steps of a full turn so fine that the edge of the bead is not seen to jump. */
  turned: (ImageBitmap | undefined)[];
}
export const stampsFor = (scaleAndTheme: string): Stamps => ({ for: scaleAndTheme, of: new Map() });

/** A stamp turned, and mirrored first where asked: copied by the pixel afterwards, however often it is needed. */
function turnStamp(stamp: ImageBitmap, angle: number, flipped: boolean): ImageBitmap {
  const copy = new OffscreenCanvas(stamp.width, stamp.height);
  const ctx = copy.getContext("2d")!;
  ctx.translate(stamp.width / 2, stamp.height / 2);
  ctx.rotate(angle);
  if (flipped) ctx.scale(-1, 1);
  ctx.drawImage(stamp, -stamp.width / 2, -stamp.height / 2);
  return copy.transferToImageBitmap();
}

/** Into how many steps a full turn goes for a stamp of a width in px: its edge moves half a px a step. */
const stepsOf = (width: number) => Math.max(16, Math.min(240, Math.ceil(Math.PI * width)));

export interface Drawing {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  stamps: Stamps;
  inks: Inks;
  scale: number;
  /** What lies at the canvas's left and top edge, mm. */
  left: number;
  top: number;
  width: number;
  height: number;
  lit: Lit | null;
  path: boolean;
  isChosen: ((mark: Mark) => boolean) | undefined;
}

/** Draws what is in view of a picture. */
export function drawPicture(canvas: HTMLCanvasElement, drawing: Drawing) {
  const slices = draw(canvas, drawing, Infinity);
  while (!slices.next().done);
}

/** A picture of more beads than this is drawn after the next paint, so many of them at a time. */
const [AT_ONCE, A_SLICE] = [400, 800];

/** Pictures of many beads, drawn between frames while the one before is shown in its place. */
export function makeDrawer(canvas: HTMLCanvasElement) {
  let shown: { image: HTMLCanvasElement; of: Drawing } | null = null;
  /** Draws a picture; returns how to stop, where it is not done yet. */
  return (drawing: Drawing): (() => void) | undefined => {
    if (drawing.picture.marks.length <= AT_ONCE || !shown) {
      drawPicture(canvas, drawing);
      shown = drawing.picture.marks.length > AT_ONCE ? { image: copyOf(canvas), of: drawing } : null;
      return undefined;
    }
    stretch(canvas, shown.image, shown.of, drawing);
    const image = document.createElement("canvas");
    const slices = draw(image, drawing, A_SLICE);
    let task = 0;
    const next = () => {
      if (!slices.next().done) {
        task = window.setTimeout(next);
        return;
      }
      shown = { image, of: drawing };
      const ctx = canvas.getContext("2d")!;
      ctx.setTransform(1, 0, 0, 1, 0, 0);
      ctx.clearRect(0, 0, canvas.width, canvas.height);
      ctx.drawImage(image, 0, 0);
    };
    const frame = requestAnimationFrame(() => (task = window.setTimeout(next)));
    return () => {
      cancelAnimationFrame(frame);
      clearTimeout(task);
    };
  };
}

function copyOf(canvas: HTMLCanvasElement): HTMLCanvasElement {
  const copy = document.createElement("canvas");
  copy.width = canvas.width;
  copy.height = canvas.height;
  copy.getContext("2d")!.drawImage(canvas, 0, 0);
  return copy;
}

/** Shows what was drawn before where it now belongs: at another scale, or another place. */
function stretch(canvas: HTMLCanvasElement, image: HTMLCanvasElement, was: Drawing, now: Drawing) {
  const dense = window.devicePixelRatio || 1;
  fit(canvas, now);
  const ctx = canvas.getContext("2d")!;
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  ctx.clearRect(0, 0, canvas.width, canvas.height);
  const by = now.scale / was.scale;
  const [x, y] = [(was.left - now.left) * now.scale * dense, (was.top - now.top) * now.scale * dense];
  ctx.drawImage(image, x, y, image.width * by, image.height * by);
}

function fit(canvas: HTMLCanvasElement, { width, height }: Drawing) {
  const dense = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * dense), Math.round(height * dense)];
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
}

function* draw(canvas: HTMLCanvasElement, drawing: Drawing, aSlice: number): Generator<void, void, void> {
  const { picture, looks, stamps, inks, scale, left, top, width, height, lit, path, isChosen } = drawing;
  const dense = window.devicePixelRatio || 1;
  fit(canvas, drawing);
  const ctx = canvas.getContext("2d")!;
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  ctx.clearRect(0, 0, canvas.width, canvas.height);
  const { contour, ink } = inks;
  const k = scale * dense;
  const right = left + width / scale;
  const plain = () => ctx.setTransform(k, 0, 0, k, -left * k, -top * k);

  plain();
  if (picture.body.length > 1) {
    ctx.beginPath();
    for (const p of picture.body) ctx.lineTo(p.x, p.y);
    ctx.fillStyle = ctx.strokeStyle = ink;
    ctx.globalAlpha = 0.05;
    ctx.fill();
    ctx.globalAlpha = 0.25;
    ctx.lineWidth = 1 / scale;
    ctx.stroke();
    ctx.globalAlpha = 1;
  }
  for (const { points, key, wideMm } of picture.lines) {
    const way = new Path2D();
    for (const p of points) way.lineTo(p.x, p.y);
    const colour = colourOf(key, looks, contour);
    if (wideMm < 0.45) {
      ctx.strokeStyle = contour;
      ctx.lineWidth = Math.max(wideMm, 1 / scale);
      ctx.stroke(way);
    } else strokeWire(ctx, way, wideMm, colour, contour, k);
  }
  const bottom = top + height / scale;
  for (const link of picture.links) {
    const { x, y, lengthMm, turn } = link;
    if (x + lengthMm < left || x - lengthMm > right || y + lengthMm < top || y - lengthMm > bottom) continue;
    ctx.beginPath();
    const { rx, ry, thick, colour, filled } = linkLook(link, looks);
    ctx.ellipse(x, y, rx, ry, (turn * Math.PI) / 180, 0, 7);
    ctx.strokeStyle = contour;
    ctx.lineWidth = thick + 0.24;
    ctx.stroke();
    if (filled) {
      ctx.fillStyle = colour;
      ctx.fill();
    } else {
      ctx.strokeStyle = colour;
      ctx.lineWidth = thick;
      ctx.stroke();
    }
  }
  ctx.strokeStyle = ink;
  ctx.globalAlpha = 0.65;
  ctx.lineWidth = 0.35;
  for (const coil of picture.coils) {
    ctx.beginPath();
    ctx.ellipse(coil.x, coil.y, coil.rx, coil.ry, 0, 0, 2 * Math.PI * coil.share);
    ctx.stroke();
  }
  ctx.globalAlpha = 1;

  const stampOf = (name: string, look: Appearance): Stamp => {
    const known = stamps.of.get(name);
    if (known?.look === look || (known && sameLook(known.look, look))) return known;
    const made: Stamp = { look, stamp: beadStamp(look, k, contour), turned: [] };
    stamps.of.set(name, made);
    return made;
  };
  const put = ({ stamp, turned }: Stamp, x: number, y: number, turn: number, flipped = false) => {
    let shown = stamp;
    if (flipped || Math.abs(turn) >= 0.01) {
      const steps = stepsOf(stamp.width);
      const step = (((Math.round((turn / 360) * steps) % steps) + steps) % steps) + (flipped ? steps : 0);
      shown = turned[step] ??= turnStamp(stamp, ((step % steps) / steps) * 2 * Math.PI, flipped);
    }
    ctx.drawImage(shown, (x - left) * k - shown.width / 2, (y - top) * k - shown.height / 2);
  };
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  const one = (mark: Mark) => {
    if (mark.x < left - 20 || mark.x > right + 20 || mark.y < top - 20 || mark.y > bottom + 20) return;
    const look = looks.get(mark.drawn);
    if (!look) return;
    ctx.globalAlpha = !lit || isLit(mark, lit) ? 1 : 0.28;
    put(stampOf(mark.drawn, look), mark.x, mark.y, mark.turn, mark.flipped);
    if (!isChosen?.(mark)) return;
    const angle = (mark.turn * Math.PI) / 180;
    const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
    ctx.setTransform(cos, sin, -sin, cos, (mark.x - left) * k, (mark.y - top) * k);
    ctx.globalAlpha = 1;
    ctx.strokeStyle = inks.action;
    ctx.lineWidth = 2.5 * dense;
    const [w, h] = [look.alongMm * k, look.acrossMm * k];
    ctx.strokeRect(-w / 2 - dense, -h / 2 - 2 * dense, w + 2 * dense, h + 4 * dense);
    ctx.setTransform(1, 0, 0, 1, 0, 0);
  };
  let done = 0;
  for (const behind of [true, false]) {
    for (const mark of picture.marks) {
      if ((mark.behind ?? false) !== behind) continue;
      one(mark);
      if (++done % aSlice === 0) yield;
    }
  }
  for (const f of picture.fittings) {
    if (f.x < left - 40 || f.x > right + 40) continue;
    ctx.globalAlpha = !lit || lit.key === f.key ? 1 : 0.28;
    const stamp = stampOf(`${f.key} ${f.shape} ${f.alongMm} ${f.acrossMm}`, lookOfFitting(f, looks));
    put(stamp, f.x, f.y, f.turn, f.flipped);
  }
  ctx.globalAlpha = 1;
  if (!path || picture.path.length < 2) return;
  plain();
  ctx.strokeStyle = inks.action;
  ctx.lineWidth = 1.4 / scale;
  ctx.beginPath();
  for (const p of picture.path) ctx.lineTo(p.x, p.y);
  ctx.stroke();
}

const sameLook = (a: Appearance, b: Appearance) =>
  a.shape === b.shape &&
  a.colour === b.colour &&
  a.finish === b.finish &&
  a.alongMm === b.alongMm &&
  a.acrossMm === b.acrossMm;

const isLit = (mark: Mark, lit: Lit) =>
  lit.from === undefined || lit.to === undefined
    ? mark.key === lit.key
    : mark.part === lit.part && mark.from < lit.to && mark.to > lit.from;
