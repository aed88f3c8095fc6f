/** The bill of materials of a box: from designs and colourways to so much of each component, and what is short. */
export * from "./bom.ts";
export { BESIDE, TOGETHER } from "./which.ts";
export { makeable, type Makeable } from "./makeable.ts";
export { chooseFromKeys, layTray } from "./tray.ts";
export { originsOfNeed, type NeedOrigin } from "./origins.ts";
export { aBoxOf, spareOfBox, countRows, needsOf, variantsOf, type CountRow, type GapRow } from "./rows.ts";
export { SAID_HERE } from "./spares.ts";
