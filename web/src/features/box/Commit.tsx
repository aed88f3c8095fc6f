import type { Run, RunState } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { CircleDashed, LockKeyhole, Package, Send } from "lucide-react";
import { useState } from "react";
import { useStore } from "zustand";
import { runQuery, stockChanged } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { isChanged } from "../../draft/index.ts";
import { useSettings } from "../../settings/index.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { later } from "../../ui/later.tsx";
import { Diamond } from "../../ui/marks.tsx";
import { holdsSomething, useBox, useBoxStore } from "./boxStore.ts";

// What is asked for, or seen of a committed box alone, comes after the page.
const nothing = () => null;
const CommitDialog = later(async () => (await import("./CommitDialog.tsx")).CommitDialog, nothing);
const BackDialog = later(async () => (await import("./CommitDialog.tsx")).BackDialog, nothing);
const CommittedNotices = later(async () => (await import("./CommittedNotices.tsx")).CommittedNotices, nothing);

/** Has them ready; where they can't be fetched now, they are when they are shown. */
export const loadCommitting = () => Promise.all([CommitDialog.load(), CommittedNotices.load()]).catch(() => {});

const STATES = {
  planned: { icon: CircleDashed, word: "Planned" },
  committed: { icon: LockKeyhole, word: "Committed" },
  packing: { icon: Package, word: "Packing" },
  sent: { icon: Send, word: "Sent" },
} as const satisfies Record<RunState, object>;

/** How far a box is: a sign and a word. */
export function StateMark({ state }: { state: RunState }) {
  const { icon: Icon, word } = STATES[state];
  return (
    <span
      data-testid="box-state"
      className="mr-1 inline-flex items-center gap-1 rounded-full border border-edge px-2 text-xs font-semibold"
    >
      <Icon size={12} aria-hidden /> {word}
    </span>
  );
}

export const useRun = () => useQuery(runQuery(useBox(({ box }) => box.id))).data;

/** Whether all that was typed is saved: only what is saved can be committed. */
export function useSaved(): boolean {
  const { draft } = useBoxStore();
  return !useStore(draft, isChanged);
}

/** Commits a planned box; takes a committed one back. */
export function CommitButtons() {
  const run = useRun();
  const [asking, setAsking] = useState<"commit" | "back" | null>(null);
  const begun = useBox(({ box }) => holdsSomething(box) && box.variants.length > 0);
  const saved = useSaved();
  if (!run || !begun) return null;
  return (
    <>
      {run.state === "planned" && (
        <Button look="main" disabled={!saved} onClick={() => setAsking("commit")}>
          <LockKeyhole size={15} aria-hidden /> Commit the box
        </Button>
      )}
      {run.state === "committed" && <Button onClick={() => setAsking("back")}>Take it back</Button>}
      {asking === "commit" && <CommitDialog onClose={() => setAsking(null)} />}
      {asking === "back" && <BackDialog onClose={() => setAsking(null)} />}
    </>
  );
}

/** What a committed box lacks, and what was changed in it since; of a planned one, what was ordered for it already. */
export function RunNotice() {
  const run = useRun();
  if (!run) return null;
  if (run.state !== "planned") return <CommittedNotices run={run} />;
  return run.ahead > 0 ? <HeldAhead run={run} /> : null;
}

/** What was ordered for a planned box is spoken for by it: told, with the way out. */
function HeldAhead({ run }: { run: Run }) {
  const id = useBox(({ box }) => box.id);
  const person = useSettings((s) => s.person);
  const { send, busy, refusal } = useSend("takeBack", stockChanged);
  return (
    <p className="mx-6 mt-4 flex flex-wrap items-center gap-3 text-muted">
      <span>
        {run.ahead === 1 ? "One thing was" : `${run.ahead} things were`} ordered for this box: spoken for by it, in the
        order or on the shelf.
      </span>
      <Button
        disabled={busy}
        onClick={() => void send((requestKey) => ({ params: { id }, body: { requestKey, person } }))}
      >
        Let go of {run.ahead === 1 ? "it" : "them"}
      </Button>
      {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
    </p>
  );
}

/** Said before one edits a box whose bill is frozen: what is changed is a plan until it is taken over. */
export function PlanNotice() {
  const run = useRun();
  if (!run || run.state === "planned") return null;
  return (
    <p role="note" className="mb-3 rounded-md bg-hush px-4 py-2">
      <Diamond className="text-low" /> <strong className="font-semibold">This is now a plan.</strong>{" "}
      {run.state === "committed"
        ? "The box is committed: what is changed here stays out of its frozen bill until you take it over."
        : `The box is ${run.state === "sent" ? "sent" : "being packed"} by its frozen bill: what is changed here ` +
          "changes nothing in it."}
    </p>
  );
}
