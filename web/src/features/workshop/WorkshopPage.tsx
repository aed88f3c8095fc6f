import type { ErrorBody, Workshop } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { Download, FileUp } from "lucide-react";
import { useRef, useState } from "react";
import { call, Refused } from "../../api/client.ts";
import {
  boxesQuery,
  componentsQuery,
  designsQuery,
  queryClient,
  roomsQuery,
  workshopQuery,
} from "../../api/queries.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { checkName } from "../../ui/fields.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { Page, Waiting } from "../../ui/page.tsx";
import { RoomsForm } from "./RoomsForm.tsx";

/** The workshop itself: its name and currency, and everything in it out and in as open files. */
export function WorkshopPage() {
  const workshop = useQuery(workshopQuery);
  const rooms = useQuery(roomsQuery);
  if (!workshop.data)
    return <Waiting error={workshop.error} what="the workshop" retry={() => void workshop.refetch()} />;
  return (
    <Page title="Workshop">
      <header className="px-6 pt-6 pb-4">
        <h1>Workshop</h1>
        <p className="text-muted">What is kept here, and the way out for all of it.</p>
      </header>
      <NameForm key={JSON.stringify(workshop.data)} workshop={workshop.data} />
      {rooms.data && <RoomsForm key={JSON.stringify(rooms.data)} rooms={rooms.data} />}
      <ArchiveSection />
    </Page>
  );
}

function NameForm({ workshop }: { workshop: Workshop }) {
  const [name, setName] = useState(workshop.name);
  const [currency, setCurrency] = useState(workshop.currency);
  const [address, setAddress] = useState(workshop.publicAddress);
  const [fault, setFault] = useState<string | null>(null);
  const changed = name !== workshop.name || currency !== workshop.currency || address !== workshop.publicAddress;
  const currencyFault = /^[A-Z]{3}$/.test(currency) ? null : "Three capital letters, such as GBP or EUR (ISO 4217).";
  const addressFault = /^(https?:\/\/[^\s/]+(\/\S*)?)?$/.test(address.trim())
    ? null
    : "Such as http://192.168.1.20:4321, or empty.";
  const save = async (e: React.FormEvent) => {
    e.preventDefault();
    if (checkName(name) || currencyFault || addressFault) return;
    try {
      queryClient.setQueryData(
        workshopQuery.queryKey,
        await call<Workshop>("PUT", "/workshop", { name, currency, publicAddress: address.trim() }),
      );
    } catch (error) {
      setFault((error as Error).message);
    }
  };
  return (
    <form onSubmit={save} noValidate className="flex flex-wrap items-start gap-4 px-6">
      <Labelled label="Name" fault={checkName(name) ?? fault}>
        <input className="field w-80 max-w-full" value={name} onChange={(e) => setName(e.target.value)} />
      </Labelled>
      <Labelled label="Currency" fault={currencyFault} hint="ISO 4217">
        <input
          className="field w-24 font-mono"
          value={currency}
          onChange={(e) => setCurrency(e.target.value.toUpperCase())}
        />
      </Labelled>
      <Labelled
        label="Address on labels"
        fault={addressFault}
        hint="where a phone reaches this workshop; see npm start -- --listen"
      >
        <input
          className="field w-64"
          placeholder="http://192.168.1.20:4321"
          value={address}
          onChange={(e) => setAddress(e.target.value)}
        />
      </Labelled>
      <Button type="submit" className="mt-5 h-8!" disabled={!changed}>
        Save
      </Button>
    </form>
  );
}

interface Imported {
  components: number;
  designs: number;
  boxes: number;
}

function ArchiveSection() {
  const [components, designs, boxes] = [useQuery(componentsQuery), useQuery(designsQuery), useQuery(boxesQuery)];
  const file = useRef<HTMLInputElement>(null);
  const [busy, setBusy] = useState(false);
  const [refusal, setRefusal] = useState<ErrorBody | null>(null);
  const [done, setDone] = useState<Imported | null>(null);
  const counts = [components, designs, boxes].map((q) => q.data?.length ?? 0) as [number, number, number];
  const empty = counts.every((n) => n === 0);

  const bringIn = async (chosen: File) => {
    setBusy(true);
    setRefusal(null);
    try {
      const response = await fetch("/api/archive", {
        method: "POST",
        headers: { "content-type": "application/zip" },
        body: chosen,
      });
      const body = (await response.json()) as Imported & ErrorBody;
      if (!response.ok) throw new Refused(body);
      setDone(body);
      await queryClient.invalidateQueries();
    } catch (error) {
      setRefusal(
        error instanceof Refused
          ? error.body
          : {
              type: "about:blank",
              title: "",
              status: 0,
              detail: "The server can't be reached. Nothing was written; try again.",
            },
      );
    } finally {
      setBusy(false);
    }
  };
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
          href="/api/archive"
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
            if (chosen) void bringIn(chosen);
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
