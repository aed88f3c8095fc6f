export { SetUp } from "./SetUp.tsx";
export { WorkshopPage } from "./WorkshopPage.tsx";
