import type { Design, RevisionNote } from "@jar-count/core/contract";
import { changesBetween } from "@jar-count/core/count";
import { overrulesIn } from "@jar-count/core/fit";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { query, revisionsQuery } from "../../api/queries.ts";
import { Changes } from "../../ui/Changes.tsx";
import { Button } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { sayMinute } from "../../ui/month.ts";
import { NoteOf } from "../../ui/NoteOf.tsx";

interface Props {
  id: string;
  /** What stands on the bench now, saved or not. */
  design: Design;
  onClose: () => void;
  onTakeUp: (design: Design, no: number) => void;
}

/** Every saved state of the design, with its reason; any of them compared with what is on the bench. */
export function Revisions({ id, design, onClose, onTakeUp }: Props) {
  return (
    <Dialog title="Revisions" open onClose={onClose} wide>
      <List id={id} design={design} onTakeUp={onTakeUp} />
    </Dialog>
  );
}

function List({ id, design, onTakeUp }: Pick<Props, "id" | "design" | "onTakeUp">) {
  const notes = useQuery({ ...revisionsQuery(id), staleTime: 0 });
  const [no, setNo] = useState<number | null>(null);
  const chosen = useQuery({
    ...query("readRevision", { params: { id, no: no ?? 0 } }),
    enabled: no !== null,
    staleTime: Infinity,
  });
  if (!notes.data) return <p role="status">{notes.error?.message ?? "Fetching the revisions …"}</p>;
  return (
    <>
      <ul className="mb-4 max-h-64 overflow-y-auto">
        {notes.data.map((note: RevisionNote) => (
          <li key={note.no}>
            <button
              type="button"
              aria-pressed={note.no === no}
              onClick={() => setNo(note.no)}
              className={`flex w-full items-baseline gap-3 rounded px-2 py-1.5 text-left ${
                note.no === no ? "bg-ink text-paper" : "hover:bg-hush"
              }`}
            >
              <span className="w-24 font-semibold whitespace-nowrap">Revision {note.no}</span>
              <span className="min-w-0 flex-1 [overflow-wrap:anywhere]">{note.reason || "no reason written"}</span>
              <span className="text-xs whitespace-nowrap opacity-80">{sayMinute(note.savedAt)}</span>
            </button>
          </li>
        ))}
      </ul>
      {no === null && <p className="text-muted">Choose a revision to see what has changed since.</p>}
      {no !== null && chosen.data && (
        <section aria-label={`Changes since revision ${no}`}>
          <div className="mb-2 flex items-center justify-between gap-3">
            <h3 className="font-semibold">From revision {no} to what is on the bench now</h3>
            <Button onClick={() => onTakeUp(chosen.data.design, no)}>Take revision {no} up again</Button>
          </div>
          {overrulesIn(chosen.data.design).map((o) => (
            <p key={`${o.rule} ${o.part} ${o.roleId} ${o.size}`} className="mb-2">
              Let stand in it: <NoteOf of={o} />
            </p>
          ))}
          <Changes list={changesBetween(chosen.data.design, design)} none="Counts and lengths are the same." />
        </section>
      )}
      {chosen.error && (
        <p role="alert" className="text-short">
          {chosen.error.message}
        </p>
      )}
    </>
  );
}
