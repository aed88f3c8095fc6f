import { addressOf, type RouteAnswer, Workshop } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Download, FileUp } from "lucide-react";
import { useRef, useState } from "react";
import { Link } from "react-router";
import {
  boxesQuery,
  componentsQuery,
  designsQuery,
  queryClient,
  roomsQuery,
  workshopQuery,
} from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Field, useContractForm } from "../../ui/form.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { Page, PageHead, Waiting } from "../../ui/page.tsx";
import { RoomsForm } from "./RoomsForm.tsx";

/** The workshop itself: its name and currency, and everything in it out and in as open files. */
export function WorkshopPage() {
  const workshop = useQuery(workshopQuery);
  const rooms = useQuery(roomsQuery);
  if (!workshop.data)
    return <Waiting error={workshop.error} what="the workshop" retry={() => void workshop.refetch()} />;
  return (
    <Page title="Workshop">
      <PageHead title="Workshop" about="What is kept here, and the way out for all of it." />
      <NameForm key={JSON.stringify(workshop.data)} workshop={workshop.data} />
      {rooms.data && <RoomsForm key={JSON.stringify(rooms.data)} rooms={rooms.data} />}
      <ArchiveSection />
      <section className="px-6 pt-10" aria-label="Books">
        <h2>Do the books agree?</h2>
        <p className="text-muted">
          <Link className="link" to="/books">
            Hold every jar against the ledger
          </Link>
          : what it says, and what its movements add up to.
        </p>
      </section>
    </Page>
  );
}

function NameForm({ workshop }: { workshop: Workshop }) {
  const { send, busy, refusal } = useSend("saveWorkshop", (saved) =>
    queryClient.setQueryData(workshopQuery.queryKey, saved),
  );
  const form = useContractForm({ schema: Workshop, start: workshop, refusal });
  const { isDirty } = form.formState;
  return (
    <form
      onSubmit={form.handleSubmit((body) => send({ body }))}
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
      <Button type="submit" className="mt-5 h-8!" disabled={!isDirty || busy}>
        Save
      </Button>
      {refusal && !refusal.errors && <Fault>{refusal.detail}</Fault>}
    </form>
  );
}

function ArchiveSection() {
  const [components, designs, boxes] = [useQuery(componentsQuery), useQuery(designsQuery), useQuery(boxesQuery)];
  const file = useRef<HTMLInputElement>(null);
  const [done, setDone] = useState<RouteAnswer<"takeInArchive"> | null>(null);
  const { send, busy, refusal } = useSend("takeInArchive", async (taken) => {
    setDone(taken);
    await queryClient.invalidateQueries();
  });
  const counts = [components, designs, boxes].map((q) => q.data?.length ?? 0) as [number, number, number];
  const empty = counts.every((n) => n === 0);

  return (
    <section className="px-6 pt-10" aria-label="Archive">
      <h2>Everything as one archive</h2>
      <p className="mb-3 max-w-prose text-muted">
        A zip of open files: components, packs and the stock ledger as CSV, designs with all their revisions, boxes and
        orders as JSON. It holds {sayNumber(counts[0])} components, {sayNumber(counts[1])} designs and{" "}
        {sayNumber(counts[2])} boxes.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <a
          href={addressOf("downloadArchive")}
          download
          className="inline-flex h-9 items-center gap-1.5 rounded-md bg-action-fill px-3 font-semibold text-on-action hover:brightness-110"
        >
          <Download size={16} aria-hidden /> Take everything out
        </a>
        <input
          ref={file}
          type="file"
          accept=".zip,application/zip"
          className="sr-only"
          aria-label="Archive file"
          tabIndex={-1}
          onChange={(e) => {
            const chosen = e.target.files?.[0];
            if (chosen) void send({ body: chosen });
            e.target.value = "";
          }}
        />
        <Button disabled={busy || !empty} onClick={() => file.current?.click()}>
          <FileUp size={16} aria-hidden /> {busy ? "Taking it in …" : "Take an archive in"}
        </Button>
        {!empty && (
          <span className="text-muted">
            Only into an empty workshop, so that nothing is overwritten:{" "}
            <code className="font-mono text-sm">npm start -- --reset</code>
          </span>
        )}
      </div>
      {done && (
        <p role="status" className="mt-3 font-medium">
          Taken in: {sayNumber(done.components)} components, {sayNumber(done.designs)} designs, {sayNumber(done.boxes)}{" "}
          boxes.
        </p>
      )}
      {refusal && (
        <div role="alert" className="mt-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
          <p className="font-semibold">{refusal.detail}</p>
          <ul className="mt-1 list-disc pl-5">
            {refusal.errors?.map((e) => (
              <li key={e.pointer + e.detail}>
                <span className="font-mono text-sm text-muted">{e.pointer.slice(1)}</span> {e.detail}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
