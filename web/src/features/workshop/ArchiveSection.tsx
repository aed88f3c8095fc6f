import { addressOf, type ErrorBody, type RestorePlan, type Restoring, type Summary } from "@jar-count/core/contract";
import { useMutation } from "@tanstack/react-query";
import { Download, FileUp } from "lucide-react";
import { useRef, useState } from "react";
import { call, Unreachable } from "../../api/client.ts";
import { queryClient } from "../../api/queries.ts";
import { refusalOf } from "../../api/refusal.ts";
import { ButtonLink } from "../../ui/ButtonLink.tsx";
import { Button } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { DataTable } from "../../ui/DataTable.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";

interface Chosen {
  file: File;
  plan: RestorePlan;
}

/** Everything out as open files, and in again: into an empty workshop at once, else after both were shown. */
export function ArchiveSection() {
  const file = useRef<HTMLInputElement>(null);
  const [chosen, setChosen] = useState<Chosen | null>(null);
  const [done, setDone] = useState<string | null>(null);
  const taking = useMutation({
    mutationFn: async (picked: File) => {
      setDone(null);
      const plan = await call("planRestore", { body: picked });
      if (plan.here) return setChosen({ file: picked, plan });
      const taken = await call("takeInArchive", { body: picked });
      setDone(
        `Taken in: ${sayNumber(taken.components)} components, ${sayNumber(taken.designs)} designs, ` +
          `${sayNumber(taken.boxes)} boxes, ${sayNumber(taken.movements)} movements.`,
      );
      await queryClient.invalidateQueries();
    },
  });
  /** An empty workshop is brought in as any archive is: shown beside what is here, and what is here is kept. */
  const emptying = useMutation({
    mutationFn: async () => {
      setDone(null);
      const zip = await (await fetch(addressOf("emptyArchive"))).blob();
      const picked = new File([zip], "empty.jarcount.zip", { type: "application/zip" });
      const plan = await call("planRestore", { body: picked });
      if (plan.here) setChosen({ file: picked, plan });
      else setDone("There is nothing in it: it is empty already.");
    },
  });
  const replacing = useMutation({
    mutationFn: async ({ file: picked, plan }: Chosen) => {
      const kept = await replaceBy(picked, plan.seen);
      await queryClient.invalidateQueries();
      setChosen(null);
      setDone(`Restored. What was here is kept in ${kept ?? "no file, since there was nothing"}.`);
    },
  });
  const refusal = refusalOf(taking.error ?? emptying.error);
  return (
    <section className="px-6 pt-10" aria-label="Archive">
      <h2>Everything as one archive</h2>
      <p className="mb-3 max-w-prose text-muted">
        A zip of open files with a seal on each: components, packs, the stock ledger and what it comes to as CSV;
        designs with all their revisions, boxes, orders and stocktakes as JSON. It is exact: a cell that begins a
        formula stands in it as it was typed.
      </p>
      <div className="flex flex-wrap items-center gap-2">
        <ButtonLink look="main" to={addressOf("downloadArchive")} reloadDocument download>
          <Download size={16} aria-hidden /> Take everything out
        </ButtonLink>
        <input
          ref={file}
          type="file"
          accept=".zip,application/zip"
          className="sr-only"
          aria-label="Archive file"
          tabIndex={-1}
          onChange={(e) => {
            const picked = e.target.files?.[0];
            if (picked) taking.mutate(picked);
            e.target.value = "";
          }}
        />
        <Button disabled={taking.isPending} onClick={() => file.current?.click()}>
          <FileUp size={16} aria-hidden /> {taking.isPending ? "Opening it …" : "Bring an archive in"}
        </Button>
        <Button look="quiet" className="text-short!" disabled={emptying.isPending} onClick={() => emptying.mutate()}>
          Empty the workshop
        </Button>
      </div>
      {done && (
        <p role="status" className="mt-3 max-w-prose font-medium [overflow-wrap:anywhere]">
          {done}
        </p>
      )}
      {refusal && <ArchiveRefusal refusal={refusal} />}
      {chosen && (
        <Dialog title="Put this archive in the place of everything?" open wide onClose={() => setChosen(null)}>
          <Plan plan={chosen.plan} />
          <p className="my-4 max-w-prose">
            Everything that is here is taken out, and the archive comes in its place. Before that, an archive of what is
            here is written to the backup folder, so that it can come back the same way.
          </p>
          {replacing.error && <ArchiveRefusal refusal={refusalOf(replacing.error)!} />}
          <div className="flex justify-end gap-2">
            <Button onClick={() => setChosen(null)}>Leave everything as it is</Button>
            <Button look="main" disabled={replacing.isPending} onClick={() => replacing.mutate(chosen)}>
              {replacing.isPending ? "Keeping what is here, then replacing it …" : "Replace everything"}
            </Button>
          </div>
        </Dialog>
      )}
    </section>
  );
}

/** Lays an archive down and waits until it is in its place. @returns the file in which what was here is kept */
async function replaceBy(file: File, seen: string): Promise<string | null> {
  const id = crypto.randomUUID();
  let now: Restoring = await call("restoreArchive", { params: { id }, query: { seen }, body: file });
  while (now.state === "waiting") {
    await new Promise((next) => setTimeout(next, 500));
    try {
      now = await call("readRestore", { params: { id } });
    } catch (error) {
      // The database is busy with it.
      if (!(error instanceof Unreachable)) throw error;
    }
  }
  if (now.state === "failed") throw new Error(`${now.fault ?? "It did not come in."} Everything is as it was.`);
  return now.kept;
}

const ROWS: { what: string; of: (s: Summary) => string }[] = [
  { what: "Workshop", of: (s) => s.name },
  { what: "Components", of: (s) => sayNumber(s.components) },
  { what: "Worth of the stock", of: (s) => `${s.value.replace(/\B(?=(\d{3})+\.)/g, ",")} ${s.currency}` },
  { what: "Movements in the ledger", of: (s) => sayNumber(s.movements) },
  { what: "Last movement", of: (s) => (s.lastMoved ? sayMinute(s.lastMoved) : "none") },
  { what: "Designs", of: (s) => sayNumber(s.designs) },
  { what: "Boxes", of: (s) => sayNumber(s.boxes) },
  { what: "Open orders", of: (s) => sayNumber(s.openOrders) },
];

function Plan({ plan: { here, archive } }: { plan: RestorePlan }) {
  return (
    <DataTable
      rows={ROWS}
      rowKey={(r) => r.what}
      columns={[
        { head: "", names: true, look: "text-muted", cell: (r) => r.what },
        { head: "Here now", number: true, cell: (r) => (here ? r.of(here) : "nothing") },
        { head: "In the archive", number: true, look: "font-semibold", cell: (r) => r.of(archive) },
      ]}
    />
  );
}

function ArchiveRefusal({ refusal }: { refusal: ErrorBody }) {
  return (
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
  );
}
