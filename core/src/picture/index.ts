/** The strand picture: where every bead is drawn, to scale, and what it looks like. */
export { appearanceOf, appearancesOf, type Appearance } from "./appearance.ts";
export { layOut, type Laying, MAX_MARKS } from "./layout.ts";
export type { ChainLink, CoilTurn, Mark, Picture } from "./picture.ts";
export { closesToRing, ringRadius } from "./ring.ts";
