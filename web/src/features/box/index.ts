export { BoxPage } from "./BoxPage.tsx";
