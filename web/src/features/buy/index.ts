export { BuyPage } from "./BuyPage.tsx";
