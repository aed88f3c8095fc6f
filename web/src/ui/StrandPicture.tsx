import type { Appearance, Mark, Picture } from "@jar-count/core/picture";
import { MM_PER_INCH } from "@jar-count/core/units";
import { ticks } from "d3-array";
import { memo, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { useSettings } from "../app/settings.ts";
import { beadStamp } from "./bead.ts";

/** A bead, or a stretch of the text, that is being pointed at. */
export interface Lit {
  key: string;
  part?: string | undefined;
  from?: number | undefined;
  to?: number | undefined;
}

interface Props {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  /** Without board and ruler: for cards. */
  bare?: boolean;
  label?: string;
  lit?: Lit | null;
  onLight?: (lit: Lit | null) => void;
}

const LEAST = 2.2; // px a mm: smaller, and single seed beads can't be told apart
const MOST = 9;
const TALLEST = 250;
const PAD = 8; // mm left and right

/**
 * The strand to scale, over a ruler in the person's unit. Drawn on a canvas no wider than its frame, so that a
 * thousand beads are redrawn within a frame at every keystroke; scrolling redraws what comes into view.
 */
export function StrandPicture({ picture, looks, bare, label, lit, onLight }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(780);
  const [scrolled, setScrolled] = useState(0);
  const theme = useThemeName();
  useLayoutEffect(() => {
    const seen = new ResizeObserver(([entry]) => setWidth(Math.max(50, Math.floor(entry!.contentRect.width))));
    seen.observe(frame.current!);
    return () => seen.disconnect();
  }, []);

  const wide = picture.right - picture.left + 2 * PAD;
  const tall = Math.max(picture.bottom - picture.top, 4) + 4;
  const fits = Math.min(width / wide, TALLEST / tall, MOST);
  const scale = bare ? Math.min(width / Math.min(wide, 160), 40 / tall, 5) : Math.max(fits, Math.min(LEAST, TALLEST / tall));
  const whole = Math.max(Math.ceil(wide * scale), width);
  const height = Math.ceil(tall * scale);
  const left = picture.left - PAD;
  const from = Math.min(scrolled, whole - width);

  // Stamps hold for one scale and theme, and for as long as a bead looks the same.
  const inks = useMemo(() => {
    const colours = getComputedStyle(document.documentElement);
    return { for: theme, contour: colours.getPropertyValue("--contour"), ink: colours.getPropertyValue("--ink") };
  }, [theme]);
  const stamps = useMemo(() => ({ for: `${scale} ${theme}`, of: new Map<string, { look: Appearance; stamp: HTMLCanvasElement }>() }), [scale, theme]);
  useLayoutEffect(() => {
    draw(canvas.current!, { picture, looks, stamps, inks, scale, left: left + from / scale, top: picture.top - 2, width, height, lit: lit ?? null });
  }, [picture, looks, stamps, inks, scale, left, from, width, height, lit]);

  const point = (e: React.PointerEvent) => {
    const at = e.currentTarget.getBoundingClientRect();
    const x = (e.clientX - at.left) / scale + left + from / scale;
    const y = (e.clientY - at.top) / scale + picture.top - 2;
    const mark = markAt(picture, looks, x, y);
    onLight?.(mark ? { key: mark.key, part: mark.part, from: mark.from, to: mark.to } : null);
  };

  const drawing = (
    <canvas ref={canvas} role="img" aria-label={label ?? "The strand, drawn"} data-testid="strand" data-beads={picture.marks.length} style={{ width, height }}
      className="sticky left-0 block" onPointerMove={onLight && point} onPointerLeave={onLight && (() => onLight(null))} />
  );
  if (bare) return <div ref={frame} className="overflow-hidden">{drawing}</div>;
  const scrolls = whole > width + 1;
  return (
    <div className="border-y border-rule bg-board">
      <div ref={frame} className="overflow-x-auto" onScroll={(e) => setScrolled(e.currentTarget.scrollLeft)} tabIndex={scrolls ? 0 : undefined} role={scrolls ? "region" : undefined} aria-label={scrolls ? "Strand, scroll sideways" : undefined}>
        <div style={{ width: whole }}>
          <div className="flex min-h-24 items-center">{drawing}</div>
          <Ruler width={whole} scale={scale} left={left} />
        </div>
      </div>
      {picture.leftOut > 0 && (
        <p className="bg-paper px-6 py-1 text-sm text-muted">More beads than can be drawn: the first {picture.marks.length.toLocaleString("en")} are shown, all are counted.</p>
      )}
    </div>
  );
}

interface Drawing {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  /** Beads drawn once each, to be stamped: filled as they are needed. */
  stamps: { of: Map<string, { look: Appearance; stamp: HTMLCanvasElement }> };
  inks: { contour: string; ink: string };
  scale: number;
  /** What lies at the canvas's left and top edge, mm. */
  left: number;
  top: number;
  width: number;
  height: number;
  lit: Lit | null;
}

function draw(canvas: HTMLCanvasElement, { picture, looks, stamps, inks, scale, left, top, width, height, lit }: Drawing) {
  const dense = window.devicePixelRatio || 1;
  const [w, h] = [Math.round(width * dense), Math.round(height * dense)];
  if (canvas.width !== w || canvas.height !== h) {
    canvas.width = w;
    canvas.height = h;
  }
  const ctx = canvas.getContext("2d")!;
  ctx.setTransform(1, 0, 0, 1, 0, 0);
  ctx.clearRect(0, 0, w, h);
  const { contour, ink } = inks;
  const k = scale * dense;
  const right = left + width / scale;

  ctx.setTransform(k, 0, 0, k, -left * k, -top * k);
  ctx.strokeStyle = contour;
  ctx.lineWidth = 0.25;
  ctx.beginPath();
  for (const t of picture.threads) {
    ctx.moveTo(t.x1, t.y1);
    ctx.lineTo(t.x2, t.y2);
  }
  ctx.stroke();
  ctx.strokeStyle = ink;
  ctx.globalAlpha = 0.65;
  ctx.lineWidth = 0.35;
  for (const link of picture.links) {
    if (link.x + link.lengthMm < left || link.x - link.lengthMm > right) continue;
    ctx.beginPath();
    ctx.ellipse(link.x, link.y, link.lengthMm * 0.6, link.lengthMm * 0.3, 0, 0, 2 * Math.PI);
    ctx.stroke();
  }
  for (const mark of picture.marks) {
    if (mark.x < left - 20 || mark.x > right + 20) continue;
    const look = looks.get(mark.drawn);
    if (!look) continue;
    let held = stamps.of.get(mark.drawn);
    if (held?.look !== look) stamps.of.set(mark.drawn, (held = { look, stamp: beadStamp(look, k, contour) }));
    const { stamp } = held;
    ctx.globalAlpha = !lit || isLit(mark, lit) ? 1 : 0.28;
    const [x, y] = [(mark.x - left) * k, (mark.y - top) * k];
    if (Math.abs(mark.turn) < 0.01) ctx.setTransform(1, 0, 0, 1, x, y);
    else {
      const angle = (mark.turn * Math.PI) / 180;
      ctx.setTransform(Math.cos(angle), Math.sin(angle), -Math.sin(angle), Math.cos(angle), x, y);
    }
    ctx.drawImage(stamp, -stamp.width / 2, -stamp.height / 2);
  }
  ctx.globalAlpha = 1;
}

/** The bead under a point: the last drawn lies on top. */
function markAt({ marks }: Picture, looks: ReadonlyMap<string, Appearance>, x: number, y: number): Mark | undefined {
  return marks.findLast((mark) => {
    const look = looks.get(mark.drawn);
    if (!look) return false;
    const turned = Math.abs(Math.sin((mark.turn * Math.PI) / 180)) > 0.5;
    const [w, h] = turned ? [look.acrossMm, look.alongMm] : [look.alongMm, look.acrossMm];
    return Math.abs(mark.x - x) <= w / 2 && Math.abs(mark.y - y) <= h / 2;
  });
}

const isLit = (mark: Mark, lit: Lit) =>
  lit.from === undefined || lit.to === undefined ? mark.key === lit.key : mark.part === lit.part && mark.from < lit.to && mark.to > lit.from;

/** The theme that is shown now: what is drawn takes its colours from it. */
function useThemeName() {
  return useSyncExternalStore(
    (changed) => {
      const seen = new MutationObserver(changed);
      seen.observe(document.documentElement, { attributeFilter: ["data-theme"] });
      return () => seen.disconnect();
    },
    () => document.documentElement.dataset.theme,
  );
}

/** Its places are rounded, so that a strand that grows at its end leaves the ticks before it as they were. */
const Ruler = memo(function Ruler({ width, scale, left }: { width: number; scale: number; left: number }) {
  const unit = useSettings((s) => s.unit);
  const per = unit === "in" ? MM_PER_INCH : 1;
  const [from, to] = [left / per, (left + width / scale) / per];
  const x = (t: number) => Math.round((t * per - left) * scale * 10) / 10;
  const most = Math.max(2, Math.floor(width / 70));
  const labelled = ticks(Math.max(0, from), to, most).filter((t) => unit === "mm" || Number.isInteger(t));
  const gap = labelled.length > 1 ? labelled[1]! - labelled[0]! : 1;
  const small = ticks(Math.max(0, from), to, Math.max(2, Math.round((to - from) / (unit === "in" ? Math.max(gap / 4, 0.25) : gap / 5))));
  return (
    <svg width={width} height={26} aria-hidden className="block text-ink">
      <path d={`M0 .5H${width}`} stroke="currentColor" strokeOpacity=".45" />
      <path d={small.map((t) => `M${x(t)} 0V5`).join("")} stroke="currentColor" strokeOpacity=".45" />
      {labelled.map((t) => (
        <g key={t} transform={`translate(${x(t)} 0)`}>
          <path d="M0 0V10" stroke="currentColor" strokeOpacity=".75" />
          <text x="4" y="20" fontSize="11" fill="currentColor">{t} {unit}</text>
        </g>
      ))}
    </svg>
  );
});
