import { formatPattern } from "@jar-count/core/shorthand";
import { AlignLeft, ClipboardList, Diff, Download, History } from "lucide-react";
import { useEffect } from "react";
import { useStore } from "zustand";
import { isChanged, SaveState, UndoButtons } from "../../draft/index.ts";
import { Button, IconButton } from "../../ui/controls.tsx";
import { checkName, TextField } from "../../ui/fields.tsx";
import { designFileName, download } from "../../ui/handOver.ts";
import { sayMinute } from "../../ui/month.ts";
import { useBench, useBenchStore } from "./benchStore.ts";

/** The design's name, how saving stands, and what can be done with the whole of it. */
export function BenchHead({ savedAt }: { savedAt: string }) {
  const { draft, state, set, editPart, editDesign, save } = useBenchStore();
  const name = useStore(draft, (d) => d.doc.name);
  const version = useStore(draft, (d) => d.version);
  const blocked = useStore(draft, (d) => d.saving === "busy" || d.theirs !== null);
  const changed = useStore(draft, isChanged);
  const why = useBench((b) => b.why);
  const faults = useBench((b) => b.saveFaults);
  useEffect(() => {
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "s") return;
      e.preventDefault();
      void save();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [save]);
  const toFile = () => {
    const { doc } = draft.getState();
    download(designFileName(doc.name), `${JSON.stringify(doc, null, 2)}\n`, "application/json");
  };
  return (
    <header className="px-6 pt-5">
      <TextField
        aria-label="Name of the design"
        className="cell-field -ml-1.5 h-11! font-serif text-[1.625rem]"
        value={name}
        check={checkName}
        onChange={(to) => editDesign({ name: to }, "name")}
      />
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-2">
        <p className="text-muted">
          <SaveState store={draft} saved={`Revision ${version}, saved ${sayMinute(savedAt)}`} />
        </p>
        <div className="flex flex-wrap items-center gap-1.5">
          <UndoButtons draft={draft} />
          <IconButton label="Bench log" onClick={() => set({ dialog: "log" })}>
            <ClipboardList size={17} />
          </IconButton>
          <IconButton label="What differs between sizes and options" onClick={() => set({ dialog: "differ" })}>
            <Diff size={17} />
          </IconButton>
          <IconButton label="Revisions" onClick={() => set({ dialog: "revisions" })}>
            <History size={17} />
          </IconButton>
          <IconButton
            label="Tidy the rows"
            onClick={() => editPart({ steps: formatPattern(state.getState().part?.steps ?? "") })}
          >
            <AlignLeft size={17} />
          </IconButton>
          <IconButton label="Save as a design file" onClick={toFile}>
            <Download size={17} />
          </IconButton>
          {changed && (
            <input
              className="field w-44"
              aria-label="What changed, in a few words"
              placeholder="What changed (may stay empty)"
              maxLength={500}
              value={why}
              onChange={(e) => set({ why: e.target.value })}
            />
          )}
          <Button look="main" disabled={!changed || blocked} onClick={() => void save()}>
            Save revision {version + 1}
          </Button>
        </div>
      </div>
      {faults.length > 0 && (
        <ul role="alert" className="mt-2 list-disc pl-5 font-medium text-short">
          {faults.map((f) => (
            <li key={f}>{f}</li>
          ))}
        </ul>
      )}
    </header>
  );
}
