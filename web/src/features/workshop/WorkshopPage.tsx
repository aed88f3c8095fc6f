import { Workshop, WorkshopInput, workshopInputOf } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { NavLink, useParams } from "react-router";
import { makeStale, queryClient, roomsQuery, workshopQuery } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Field, useRefusalAtFields } from "../../ui/form.tsx";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { ClashNotice, useRecord } from "../../ui/record.tsx";
import { ArchiveSection } from "./ArchiveSection.tsx";
import { CareNotice, CareSection } from "./CareSection.tsx";
import { MoneySection } from "./MoneySection.tsx";
import { RoomsForm } from "./RoomsForm.tsx";
import { SparesSection } from "./SparesSection.tsx";
import { WorkshopFields } from "./WorkshopFields.tsx";

const PAGES = [
  { key: "", name: "Name and units" },
  { key: "money", name: "Money" },
  { key: "people", name: "Suppliers, people, places" },
  { key: "spares", name: "Spares" },
  { key: "data", name: "Data and care" },
] as const;

/** The workshop itself, a page for each thing that is decided in it; each has one Save. */
export function WorkshopPage() {
  const workshop = useQuery(workshopQuery);
  const rooms = useQuery(roomsQuery);
  const { part = "" } = useParams();
  if (!workshop.data)
    return <Waiting error={workshop.error} what="the workshop" retry={() => void workshop.refetch()} />;
  const here = PAGES.find((p) => p.key === part) ?? PAGES[0];
  return (
    <Page title={here.key === "" ? "Workshop" : `${here.name}, workshop`}>
      <PageHead title="Workshop" about={workshop.data.name} />
      <CareNotice />
      <nav
        aria-label="Pages of the workshop"
        className="mx-6 mb-5 flex flex-wrap gap-x-7 border-b border-rule [&>a]:py-2.5"
      >
        {PAGES.map(({ key, name }) => (
          <NavLink
            key={key}
            to={key === "" ? "/workshop" : `/workshop/${key}`}
            end
            className={({ isActive }) =>
              `border-b-2 whitespace-nowrap ${
                isActive ? "border-action font-semibold" : "border-transparent text-muted hover:text-ink"
              }`
            }
          >
            {name}
          </NavLink>
        ))}
      </nav>
      {here.key === "" && <NameForm workshop={workshop.data} />}
      {here.key === "money" && <MoneySection />}
      {here.key === "people" && rooms.data && <RoomsForm rooms={rooms.data} />}
      {here.key === "spares" && <SparesSection workshop={workshop.data} />}
      {here.key === "data" && (
        <>
          <CareSection />
          <ArchiveSection />
        </>
      )}
    </Page>
  );
}

const foundOf = (workshop: Workshop) => ({ version: workshop.version, value: workshopInputOf(workshop) });

function NameForm({ workshop }: { workshop: Workshop }) {
  const record = useRecord<WorkshopInput>({ schema: WorkshopInput, found: foundOf(workshop) });
  const { send, busy, refusal } = useSend(
    "saveWorkshop",
    async (saved) => {
      record.saved(foundOf(saved));
      queryClient.setQueryData(workshopQuery.queryKey, saved);
      // Cuts go by the ruler, costs by the currency, and what is late by the day.
      await makeStale("boxes", "ahead", "money");
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
      className="flex max-w-md flex-col gap-4 px-6"
    >
      <WorkshopFields
        form={form}
        today={workshop.today}
        currencyFixed={workshop.currencyFixed}
        was={workshop.currency}
      />
      <Field
        form={form}
        name="publicAddress"
        label="Address on labels"
        hint="where a phone reaches this workshop, such as http://192.168.1.20:4321; empty: labels have no address"
      >
        {(field) => <input className="field w-full" {...field} />}
      </Field>
      <p className="flex flex-wrap items-center gap-3">
        <Button type="submit" look="main" disabled={!isDirty || busy}>
          Save
        </Button>
        {isDirty && <Button onClick={() => form.reset()}>Leave it as it was</Button>}
        {!record.clash && refusal && !refusal.errors && <Fault>{refusal.detail}</Fault>}
      </p>
      {record.clash && <ClashNotice clash={record.clash.list} decide={decide} />}
    </form>
  );
}
