/** Counting by weighing: the count and how sure it is, the lines that scales send, and a scale that is simulated. */
export {
  countByWeight,
  readingU,
  sampleFor,
  studentFactor,
  pooledPiece,
  usualSpread,
  type KnownPiece,
  type Sample,
  type Source,
  type Weighing,
  type WeighedCount,
} from "./count.ts";
export { bagWeight, judgeBag, type BagItem, type BagVerdict, type BagWeight, type Detectable } from "./bag.ts";
export { compile, readWeighing, type Reading } from "./line.ts";
export { seeded } from "./random.ts";
export { SimulatedScale, USUAL_SCALE, type ScaleMake } from "./simulated.ts";
