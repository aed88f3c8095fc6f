/** What a person chose for this browser: unit, theme, who is at the bench. */
export { followLocale, localeTag, numberMarks, plainDigits } from "./locale.ts";
export { followTheme, useSettings } from "./settings.ts";
