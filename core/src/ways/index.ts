/** Ways out of what does not fit: changes of the design, each tried before it is offered. */
export { takeWay, waysOut } from "./ways.ts";
