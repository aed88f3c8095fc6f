import type { WorkshopInput } from "@jar-count/core/contract";
import type { UseFormReturn } from "react-hook-form";
import { Field } from "../../ui/form.tsx";
import { sayDay } from "../../ui/month.ts";

/** Ways of writing numbers and dates that differ from one another; any other tag can be kept through the API. */
const LOCALES = [
  "en-GB",
  "en-US",
  "en-CA",
  "en-AU",
  "de-DE",
  "de-CH",
  "fr-FR",
  "nl-NL",
  "it-IT",
  "es-ES",
  "pt-PT",
  "sv-SE",
  "da-DK",
  "fi-FI",
  "pl-PL",
  "cs-CZ",
  "ja-JP",
];

const nameIn = (type: "language" | "currency", code: string): string => {
  try {
    return new Intl.DisplayNames("en", { type, languageDisplay: "standard" }).of(code) ?? code;
  } catch {
    return code;
  }
};

/** A number and a day as they are written there. */
function exampleOf(tag: string): string {
  try {
    const number = new Intl.NumberFormat(tag || undefined).format(1240.5);
    const day = { day: "numeric", month: "short", year: "numeric" } as const;
    return `${number}; ${new Intl.DateTimeFormat(tag || undefined, day).format(new Date("2027-04-20T12:00:00Z"))}`;
  } catch {
    return "";
  }
}

const ZONES = Intl.supportedValuesOf("timeZone");
const CURRENCIES = Intl.supportedValuesOf("currency");
const withChosen = (list: readonly string[], chosen: string) => [...new Set([...list, chosen].filter(Boolean))];

interface Props {
  form: UseFormReturn<WorkshopInput>;
  /** Its day, where it is known by which time zone. */
  today?: string;
  /** Something is ordered, received, sold or committed in the currency: it stays. */
  currencyFixed: boolean;
  /** Figures are typed in the currency that it had. */
  was?: string;
}

/** What everything else is written in: currency, numbers and dates, lengths, time zone. */
export function WorkshopFields({ form, today, currencyFixed, was }: Props) {
  const currency = form.watch("currency");
  const currencyHint = currencyFixed
    ? "stays: something was ordered, received, sold or committed in it"
    : was !== undefined && was !== currency
      ? `what is typed keeps its figures: 2.40 ${was} is then 2.40 ${currency}`
      : "can change until the first order, delivery, sale or committed box";
  return (
    <>
      <Field form={form} name="name" label="Name of the workshop">
        {(field) => <input className="field w-full" maxLength={200} {...field} />}
      </Field>
      <Field form={form} name="currency" label="Currency" hint={currencyHint}>
        {(field) => (
          <select className="field w-full" {...field} disabled={currencyFixed}>
            {withChosen(CURRENCIES, field.value).map((code) => (
              <option key={code} value={code}>
                {code}, {nameIn("currency", code)}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field form={form} name="locale" label="Numbers and dates" hint={exampleOf(form.watch("locale"))}>
        {(field) => (
          <select className="field w-full" {...field}>
            <option value="">as each browser does</option>
            {withChosen(LOCALES, field.value).map((tag) => (
              <option key={tag} value={tag}>
                {nameIn("language", tag)}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field form={form} name="ruler" label="Lengths are measured in" hint="cuts are rounded up to the next mark">
        {(field) => (
          <select className="field w-full" {...field}>
            <option value="in">inches, by 1/16 in</option>
            <option value="mm">millimetres, by 1 mm</option>
          </select>
        )}
      </Field>
      <Field form={form} name="timeZone" label="Time zone" hint={today && `today is ${sayDay(today)}`}>
        {(field) => (
          <select className="field w-full" {...field}>
            <option value="">as on the server</option>
            {withChosen(ZONES, field.value).map((name) => (
              <option key={name} value={name}>
                {name.replaceAll("_", " ")}
              </option>
            ))}
          </select>
        )}
      </Field>
    </>
  );
}
