export { TablesIn } from "./TablesIn.tsx";
