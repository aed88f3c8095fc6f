/** The strand picture: where every bead is drawn, to scale, and what it looks like. */
export { appearanceOf, appearancesOf, type Appearance } from "./appearance.ts";
export { layOut, MAX_MARKS, type ChainLink, type CoilTurn, type Laying, type Mark, type Picture } from "./layout.ts";
export { closesToRing, ringRadius } from "./ring.ts";
