import type { Appearance, Mark, Picture } from "@jar-count/core/picture";
import { type LengthUnit, MM_PER_INCH } from "@jar-count/core/units";
import { range, tickStep } from "d3-array";
import { memo, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from "react";
import { useSettings } from "../settings/index.ts";
import { inksOf, type Lit, makeDrawer, stampsFor } from "./drawPicture.ts";

export type { Lit } from "./drawPicture.ts";

interface Props {
  picture: Picture;
  looks: ReadonlyMap<string, Appearance>;
  label?: string;
  lit?: Lit | null;
  onLight?: (lit: Lit | null) => void;
  /** How much larger than fitting its frame. */
  zoom?: number;
  /** The thread's way, drawn over the beads. */
  path?: boolean;
  building?: Building | undefined;
}

/** What can be done to the beads by pointing at them: each is named by its place among the picture's marks. */
export interface Building {
  isChosen: (mark: Mark) => boolean;
  onChoose: (index: number, extend: boolean) => void;
  onKey: (e: React.KeyboardEvent) => void;
  /** Something was dropped beside a bead: a key from the bead key, or (null) the stretch that was dragged. */
  onDrop: (key: string | null, index: number | null, side: "before" | "after") => void;
}

/** What a bead's chip carries when it is dragged. */
export const DRAGGED_KEY = "application/x-jar-count-key";

const LEAST = 2.2; // px a mm: smaller, and single seed beads look alike
const MOST = 9;
/** Rows, key and picture are seen at once: the picture takes less than a third of a window's height. */
const tallestHere = () => Math.max(180, Math.min(430, window.innerHeight * 0.28));
const PAD = 8; // mm left and right

/**
 * The strand to scale, over a ruler in the person's unit. Drawn on a canvas no wider than its frame, so that a
 * thousand beads are redrawn within a frame at every keystroke; scrolling redraws what comes into view.
 */
export function StrandPicture({ picture, looks, label, lit, onLight, zoom = 1, path = false, building }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [width, setWidth] = useState(780);
  const [scrolled, setScrolled] = useState({ x: 0, y: 0 });
  const theme = useThemeName();
  const unit = useSettings((s) => s.unit);
  useLayoutEffect(() => {
    const seen = new ResizeObserver(([entry]) => setWidth(Math.max(50, Math.floor(entry!.contentRect.width))));
    seen.observe(frame.current!);
    return () => seen.disconnect();
  }, []);

  const wide = picture.right - picture.left + 2 * PAD;
  const tall = Math.max(picture.bottom - picture.top, 4) + 4;
  const worn = picture.form === "worn";
  const centred = worn || picture.form === "ring";
  const tallest = tallestHere();
  const fits = Math.min(width / wide, tallest / tall, MOST);
  // The whole piece is shown whole; a strand as large as single beads can be told.
  const scale = zoom === 0 ? fits : (worn ? fits : Math.max(fits, Math.min(LEAST, tallest / tall))) * zoom;
  const whole = Math.max(Math.ceil(wide * scale), width);
  const height = Math.ceil(tall * scale);
  // A ring stands in the middle; a strand begins at the left, where its ruler does.
  const left = centred ? (picture.left + picture.right) / 2 - whole / scale / 2 : picture.left - PAD;
  // The frame of a piece that is seen whole keeps its height, so that nothing below it moves while one zooms.
  const framed = centred ? Math.ceil(tallest) : Math.min(Math.max(height, 96), Math.floor(window.innerHeight * 0.64));
  const view = Math.min(height, framed);
  const from = Math.min(scrolled.x, whole - width);
  const down = Math.min(scrolled.y, height - view);

  const inks = useMemo(() => inksOf(theme), [theme]);
  const stamps = useMemo(() => stampsFor(`${scale} ${theme}`), [scale, theme]);
  const isChosen = building?.isChosen;
  const drawer = useRef<ReturnType<typeof makeDrawer> | null>(null);
  useLayoutEffect(() => {
    drawer.current ??= makeDrawer(canvas.current!);
    return drawer.current({
      picture,
      looks,
      stamps,
      inks,
      scale,
      left: left + from / scale,
      top: picture.top - 2 + down / scale,
      width,
      height: view,
      lit: lit ?? null,
      path,
      isChosen,
    });
  }, [picture, looks, stamps, inks, scale, left, from, down, width, view, lit, path, isChosen]);

  const at = (e: { clientX: number; clientY: number; currentTarget: Element }) => {
    const box = e.currentTarget.getBoundingClientRect();
    return {
      x: (e.clientX - box.left) / scale + left + from / scale,
      y: (e.clientY - box.top) / scale + picture.top - 2 + down / scale,
    };
  };
  const pressed = useRef<{ index: number; x: number; y: number; moves: boolean } | null>(null);
  const point = (e: React.PointerEvent) => {
    const { x, y } = at(e);
    const index = markAt(picture, looks, x, y);
    const mark = picture.marks[index];
    onLight?.(mark ? { key: mark.key, part: mark.part, from: mark.from, to: mark.to } : null);
    const pressedOn = pressed.current;
    if (!pressedOn || !building) return;
    if (!pressedOn.moves && index >= 0 && index !== pressedOn.index && (e.buttons & 1) === 1)
      building.onChoose(index, true);
  };
  const press = (e: React.PointerEvent) => {
    if (!building || e.button !== 0) return;
    const { x, y } = at(e);
    const index = markAt(picture, looks, x, y);
    const mark = picture.marks[index];
    frame.current!.focus({ preventScroll: true });
    if (!mark) return;
    // A press on a chosen bead takes the stretch along; on another one it begins a new choice.
    const moves = !e.shiftKey && building.isChosen(mark);
    pressed.current = { index, x: e.clientX, y: e.clientY, moves };
    if (moves) e.currentTarget.setPointerCapture(e.pointerId);
    else building.onChoose(index, e.shiftKey);
  };
  const release = (e: React.PointerEvent) => {
    const pressedOn = pressed.current;
    pressed.current = null;
    if (!pressedOn?.moves || !building) return;
    const { x, y } = at(e);
    if (Math.hypot(e.clientX - pressedOn.x, e.clientY - pressedOn.y) < 6)
      return building.onChoose(pressedOn.index, false);
    const index = nearest(picture, x, y);
    if (index !== null) building.onDrop(null, index, sideOf(picture.marks[index]!, x, y));
  };
  const drop = (e: React.DragEvent) => {
    const key = e.dataTransfer.getData(DRAGGED_KEY);
    if (!key || !building) return;
    e.preventDefault();
    const { x, y } = at(e);
    const index = nearest(picture, x, y);
    building.onDrop(key, index, index === null ? "after" : sideOf(picture.marks[index]!, x, y));
  };

  const drawing = (
    <canvas
      ref={canvas}
      role="img"
      aria-label={label ?? "The strand, drawn"}
      data-testid="strand"
      data-beads={picture.marks.length}
      data-fittings={picture.fittings.length}
      data-form={picture.form}
      data-scale={scale}
      data-zero={-left * scale}
      style={{ width, height: view }}
      className={`sticky top-0 left-0 block ${building ? "touch-none" : ""}`}
      onPointerMove={onLight && point}
      onPointerLeave={onLight && (() => onLight(null))}
      onPointerDown={building && press}
      onPointerUp={building && release}
      onDragOver={building && ((e) => e.dataTransfer.types.includes(DRAGGED_KEY) && e.preventDefault())}
      onDrop={building && drop}
    />
  );
  const scrolls = whole > width + 1;
  const ruledFrom = centred ? 0 : left;
  return (
    <div className={`border-y border-rule ${worn ? "bg-mat" : "bg-board"}`}>
      <div
        ref={frame}
        className="overflow-auto focus-visible:-outline-offset-2"
        style={centred ? { height: framed } : { maxHeight: framed }}
        onScroll={({ currentTarget: at }) => setScrolled({ x: at.scrollLeft, y: at.scrollTop })}
        onKeyDown={building?.onKey}
        {...(building
          ? {
              tabIndex: 0,
              role: "application",
              "aria-label": "Beads on the strand: arrows move, shift and arrows choose",
            }
          : scrolls
            ? { tabIndex: 0, role: "region", "aria-label": "Strand, scroll sideways" }
            : {})}
      >
        <div
          className={centred ? "" : "flex min-h-24 items-center"}
          style={{ width: whole, height: Math.max(height, centred ? 0 : 96) }}
        >
          {drawing}
        </div>
      </div>
      {!worn && (
        <Ruler
          unit={unit}
          width={width}
          scale={scale}
          left={ruledFrom + from / scale}
          from={ruledFrom}
          to={ruledFrom + whole / scale}
        />
      )}
      {picture.leftOut > 0 && (
        <p className="bg-paper px-6 py-1 text-sm text-muted">
          More beads than can be drawn: the first {picture.marks.length.toLocaleString("en")} are shown, all are
          counted.
        </p>
      )}
    </div>
  );
}

/** The bead whose middle is nearest, or null on an empty board. */
function nearest({ marks }: Picture, x: number, y: number): number | null {
  let best: number | null = null;
  let least = Infinity;
  marks.forEach((m, i) => {
    const far = Math.hypot(m.x - x, m.y - y);
    if (far < least) [least, best] = [far, i];
  });
  return best;
}

/** On which side of a bead a point lies, the way the thread runs. */
function sideOf(mark: Mark, x: number, y: number): "before" | "after" {
  const angle = (mark.turn * Math.PI) / 180;
  return (x - mark.x) * Math.cos(angle) + (y - mark.y) * Math.sin(angle) < 0 ? "before" : "after";
}

/** Which bead lies under a point, -1 for none: the last drawn lies on top. */
function markAt({ marks }: Picture, looks: ReadonlyMap<string, Appearance>, x: number, y: number): number {
  return marks.findLastIndex((mark) => {
    const look = looks.get(mark.drawn);
    if (!look) return false;
    const angle = (mark.turn * Math.PI) / 180;
    const along = (x - mark.x) * Math.cos(angle) + (y - mark.y) * Math.sin(angle);
    const across = (y - mark.y) * Math.cos(angle) - (x - mark.x) * Math.sin(angle);
    return Math.abs(along) <= look.alongMm / 2 && Math.abs(across) <= look.acrossMm / 2;
  });
}

/** The theme that is shown now: what is drawn takes its colours from it. */
export function useThemeName() {
  return useSyncExternalStore(
    (changed) => {
      const seen = new MutationObserver(changed);
      seen.observe(document.documentElement, { attributeFilter: ["data-theme"] });
      return () => seen.disconnect();
    },
    () => document.documentElement.dataset.theme,
  );
}

interface RulerProps {
  unit: LengthUnit;
  /** Of the part that is in view, px, and px a mm. */
  width: number;
  scale: number;
  /** What lies at its left edge, and from where to where the whole strand goes, mm. */
  left: number;
  from: number;
  to: number;
}

/** The marks of the ruler that are in view: which are named follows from the whole strand, so scrolling keeps them. */
const Ruler = memo(function Ruler({ unit, width, scale, left, from, to }: RulerProps) {
  const per = unit === "in" ? MM_PER_INCH : 1;
  const most = Math.max(2, Math.floor(((to - from) * scale) / 70));
  const step = tickStep(from / per, to / per, most);
  const named = unit === "in" ? Math.max(1, step) : step;
  const small = unit === "in" && named === 1 ? 0.25 : tickStep(0, named, unit === "in" ? 4 : 5);
  const [first, last] = [Math.max(0, left / per), (left + width / scale) / per];
  const marks = (each: number) =>
    range(Math.ceil(first / each - 1e-9), Math.floor(last / each + 1e-9) + 1).map((n) => Number((n * each).toFixed(4)));
  const x = (t: number) => Math.round((t * per - left) * scale * 10) / 10;
  return (
    <svg width={width} height={26} aria-hidden className="sticky left-0 block text-ink">
      <path d={`M0 .5H${width}`} stroke="currentColor" strokeOpacity=".45" />
      <path
        d={marks(small)
          .map((t) => `M${x(t)} 0V5`)
          .join("")}
        stroke="currentColor"
        strokeOpacity=".45"
      />
      {marks(named).map((t) => (
        <g key={t} transform={`translate(${x(t)} 0)`}>
          <path d="M0 0V10" stroke="currentColor" strokeOpacity=".75" />
          <text x="4" y="20" fontSize="11" fill="currentColor">
            {t} {unit}
          </text>
        </g>
      ))}
    </svg>
  );
});
