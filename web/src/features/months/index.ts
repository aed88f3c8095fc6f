export { NewMonth } from "./NewMonth.tsx";
