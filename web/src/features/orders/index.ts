export { Orders } from "./Orders.tsx";
export { OrderPage } from "./OrderPage.tsx";
