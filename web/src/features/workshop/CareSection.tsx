import type { Backup, Care } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { ShieldCheck } from "lucide-react";
import { Link } from "react-router";
import { careQuery, queryClient } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { Diamond, sayNumber } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";

const lastProved = ({ backups }: Care) => backups.find((b) => b.provedAt !== null);

/** What needs a person now, at the head of the page; nothing where all is well. Every page tells of a failed backup. */
export function CareNotice() {
  const care = useQuery(careQuery);
  if (!care.data) return null;
  const said: string[] = [];
  const { jobs, old, books, fault } = care.data;
  const last = lastProved(care.data);
  if (books && books.differ > 0) said.push(`${sayNumber(books.differ)} of the counts differ from the ledger.`);
  if (!jobs) said.push("Nobody makes backups here by itself: they are the database operator’s.");
  else if (old && last && !fault) said.push(`The last proved backup is of ${sayMinute(last.madeAt)}: that is old.`);
  if (said.length === 0) return null;
  return (
    <div role="note" className="mx-6 mb-4 flex gap-2 rounded-md border-l-4 border-low bg-hush px-4 py-3">
      <span className="text-low">
        <Diamond />
      </span>
      <p>{said.join(" ")}</p>
    </div>
  );
}

/** Backups that are made and proved by themselves, and the nightly check of the books. */
export function CareSection() {
  const care = useQuery({ ...careQuery, refetchInterval: 20_000 });
  const { send, busy, refusal } = useSend("askBackUp", () => watchFor(care.data?.triedAt ?? null));
  if (!care.data) return null;
  const { jobs, folder, backups, books, fault, triedAt } = care.data;
  const last = lastProved(care.data);
  return (
    <section className="px-6" aria-label="Backup and books">
      <h2 id="backup">Backup</h2>
      {fault && (
        <p className="mb-2 max-w-prose">
          <Fault>
            The last try{triedAt ? `, ${sayMinute(triedAt)},` : ""} failed: {fault}
          </Fault>
        </p>
      )}
      <p className="mb-3 max-w-prose">
        {last ? (
          <>
            <strong>{sayMinute(last.madeAt)}</strong> was the last one that was proved: brought into a scratch database
            and found the same to the byte.
          </>
        ) : (
          "There is no proved backup yet."
        )}{" "}
        <span className="text-muted">
          {jobs
            ? "One is made every night and before anything is changed for good; " +
              "seven days, five weeks and twelve months are kept."
            : "No job process looks after this database: its operator makes the backups."}
        </span>
      </p>
      {jobs && (
        <p className="mb-3 flex flex-wrap items-center gap-3">
          <Button disabled={busy} onClick={() => void send({})}>
            <ShieldCheck size={16} aria-hidden /> {busy ? "Making and proving it …" : "Back up now"}
          </Button>
          {folder && (
            <span className="min-w-0 text-muted">
              in <code className="font-mono text-sm [overflow-wrap:anywhere]">{folder}</code>
            </span>
          )}
        </p>
      )}
      {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
      {backups.length > 0 && <Backups list={backups} />}
      {backups.length > 0 && (
        <p className="pt-2 text-muted">To bring one back, take its file to “Bring an archive in” below.</p>
      )}
      <h2 className="pt-8">Do the books agree?</h2>
      <p className="max-w-prose">
        {books ? (
          <>
            Checked <strong>{sayMinute(books.at)}</strong>:{" "}
            {books.differ === 0
              ? "every count is what its movements add up to."
              : `${sayNumber(books.differ)} differ.`}{" "}
          </>
        ) : (
          "They were not checked by themselves yet. "
        )}
        <Link className="link" to="/books">
          Hold every jar against the ledger now
        </Link>
      </p>
    </section>
  );
}

/** Waits until a backup was tried after the last one, whatever came of it. */
async function watchFor(before: string | null): Promise<void> {
  for (let tries = 0; tries < 60; tries++) {
    const { triedAt } = await queryClient.fetchQuery({ ...careQuery, staleTime: 0 });
    if (triedAt !== before) return;
    await new Promise((next) => setTimeout(next, 500));
  }
}

const SHOWN = 6;

function Backups({ list }: { list: Backup[] }) {
  return (
    <DataTable
      scrolls="Backups"
      rows={list.slice(0, SHOWN)}
      rowKey={(b) => b.file}
      columns={[
        { head: "Made", names: true, look: "whitespace-nowrap", cell: (b) => sayMinute(b.madeAt) },
        { head: "Why", look: "whitespace-nowrap", cell: (b) => b.reason },
        {
          head: "Proved",
          cell: (b) => (b.provedAt ? "yes" : <span className="font-medium text-short">no: {b.fault}</span>),
        },
        { head: "kB", number: true, cell: (b) => sayNumber(Math.ceil(b.bytes / 1000)) },
        { head: "File", look: "font-mono text-sm text-muted", cell: (b) => b.file },
      ]}
    />
  );
}
