export { Jars } from "./Jars.tsx";
export { Jar } from "./Jar.tsx";
export { CountJar } from "./CountJar.tsx";
