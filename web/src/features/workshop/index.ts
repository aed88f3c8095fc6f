export { WorkshopPage } from "./WorkshopPage.tsx";
