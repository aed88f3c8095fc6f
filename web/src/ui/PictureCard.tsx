import type { Appearance, Picture } from "@jar-count/core/picture";
import { memo, useEffect, useLayoutEffect, useRef, useState } from "react";
import { drawPicture, inksOf, stampsFor } from "./drawPicture.ts";
import { useThemeName } from "./StrandPicture.tsx";

interface Props {
  /** What it is a picture of: the same object is drawn once and kept. */
  of: object;
  /** The picture and its looks, asked for when the card first comes near the view. */
  make: () => { picture: Picture; looks: ReadonlyMap<string, Appearance> } | null;
  /** What it is called; without, it is decoration beside its name. */
  label?: string;
  width?: number;
  height?: number;
}

interface Kept {
  canvas: HTMLCanvasElement;
  for: string;
}

/** Pictures drawn already, by what they are of: scrolling back to one draws nothing. */
const drawn = new WeakMap<object, Kept>();
/** Pictures still to be drawn: one between every two frames, so that scrolling past many of them stays smooth. */
const waiting = new Set<() => void>();

/** Draws when it is its turn; returns how to leave the queue. */
function inTurn(job: () => void): () => void {
  if (waiting.size === 0) requestAnimationFrame(() => setTimeout(next));
  waiting.add(job);
  return () => void waiting.delete(job);
}

function next() {
  const [job] = waiting;
  if (!job) return;
  waiting.delete(job);
  job();
  if (waiting.size > 0) requestAnimationFrame(() => setTimeout(next));
}

const PAD_MM = 2;
const LARGEST = 5; // px a mm

/** A picture drawn to scale into a small frame when it comes into view. */
export const PictureCard = memo(function PictureCard({ of, make, label, width = 168, height = 132 }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const theme = useThemeName();
  const [near, setNear] = useState(() => drawn.has(of));
  useEffect(() => {
    if (near) return;
    const seen = new IntersectionObserver(([entry]) => entry!.isIntersecting && setNear(true), {
      rootMargin: "300px",
    });
    seen.observe(frame.current!);
    return () => seen.disconnect();
  }, [near]);
  useLayoutEffect(() => {
    if (!near) return;
    const wanted = `${theme} ${width} ${height} ${window.devicePixelRatio}`;
    const kept = drawn.get(of);
    if (kept?.for === wanted) return frame.current!.replaceChildren(kept.canvas);
    return inTurn(() => {
      const what = make();
      const canvas = document.createElement("canvas");
      if (what) draw(canvas, what.picture, what.looks, width, height, theme);
      drawn.set(of, { for: wanted, canvas });
      frame.current?.replaceChildren(canvas);
    });
  }, [near, of, make, theme, width, height]);
  return (
    <div
      ref={frame}
      {...(label ? { role: "img", "aria-label": label } : { "aria-hidden": true })}
      data-testid="picture-card"
      style={{ width, height }}
      className="shrink-0"
    />
  );
});

function draw(
  canvas: HTMLCanvasElement,
  picture: Picture,
  looks: ReadonlyMap<string, Appearance>,
  width: number,
  height: number,
  theme: string | undefined,
) {
  const [wide, tall] = [picture.right - picture.left + 2 * PAD_MM, picture.bottom - picture.top + 2 * PAD_MM];
  const scale = Math.min(width / wide, height / tall, LARGEST);
  canvas.style.width = `${width}px`;
  canvas.style.height = `${height}px`;
  drawPicture(canvas, {
    picture,
    looks,
    stamps: stampsFor(""),
    inks: inksOf(theme),
    scale,
    left: (picture.left + picture.right) / 2 - width / scale / 2,
    top: (picture.top + picture.bottom) / 2 - height / scale / 2,
    width,
    height,
    lit: null,
    path: false,
    isChosen: undefined,
  });
}
