import type { VariantBill } from "../bom/index.ts";
import { DENSITY, pieceMass } from "../component/index.ts";
import type { Component } from "../contract/index.ts";

/** What a packed box is for a carrier. */
export interface Parcel {
  /** Its mass, g, and the ± of 95 %. */
  g: number;
  plusMinus: number;
  /** Its thickness, mm: that of its packaging, and of the thickest thing in it. */
  thickMm: number;
  /** The thing that is thickest, by name; null where nothing has a thickness. */
  thickest: string | null;
  /** The longest and the widest of its packaging, mm; null where none is measured. */
  longMm: number | null;
  wideMm: number | null;
  /** Things whose mass nobody knows: they are not in it. */
  unknown: string[];
}

/** The normal quantile of 0.975 (NIST/SEMATECH e-Handbook, 1.3.6.7.1). */
const Z975 = 1.959964;
/** What lies loose in a parcel is known by its measures to about a fifth: common practice, no source. */
const ESTIMATE_U = 0.2;

/** Mass of what one box takes of a component, g, with its standard uncertainty; null where nobody knows. */
function massOf(component: Component, amount: number): { g: number; u: number } | null {
  if (component.baseUnit === "g") return { g: amount, u: 0.01 * amount };
  if (component.baseUnit === "piece") {
    const one = pieceMass(component);
    return one && { g: one.g * amount, u: one.u * amount };
  }
  const { diameterMm, linkMm, acrossMm, material } = component;
  if (!diameterMm && !(linkMm && acrossMm)) return null;
  // A chain is taken as two wires of a tenth of its width along its length.
  const section = diameterMm ? (Math.PI / 4) * diameterMm ** 2 : 2 * (Math.PI / 4) * (acrossMm! / 10) ** 2;
  const g = ((section * amount) / 1000) * DENSITY[material ?? (diameterMm ? "nylon" : "brass")];
  return { g, u: ESTIMATE_U * g };
}

/** How thick a thing lies, mm: the smaller of its measures. What is flat may have its own thickness typed. */
const thicknessOf = ({ acrossMm, alongMm, diameterMm }: Component) =>
  acrossMm ? Math.min(acrossMm, alongMm ?? acrossMm) : (diameterMm ?? 0);

/**
 * Mass, thickness and size of one packed box. What is not known of a piece is not known of all of them alike, so it
 * adds up within a component, and as squares between components (JCGM 100:2008, 5.1 and 5.2).
 */
export function parcelOf({ needs }: Pick<VariantBill, "needs">): Parcel {
  let [g, variance, packaging, content] = [0, 0, 0, 0];
  let thickest: string | null = null;
  const unknown: string[] = [];
  const sides: [long: number, wide: number][] = [];
  for (const { component, perBox, spare } of needs) {
    if (perBox + spare === 0) continue;
    const mass = massOf(component, perBox + spare);
    if (mass) {
      g += mass.g;
      variance += mass.u ** 2;
    } else unknown.push(component.name);
    const { kind, thickMm, alongMm, acrossMm } = component;
    if (kind === "packaging") {
      packaging += thickMm ?? 0;
      if (alongMm && acrossMm) sides.push([Math.max(alongMm, acrossMm), Math.min(alongMm, acrossMm)]);
      continue;
    }
    const thick = thickMm ?? thicknessOf(component);
    if (thick > content) [content, thickest] = [thick, component.name];
  }
  return {
    g,
    plusMinus: Z975 * Math.sqrt(variance),
    thickMm: packaging + content,
    thickest,
    longMm: sides.length > 0 ? Math.max(...sides.map((s) => s[0])) : null,
    wideMm: sides.length > 0 ? Math.max(...sides.map((s) => s[1])) : null,
    unknown,
  };
}
