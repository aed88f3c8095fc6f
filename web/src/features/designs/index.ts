export { Library } from "./Library.tsx";
