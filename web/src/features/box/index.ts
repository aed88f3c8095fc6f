export { BoxPage } from "./BoxPage.tsx";
export { NewMonth } from "./NewMonth.tsx";
