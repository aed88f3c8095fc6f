import { Workshop, WorkshopInput, workshopInputOf } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { makeStale, queryClient, roomsQuery, workshopQuery } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Field, useRefusalAtFields } from "../../ui/form.tsx";
import { sayDay } from "../../ui/month.ts";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { ClashNotice, useRecord } from "../../ui/record.tsx";
import { ArchiveSection } from "./ArchiveSection.tsx";
import { CareNotice, CareSection } from "./CareSection.tsx";
import { MoneySection } from "./MoneySection.tsx";
import { RoomsForm } from "./RoomsForm.tsx";
import { SparesSection } from "./SparesSection.tsx";

/** The workshop itself: its name and currency, and everything in it out and in as open files. */
export function WorkshopPage() {
  const workshop = useQuery(workshopQuery);
  const rooms = useQuery(roomsQuery);
  if (!workshop.data)
    return <Waiting error={workshop.error} what="the workshop" retry={() => void workshop.refetch()} />;
  return (
    <Page title="Workshop">
      <PageHead title="Workshop" about="What is kept here, and the way out for all of it." />
      <CareNotice />
      <NameForm workshop={workshop.data} />
      <MoneySection />
      <SparesSection workshop={workshop.data} />
      {rooms.data && <RoomsForm rooms={rooms.data} />}
      <CareSection />
      <ArchiveSection />
    </Page>
  );
}

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

function nameOf(tag: string): string {
  try {
    return new Intl.DisplayNames("en", { type: "language", languageDisplay: "standard" }).of(tag) ?? tag;
  } catch {
    return tag;
  }
}

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

const foundOf = (workshop: Workshop) => ({ version: workshop.version, value: workshopInputOf(workshop) });

const ZONES = Intl.supportedValuesOf("timeZone");

function NameForm({ workshop }: { workshop: Workshop }) {
  const record = useRecord<WorkshopInput>({ schema: WorkshopInput, found: foundOf(workshop) });
  const { send, busy, refusal } = useSend(
    "saveWorkshop",
    async (saved) => {
      record.saved(foundOf(saved));
      queryClient.setQueryData(workshopQuery.queryKey, saved);
      // Cuts go by the ruler, and what is late by the day.
      await makeStale("boxes", "ahead");
    },
    (current, requestKey) => {
      const theirs = foundOf(Workshop.parse(current));
      const merged = record.merge(theirs);
      return merged && { body: { requestKey, version: theirs.version, workshop: merged } };
    },
  );
  const { form } = record;
  useRefusalAtFields(form, refusal, "/workshop");
  const { isDirty } = form.formState;
  const save = (value: WorkshopInput, on = record.version) =>
    send((requestKey) => ({ body: { requestKey, version: on, workshop: value } }));
  const decide = (whose: "mine" | "theirs") => {
    const chosen = record.decide(whose);
    if (chosen) void save(chosen.value, chosen.version);
  };
  return (
    <form
      onSubmit={form.handleSubmit((value) => save(value))}
      noValidate
      aria-label="The workshop"
      className="flex flex-wrap items-start gap-4 px-6"
    >
      <Field form={form} name="name" label="Name">
        {(field) => <input className="field w-80 max-w-full" {...field} />}
      </Field>
      <Field form={form} name="currency" label="Currency" hint="ISO 4217">
        {(field) => (
          <input
            className="field w-24 font-mono"
            {...field}
            onChange={(e) => field.onChange(e.target.value.toUpperCase())}
          />
        )}
      </Field>
      <Field
        form={form}
        name="publicAddress"
        label="Address on labels"
        hint="where a phone reaches this workshop; see npm start -- --listen"
      >
        {(field) => <input className="field w-64" placeholder="http://192.168.1.20:4321" {...field} />}
      </Field>
      <Field form={form} name="locale" label="Numbers and dates" hint={exampleOf(form.watch("locale"))}>
        {(field) => (
          <select className="field w-44" {...field}>
            <option value="">as each browser does</option>
            {[...new Set([...LOCALES, field.value].filter(Boolean))].map((tag) => (
              <option key={tag} value={tag}>
                {nameOf(tag)}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Field form={form} name="ruler" label="Cuts are measured in" hint="each is rounded up to the next mark">
        {(field) => (
          <select className="field w-44" {...field}>
            <option value="in">inches, by 1/16 in</option>
            <option value="mm">millimetres, by 1 mm</option>
          </select>
        )}
      </Field>
      <Field form={form} name="timeZone" label="Time zone" hint={`today is ${sayDay(workshop.today)}`}>
        {(field) => (
          <select className="field w-56" {...field}>
            <option value="">as on the server</option>
            {[...new Set([...ZONES, field.value].filter(Boolean))].map((name) => (
              <option key={name} value={name}>
                {name.replaceAll("_", " ")}
              </option>
            ))}
          </select>
        )}
      </Field>
      <Button type="submit" className="mt-5 h-8!" disabled={!isDirty || busy}>
        Save
      </Button>
      {record.clash ? (
        <ClashNotice clash={record.clash.list} decide={decide} />
      ) : (
        refusal && !refusal.errors && <Fault>{refusal.detail}</Fault>
      )}
    </form>
  );
}
