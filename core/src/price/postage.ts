import type { Band } from "../contract/index.ts";
import type { Parcel } from "./parcel.ts";

/** A cheaper band that a parcel only just misses. */
export interface Missed {
  band: Band;
  /** What it would have to lose, g and mm. */
  byG: number;
  byMm: number;
  /** Decimal text, unrounded. */
  saves: number;
}

export interface Posted {
  /** The cheapest that takes it; null where none does. */
  band: Band | null;
  /** The cheaper one that is nearest; null where none is near. */
  missed: Missed | null;
  /** What it costs where it is as heavy as its ± allows; null where that is the same. */
  atWorst: Band | null;
}

type Measured = Pick<Parcel, "g" | "thickMm" | "longMm" | "wideMm"> & { plusMinus?: number };

/** Binary floats of sums of masses: a parcel at its band's limit is in it. */
const DUST = 1e-9;

const takes = (band: Band, { g, thickMm, longMm, wideMm }: Measured) =>
  g <= band.maxG + DUST &&
  thickMm <= (band.maxThickMm ?? Infinity) + DUST &&
  (longMm ?? 0) <= (band.maxLongMm ?? Infinity) + DUST &&
  (wideMm ?? 0) <= (band.maxWideMm ?? Infinity) + DUST;

const cheapest = (bands: readonly Band[], parcel: Measured) =>
  bands
    .filter((b) => takes(b, parcel))
    .reduce<Band | null>((best, b) => (best && Number(best.price) <= Number(b.price) ? best : b), null);

/** A band is near that asks for no more than a third of the mass, and half of the thickness, to be lost. */
const near = ({ byG, byMm }: Missed, parcel: Measured) => byG <= parcel.g / 3 && byMm <= parcel.thickMm / 2;

/**
 * What posting a parcel costs: the cheapest band that takes it by mass, thickness and size. All limits are included: a
 * parcel of just so much still goes.
 * @param zone where it goes; empty: the first that the carrier names
 * @param service only what is called so; empty: any
 */
export function postageFor(bands: readonly Band[], parcel: Measured, zone = "", service = ""): Posted {
  const going = zone || bands[0]?.zone;
  const offered = bands.filter((b) => b.zone === going && (service === "" || b.service === service));
  const band = cheapest(offered, parcel);
  const heavy = cheapest(offered, { ...parcel, g: parcel.g + (parcel.plusMinus ?? 0) });
  const missed = offered
    .filter((b) => band !== null && Number(b.price) < Number(band.price))
    .filter((b) => takes(b, { ...parcel, g: 0, thickMm: 0 }))
    .map((b): Missed => {
      const byMm = Math.max(0, parcel.thickMm - (b.maxThickMm ?? Infinity));
      return { band: b, byG: Math.max(0, parcel.g - b.maxG), byMm, saves: Number(band!.price) - Number(b.price) };
    })
    .filter((m) => near(m, parcel))
    .sort((a, b) => a.byG + a.byMm * 10 - (b.byG + b.byMm * 10) || b.saves - a.saves)[0];
  return { band, missed: missed ?? null, atWorst: heavy !== null && heavy.price !== band?.price ? heavy : null };
}
