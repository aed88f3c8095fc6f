import type { Appearance, Mark, Picture } from "@jar-count/core/picture";
import { MM_PER_INCH } from "@jar-count/core/units";
import { ticks } from "d3-array";
import { scaleLinear } from "d3-scale";
import { useEffect, useId, useLayoutEffect, useMemo, useRef, useState } from "react";
import { useSettings } from "../app/settings.ts";
import { beadSvg } from "./bead.ts";

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

/** The strand to scale, over a ruler in the person's unit. */
export function StrandPicture({ picture, looks, bare, label, lit, onLight }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(780);
  useLayoutEffect(() => {
    const element = frame.current!;
    const seen = new ResizeObserver(([entry]) => setWidth(entry!.contentRect.width));
    seen.observe(element);
    return () => seen.disconnect();
  }, []);
  const id = useId();

  const pad = 8;
  const wide = picture.right - picture.left + 2 * pad;
  const tall = Math.max(picture.bottom - picture.top, 4) + 4;
  const fits = Math.min(width / wide, TALLEST / tall, MOST);
  const scale = bare ? Math.min(width / Math.min(wide, 160), 40 / tall, 5) : Math.max(fits, Math.min(LEAST, TALLEST / tall));
  const [w, h] = [Math.max(wide * scale, bare ? 0 : width), tall * scale];
  const left = picture.left - pad;
  const view = `${left} ${picture.top - 2} ${w / scale} ${h / scale}`;

  const beads = useMemo(() => {
    const names = [...looks.keys()];
    const defs = names.map((key, i) => `<g id="${id}-${i}">${beadSvg(looks.get(key)!, `${id}-${i}`)}</g>`).join("");
    const index = new Map(names.map((key, i) => [key, i]));
    const n = (x: number) => Math.round(x * 100) / 100;
    const links = picture.links
      .map((l) => `<ellipse cx="${n(l.x)}" cy="${n(l.y)}" rx="${n(l.lengthMm * 0.6)}" ry="${n(l.lengthMm * 0.3)}"/>`)
      .join("");
    const marks = picture.marks
      .map((m) => {
        const turn = Math.abs(m.turn) < 0.01 ? "" : ` rotate(${n(m.turn)})`;
        return `<use href="#${id}-${index.get(m.drawn) ?? 0}" transform="translate(${n(m.x)} ${n(m.y)})${turn}" data-k="${m.key}"/>`;
      })
      .join("");
    const threads = picture.threads
      .map((t) => `<path d="M${n(t.x1)} ${n(t.y1)}L${n(t.x2)} ${n(t.y2)}"/>`)
      .join("");
    return `<defs>${defs}</defs><g stroke="var(--contour)" stroke-width="0.25" fill="none">${threads}</g><g fill="none" stroke="var(--ink)" stroke-opacity="0.65" stroke-width="0.35">${links}</g><g class="beads">${marks}</g>`;
  }, [picture, looks, id]);

  const art = useRef<SVGSVGElement>(null);
  useEffect(() => {
    const marks = art.current?.querySelectorAll<SVGUseElement>(".beads > use");
    marks?.forEach((element, i) => {
      const mark = picture.marks[i];
      element.style.opacity = !lit || !mark || isLit(mark, lit) ? "" : "0.28";
    });
  }, [lit, picture, beads]);

  const point = (e: React.PointerEvent) => {
    const use = (e.target as Element).closest("use");
    if (!use) return onLight?.(null);
    const mark = picture.marks[[...use.parentElement!.children].indexOf(use)];
    onLight?.(mark ? { key: mark.key, part: mark.part, from: mark.from, to: mark.to } : null);
  };

  const drawing = (
    <svg ref={art} width={w} height={h} viewBox={view} role="img" aria-label={label ?? "The strand, drawn"} className="block" data-testid="strand"
      onPointerMove={onLight && point} onPointerLeave={onLight && (() => onLight(null))} dangerouslySetInnerHTML={{ __html: beads }} />
  );
  if (bare) return <div ref={frame} className="overflow-hidden">{drawing}</div>;
  return (
    <div className="border-y border-rule bg-board">
      <div ref={frame} className="overflow-x-auto" tabIndex={w > width + 1 ? 0 : undefined} role={w > width + 1 ? "region" : undefined} aria-label={w > width + 1 ? "Strand, scroll sideways" : undefined}>
        <div style={{ width: w }}>
          <div className="flex min-h-24 items-center">{drawing}</div>
          <Ruler width={w} scale={scale} left={left} />
        </div>
      </div>
      {picture.leftOut > 0 && (
        <p className="bg-paper px-6 py-1 text-sm text-muted">More beads than can be drawn: the first {picture.marks.length.toLocaleString("en")} are shown, all are counted.</p>
      )}
    </div>
  );
}

const isLit = (mark: Mark, lit: Lit) =>
  lit.from === undefined || lit.to === undefined ? mark.key === lit.key : mark.part === lit.part && mark.from < lit.to && mark.to > lit.from;

function Ruler({ width, scale, left }: { width: number; scale: number; left: number }) {
  const unit = useSettings((s) => s.unit);
  const per = unit === "in" ? MM_PER_INCH : 1;
  const x = scaleLinear([left / per, (left + width / scale) / per], [0, width]);
  const [from, to] = x.domain() as [number, number];
  const most = Math.max(2, Math.floor(width / 70));
  const labelled = ticks(Math.max(0, from), to, most).filter((t) => unit === "mm" || Number.isInteger(t));
  const gap = labelled.length > 1 ? labelled[1]! - labelled[0]! : 1;
  const small = ticks(Math.max(0, from), to, Math.max(2, Math.round((to - from) / (unit === "in" ? Math.max(gap / 4, 0.25) : gap / 5))));
  return (
    <svg width={width} height={26} aria-hidden className="block text-ink">
      <path d={`M0 .5H${width}`} stroke="currentColor" strokeOpacity=".45" />
      {small.map((t) => <path key={t} d={`M${x(t)} 0V5`} stroke="currentColor" strokeOpacity=".45" />)}
      {labelled.map((t) => (
        <g key={t} transform={`translate(${x(t)} 0)`}>
          <path d="M0 0V10" stroke="currentColor" strokeOpacity=".75" />
          <text x="4" y="20" fontSize="11" fill="currentColor">{t} {unit}</text>
        </g>
      ))}
    </svg>
  );
}
