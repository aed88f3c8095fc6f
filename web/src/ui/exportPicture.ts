import {
  type Appearance,
  colourOf,
  type Fitting,
  linkLook,
  lookOfFitting,
  type Picture,
} from "@jar-count/core/picture";
import { MM_PER_INCH, type LengthUnit } from "@jar-count/core/units";
import { ticks } from "d3-array";
import { beadSvg } from "./bead.ts";

const PAD = 6;
const RULER = 9;
const INKS: [RegExp, string][] = [
  [/var\(--contour\)/g, "rgb(60 60 60)"],
  [/var\(--ink\)/g, "#222"],
  [/var\(--board\)/g, "#d4d4d4"],
];

/** How a picture is put on paper: without its ruler and ground, with the thread's way over it. */
export interface OnPaper {
  bare?: boolean;
  path?: readonly { x: number; y: number }[];
}

/** The picture as SVG in millimetres, true to scale when it is printed, over its ruler. */
export function pictureAsSvg(
  picture: Picture,
  looks: ReadonlyMap<string, Appearance>,
  unit: LengthUnit,
  { bare = false, path = [] }: OnPaper = {},
): string {
  const n = (x: number) => Number(x.toFixed(3));
  const pad = bare ? 2 : PAD;
  const [left, top] = [picture.left - pad, picture.top - pad];
  const wide = picture.right - picture.left + 2 * pad;
  const tall = picture.bottom - picture.top + 2 * pad + (bare ? 0 : RULER);
  const shown = new Map<string, Appearance>();
  const nameOf = (f: Fitting) => `${f.key} ${f.shape} ${f.alongMm} ${f.acrossMm}`;
  for (const m of picture.marks) if (looks.has(m.drawn)) shown.set(m.drawn, looks.get(m.drawn)!);
  for (const f of picture.fittings) shown.set(nameOf(f), lookOfFitting(f, looks));
  const ids = new Map([...shown.keys()].map((key, i) => [key, `b${i}`]));
  const symbols = [...ids].map(([key, id]) => `<g id="${id}">${beadSvg(shown.get(key)!, id)}</g>`).join("");
  const threads = picture.lines
    .map(({ points, key, wideMm }) => {
      const d = `M${points.map((p) => `${n(p.x)} ${n(p.y)}`).join("L")}`;
      const colour = wideMm < 0.45 ? "#777" : colourOf(key, looks, "#777");
      return `<path d="${d}" stroke="${colour}" stroke-width="${Math.max(0.25, wideMm)}"/>`;
    })
    .join("");
  const links = picture.links
    .map((l) => {
      const { rx, ry, thick, colour, filled } = linkLook(l, looks);
      const link =
        `<ellipse cx="${n(l.x)}" cy="${n(l.y)}" rx="${n(rx)}" ry="${n(ry)}" ` +
        `transform="rotate(${n(l.turn)} ${n(l.x)} ${n(l.y)})"`;
      if (filled) return `${link} fill="${colour}"/>`;
      return `${link} stroke-width="${n(thick + 0.24)}"/>${link} stroke="${colour}" stroke-width="${n(thick)}"/>`;
    })
    .join("");
  // The two halves of a turn, as far as it goes.
  const coils = picture.coils
    .map(({ x, y, rx, ry, share }) => {
      const at = (angle: number) => `${n(x + rx * Math.cos(angle))} ${n(y + ry * Math.sin(angle))}`;
      const ends = share > 0.5 ? [Math.PI, 2 * Math.PI * share] : [2 * Math.PI * share];
      return `<path d="M${at(0)}${ends.map((end) => `A${n(rx)} ${n(ry)} 0 0 1 ${at(end)}`).join("")}"/>`;
    })
    .join("");
  const use = (id: string | undefined, m: Pick<Fitting, "x" | "y" | "turn" | "flipped">) =>
    `<use href="#${id}" transform="translate(${n(m.x)} ${n(m.y)})${m.turn ? ` rotate(${n(m.turn)})` : ""}` +
    `${m.flipped ? " scale(-1 1)" : ""}"/>`;
  const beads = [
    ...[...picture.marks]
      .sort((a, b) => Number(b.behind ?? false) - Number(a.behind ?? false))
      .map((m) => use(ids.get(m.drawn), m)),
    ...picture.fittings.map((f) => use(ids.get(nameOf(f)), f)),
  ].join("");
  const per = unit === "in" ? MM_PER_INCH : 1;
  const y = picture.bottom + PAD;
  const zero = picture.form === "strip" ? 0 : picture.left;
  const marks = ticks(0, (picture.right - zero) / per, Math.max(2, Math.min(20, Math.floor(wide / 20)))).filter(
    (t) => unit === "mm" || Number.isInteger(t),
  );
  const ruler = marks
    .map(
      (t) =>
        `<path d="M${n(zero + t * per)} ${n(y)}v3" stroke="#222" stroke-width=".3"/><text ` +
        `x="${n(zero + t * per + 0.6)}" y="${n(y + 5)}" font-size="3" font-family="sans-serif" ` +
        `fill="#222">${t} ${unit}</text>`,
    )
    .join("");
  const way = path.map((p) => `${n(p.x)} ${n(p.y)}`).join("L");
  const over = way && `<path d="M${way}" fill="none" stroke="#a3243b" stroke-width=".35" stroke-linejoin="round"/>`;
  const ground = `<rect x="${n(left)}" y="${n(top)}" width="${n(wide)}" height="${n(tall)}" fill="#d4d4d4"/>`;
  const svg =
    `<svg xmlns="http://www.w3.org/2000/svg" width="${n(wide)}mm" height="${n(tall)}mm" ` +
    `viewBox="${n(left)} ${n(top)} ${n(wide)} ${n(tall)}">${bare ? "" : ground}<defs>${symbols}</defs>` +
    `<g fill="none" stroke-linejoin="round">${threads}</g><g fill="none" stroke="#333" ` +
    `stroke-width=".35">${links}${coils}</g>${beads}${over}` +
    (bare
      ? "</svg>"
      : `<path d="M${n(zero)} ${n(y)}H${n(picture.right)}" stroke="#222" stroke-width=".3"/>${ruler}</svg>`);
  return INKS.reduce((text, [from, to]) => text.replace(from, to), svg);
}

/** The same as PNG, so many pixels a millimetre, at most 8,000 wide. */
export async function svgAsPng(svg: string, pxPerMm = 12): Promise<Blob> {
  const image = new Image();
  image.src = `data:image/svg+xml;charset=utf-8,${encodeURIComponent(svg)}`;
  await image.decode();
  const [, wide, tall] = /width="([\d.]+)mm" height="([\d.]+)mm"/.exec(svg)!.map(Number) as [number, number, number];
  const scale = Math.min(pxPerMm, 8000 / wide);
  const canvas = document.createElement("canvas");
  canvas.width = Math.round(wide * scale);
  canvas.height = Math.round(tall * scale);
  canvas.getContext("2d")!.drawImage(image, 0, 0, canvas.width, canvas.height);
  return new Promise((resolve) => canvas.toBlob((blob) => resolve(blob!), "image/png"));
}
