import type { WorkshopInput } from "@jar-count/core/contract";

/** What is paid with in a country (ISO 3166 and ISO 4217); any other is chosen by hand. */
const CURRENCY_OF: Readonly<Record<string, string>> = {
  GB: "GBP",
  US: "USD",
  CA: "CAD",
  AU: "AUD",
  NZ: "NZD",
  CH: "CHF",
  SE: "SEK",
  NO: "NOK",
  DK: "DKK",
  PL: "PLN",
  CZ: "CZK",
  HU: "HUF",
  JP: "JPY",
  IN: "INR",
  ZA: "ZAR",
  BR: "BRL",
  MX: "MXN",
};
const EURO = "AT BE CY DE EE ES FI FR GR HR IE IT LT LU LV MT NL PT SI SK".split(" ");
/** Where beads and cords are measured in inches, as common practice. */
const INCHES = ["US", "GB", "CA"];

/** What a browser's language and clock suggest for a new workshop; each is asked, none is taken unasked. */
export function guessFrom(
  language: string,
  timeZone: string,
): Partial<Pick<WorkshopInput, "currency" | "locale" | "ruler" | "timeZone">> {
  const { region } = new Intl.Locale(language).maximize();
  if (!region) return { timeZone };
  const currency = EURO.includes(region) ? "EUR" : CURRENCY_OF[region];
  return {
    ...(currency ? { currency } : {}),
    locale: language,
    ruler: INCHES.includes(region) ? "in" : "mm",
    timeZone,
  };
}
