export { Jars } from "./Jars.tsx";
export { Jar } from "./Jar.tsx";
