import type { Point } from "./picture.ts";

/** A way along which a strand lies, by its length: its points, and which way it runs there, degrees. */
export interface Curve {
  lengthMm: number;
  at: (mm: number) => Point & { turn: number };
}

/** A circle, from an angle on: 0 is its top, and it goes by its left and its bottom, so that what hangs is outside. */
export function circle(lengthMm: number, from = 0): Curve {
  const r = lengthMm / (2 * Math.PI);
  return {
    lengthMm,
    at: (mm) => {
      const angle = from + mm / r;
      return { x: -r * Math.sin(angle), y: -r * Math.cos(angle), turn: 180 - (angle * 180) / Math.PI };
    },
  };
}

const [COIL_FLAT, COIL_STEP_MM] = [0.42, 5];

/**
 * Turns of memory wire, seen a little from above where there is more than one: each lies lower than the one before.
 * @param frontMm what lies at its front, along it
 */
export function turns(coilMm: number, frontMm: number, wireMm: number): Curve {
  if (wireMm <= 1.3 * coilMm) return circle(Math.max(coilMm, wireMm), Math.PI - (2 * Math.PI * frontMm) / coilMm);
  const r = coilMm / (2 * Math.PI);
  const at = (mm: number): Point => {
    const angle = Math.PI + (mm - frontMm) / r;
    return { x: -r * Math.sin(angle), y: -COIL_FLAT * r * Math.cos(angle) + ((mm - frontMm) / coilMm) * COIL_STEP_MM };
  };
  return {
    lengthMm: wireMm,
    at: (mm) => {
      const [a, b] = [at(mm - 0.1), at(mm + 0.1)];
      return { ...at(mm), turn: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI };
    },
  };
}

/** A polyline, by its own length: fine enough that its corners can't be seen. */
export function alongPoints(points: readonly Point[]): Curve {
  const at: number[] = [0];
  for (let i = 1; i < points.length; i++)
    at.push(at[i - 1]! + Math.hypot(points[i]!.x - points[i - 1]!.x, points[i]!.y - points[i - 1]!.y));
  const lengthMm = at.at(-1)!;
  return {
    lengthMm,
    at: (mm) => {
      let [low, high] = [0, at.length - 2];
      while (low < high) {
        const middle = (low + high + 1) >> 1;
        if (at[middle]! <= mm) low = middle;
        else high = middle - 1;
      }
      const [a, b] = [points[low]!, points[low + 1]!];
      const step = at[low + 1]! - at[low]! || 1;
      const share = (mm - at[low]!) / step;
      return {
        x: a.x + (b.x - a.x) * share,
        y: a.y + (b.y - a.y) * share,
        turn: (Math.atan2(b.y - a.y, b.x - a.x) * 180) / Math.PI,
      };
    },
  };
}

/**
 * How deep and how steep a chain of a given length hangs between two points at one height: the catenary
 * y = a·cosh(x ÷ a), whose length between ±w ÷ 2 is 2·a·sinh(w ÷ 2a) (calculus of variations, any mechanics
 * textbook).
 * @param lengthMm of the chain; more than `acrossMm`
 * @returns `a`, mm
 */
export function catenary(lengthMm: number, acrossMm: number): number {
  const half = acrossMm / 2;
  let [low, high] = [half / 50, half * 1e4];
  for (let i = 0; i < 100; i++) {
    const a = Math.sqrt(low * high);
    if (2 * a * Math.sinh(half / a) > lengthMm) low = a;
    else high = a;
  }
  return Math.sqrt(low * high);
}

const NECK_MM = 125;
const STEPS = 400;

/**
 * The way of a closed necklace, seen from the front: behind the neck a flat arc between two points a neck's width
 * apart, before it the curve in which a chain hangs. Its own length is the necklace's. It starts `frontMm` before its
 * lowest point, so that a piece with unequal sides has its clasp off the middle.
 */
export function neckline(lengthMm: number, frontMm: number): Curve & { acrossMm: number } {
  const across = Math.min(NECK_MM, lengthMm * 0.28);
  const back: Point[] = [];
  for (let i = 0; i <= STEPS / 4; i++) {
    const angle = (Math.PI * i) / (STEPS / 4);
    back.push({ x: (across / 2) * Math.cos(angle), y: -across * 0.2 * Math.sin(angle) });
  }
  const backMm = alongPoints(back).lengthMm;
  const a = catenary(lengthMm - backMm, across);
  const top = a * Math.cosh(across / 2 / a);
  const half = (lengthMm - backMm) / 2;
  // By length along it: s = a·sinh(x ÷ a), so every step is as long as the next.
  const front: Point[] = [];
  for (let i = 0; i <= STEPS; i++) {
    const s = -half + (2 * half * i) / STEPS;
    const x = a * Math.asinh(s / a);
    front.push({ x, y: top - a * Math.cosh(x / a) });
  }
  // From the left point down, up to the right one, and behind the neck back to the left.
  const round = alongPoints([...front, ...back.slice(1)]);
  const scale = round.lengthMm / lengthMm;
  const lowest = half;
  return {
    lengthMm,
    acrossMm: across,
    at: (mm) => {
      let s = lowest - frontMm + mm;
      s = ((s % lengthMm) + lengthMm) % lengthMm;
      return round.at(s * scale);
    },
  };
}
