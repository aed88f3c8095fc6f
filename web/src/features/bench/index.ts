export { Bench } from "./Bench.tsx";
