import { useState } from "react";
import { useStore } from "zustand";
import { Button } from "../ui/controls.tsx";
import { Dialog } from "../ui/Dialog.tsx";
import { RefusalNotice } from "../ui/page.tsx";
import { differences, type DraftStore, isChanged } from "./draft.ts";
import { DataTable } from "../ui/DataTable.tsx";

const DOCUMENT_TEXT = "max-w-64 py-2 align-top font-mono text-sm break-words whitespace-pre-wrap";

/** How saving stands, in words, beside the title. */
export function SaveState<T>({ store, saved }: { store: DraftStore<T>; saved: string }) {
  const saving = useStore(store, (d) => d.saving);
  const changed = useStore(store, isChanged);
  const text =
    saving === "busy"
      ? "Saving …"
      : saving === "away"
        ? "Kept here: the server can't be reached. It is sent when it is back."
        : saving === "refused"
          ? "Not saved: see what to mend."
          : changed
            ? "Not saved yet"
            : saved;
  const look = saving === "away" || saving === "refused" ? "font-medium text-short" : "";
  // As wide whether saved or not: what stands beside and below it must not move away from under the pointer.
  return (
    <span role="status" className={`inline-block min-w-24 ${look}`}>
      {text}
    </span>
  );
}

/** Somebody saved first, or the server refused: said in place, with the ways out, and nothing lost. */
export function DraftNotices<T>({ store, what }: { store: DraftStore<T>; what: string }) {
  const { theirs, doc, refusal, keepMine, takeTheirs } = useStore(store);
  const [comparing, setComparing] = useState(false);
  return (
    <>
      {theirs && (
        <div role="alert" className="mx-6 mt-4 rounded-md border-l-4 border-short bg-hush px-4 py-3">
          <p className="font-semibold">This {what} was changed elsewhere since you opened it.</p>
          <p className="mb-2">Nothing is lost: yours is here, theirs is on the server. Choose which goes on.</p>
          <div className="flex flex-wrap gap-2">
            <Button onClick={() => setComparing(true)}>Compare the two</Button>
            <Button onClick={() => void keepMine()}>Keep mine</Button>
            <Button onClick={takeTheirs}>Take theirs</Button>
          </div>
          <Dialog title="Yours and theirs" open={comparing} onClose={() => setComparing(false)} wide>
            <DataTable
              rows={differences(doc, theirs.doc)}
              rowKey={(d) => d.path}
              columns={[
                { head: "Where", names: true, look: "py-2 align-top text-muted", cell: (d) => d.path },
                { head: "Yours", look: DOCUMENT_TEXT, cell: (d) => d.mine },
                { head: "Theirs", look: DOCUMENT_TEXT, cell: (d) => d.theirs },
              ]}
            />
          </Dialog>
        </div>
      )}
      {refusal && <RefusalNotice refusal={refusal} />}
    </>
  );
}
