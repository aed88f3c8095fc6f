/** Pictures of parts and of the whole piece: where every bead is drawn, to scale, and what it looks like. */
export { appearanceOf, appearancesOf, type Appearance, colourOf, linkLook, lookOfFitting } from "./appearance.ts";
export { type Area, areasOf, isBall } from "./drawings.ts";
export { laidOf, type Proposal } from "./laid.ts";
export { layOut, type Laying, MAX_MARKS } from "./layout.ts";
export { emptyPicture, FITTING_SHAPES } from "./picture.ts";
export type { ChainLink, CoilTurn, Fitting, FittingShape, Line, Mark, Picture } from "./picture.ts";
export { isBraid } from "./placing.ts";
export { closesToRing, ringRadius } from "./ring.ts";
export { hasWhole, layWorn, type Worn, wornAs } from "./worn.ts";
