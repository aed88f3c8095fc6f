/** What a person chose for this browser: unit, theme, who is at the bench. */
export { followLocale, localeTag, numberMarks, plainDigits } from "./locale.ts";
export { followDay, today, zone } from "./day.ts";
export { followTheme, followUnit, useSettings } from "./settings.ts";
