export { AheadPage } from "./AheadPage.tsx";
