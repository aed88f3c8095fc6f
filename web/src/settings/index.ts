/** What a person chose for this browser: unit, theme, who is at the bench. */
export { followTheme, useSettings } from "./settings.ts";
