import type { Reading } from "./line.ts";

/** How the simulated scale is built and how it misbehaves. Masses in grams, times in milliseconds. */
export interface ScaleMake {
  readability: number;
  capacity: number;
  /** How far its zero wanders, grams an hour. */
  drift: number;
  /** How long it takes to come to rest. */
  settleMs: number;
  /** Standard deviation of a reading at rest. */
  repeatability: number;
}

export const USUAL_SCALE: ScaleMake = {
  readability: 0.01,
  capacity: 500,
  drift: 0,
  settleMs: 900,
  repeatability: 0.004,
};

/**
 * A scale that is not there: what lies on it, settling after every change, drifting, rounding to its readability and
 * refusing what is too heavy. It keeps no clock and no chance of its own: the time and a seeded generator are given.
 */
export class SimulatedScale {
  private onPan = 0;
  private before = 0;
  private since = 0;
  private zeroAt: { ms: number; grams: number } = { ms: 0, grams: 0 };

  constructor(
    public make: ScaleMake,
    private readonly random: () => number,
  ) {}

  /** Puts so many grams on the pan in place of what was there. */
  put(grams: number, atMs: number) {
    this.before = this.resting(atMs);
    this.onPan = grams;
    this.since = atMs;
  }

  /** Zeroes it with what is on it. */
  tare(atMs: number) {
    this.zeroAt = { ms: atMs, grams: this.onPan };
    this.before = this.onPan;
  }

  read(atMs: number): Reading {
    const { readability, capacity, settleMs, repeatability } = this.make;
    if (this.onPan > capacity) return { grams: 0, stable: false, overload: true };
    const passed = atMs - this.since;
    const settled = passed >= settleMs;
    const left = settled ? 0 : Math.exp((-5 * passed) / settleMs);
    const resting = this.onPan + (this.before - this.onPan) * left;
    const swing = left * Math.abs(this.before - this.onPan) * 0.05 * (this.random() - 0.5);
    const grams = resting + swing + repeatability * this.normal() + this.drifted(atMs) - this.zeroAt.grams;
    return { grams: Math.round(grams / readability) * readability, stable: settled, overload: false };
  }

  private resting(atMs: number) {
    const left =
      atMs - this.since >= this.make.settleMs ? 0 : Math.exp((-5 * (atMs - this.since)) / this.make.settleMs);
    return this.onPan + (this.before - this.onPan) * left;
  }

  private drifted(atMs: number) {
    return (this.make.drift * (atMs - this.zeroAt.ms)) / 3_600_000;
  }

  /** Box–Muller. */
  private normal() {
    return Math.sqrt(-2 * Math.log(1 - this.random())) * Math.cos(2 * Math.PI * this.random());
  }
}
