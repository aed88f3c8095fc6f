/** What a person chose for this browser: unit, theme, who is at the bench. */
export { useSettings } from "./settings.ts";
