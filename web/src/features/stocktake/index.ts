export { Stocktakes } from "./Stocktakes.tsx";
export { Walk } from "./Walk.tsx";
