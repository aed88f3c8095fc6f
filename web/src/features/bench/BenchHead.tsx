import { formatPattern } from "@jar-count/core/shorthand";
import { ChevronDown } from "lucide-react";
import { DropdownMenu } from "radix-ui";
import { useEffect } from "react";
import { useNavigate } from "react-router";
import { useStore } from "zustand";
import { isChanged, SaveState, throwAway, UndoButtons } from "../../draft/index.ts";
import { Button } from "../../ui/controls.tsx";
import { checkName, TitleField } from "../../ui/fields.tsx";
import { designFileName, download } from "../../ui/handOver.ts";
import { Triangle } from "../../ui/marks.tsx";
import { sayMinute } from "../../ui/month.ts";
import type { Lesson } from "../notation/index.ts";
import { type BenchState, useBench, useBenchStore } from "./benchStore.ts";

/** How many different errors there are in any size. */
const errorsOf = ({ columns }: BenchState) =>
  new Set(
    columns.flatMap(({ counting }) =>
      counting.answer.problems.flatMap((p) => (p.level === "error" ? [`${p.part} ${p.row} ${p.message}`] : [])),
    ),
  ).size;

/** The design's name, how saving stands, and what can be done with the whole of it. */
export function BenchHead({ savedAt, lesson }: { savedAt: string; lesson: Lesson | undefined }) {
  const { draft, set, editDesign, save } = useBenchStore();
  const name = useStore(draft, (d) => d.doc.name);
  const version = useStore(draft, (d) => d.version);
  const blocked = useStore(draft, (d) => d.saving === "busy" || d.theirs !== null);
  const changed = useStore(draft, isChanged);
  const why = useBench((b) => b.why);
  const faults = useBench((b) => b.saveFaults);
  const errors = useBench(errorsOf);
  useEffect(() => {
    if (lesson) return;
    const onKey = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "s") return;
      e.preventDefault();
      void save();
    };
    addEventListener("keydown", onKey);
    return () => removeEventListener("keydown", onKey);
  }, [save, lesson]);
  return (
    <header className="px-6 pt-3">
      <TitleField
        aria-label="Name of the design"
        value={name}
        check={checkName}
        onChange={(to) => editDesign({ name: to }, "name")}
      />
      <div className="flex flex-wrap items-center justify-between gap-x-4 gap-y-1">
        <p className="text-muted">
          {lesson ? (
            "A copy for practice: nothing of it is kept"
          ) : (
            <SaveState
              store={draft}
              saved={
                version === 0 ? "New: kept once something is in it" : `Revision ${version}, saved ${sayMinute(savedAt)}`
              }
            />
          )}
        </p>
        <div className="flex flex-wrap items-center gap-1.5">
          <UndoButtons draft={draft} />
          <More />
          {!lesson && changed && version > 0 && (
            <input
              className="field w-48"
              aria-label="What changed, in a few words"
              placeholder="What changed (optional)"
              maxLength={500}
              value={why}
              onChange={(e) => set({ why: e.target.value })}
            />
          )}
          {!lesson && (
            <Button look="main" disabled={!changed || blocked} onClick={() => void save()}>
              {version === 0 ? "Save the design" : `Save revision ${version + 1}`}
            </Button>
          )}
        </div>
      </div>
      {!lesson && !changed && version > 0 && errors > 0 && (
        <p role="status" className="mt-1 font-medium text-short">
          <Triangle /> Saved with {errors === 1 ? "an error" : `${errors} errors`}: it counts only what could be read,
          and no box with it can be committed until that is mended.
        </p>
      )}
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

const ITEM = "cursor-pointer rounded px-2 py-1.5 outline-none data-[highlighted]:bg-hush";

/** What is done less often, each by its name. */
function More() {
  const { id, draft, state, set, editPart, editDesign } = useBenchStore();
  const navigate = useNavigate();
  const unsaved = useStore(draft, (d) => d.version === 0);
  const changed = useStore(draft, isChanged);
  const toFile = () => {
    const { doc } = draft.getState();
    download(designFileName(doc.name), `${JSON.stringify(doc, null, 2)}\n`, "application/json");
  };
  const discard = () => {
    if (unsaved) {
      throwAway(`design/${id}`);
      void navigate("/designs");
    } else editDesign(draft.getState().base);
  };
  const list: [words: string, act: () => void, hidden?: boolean][] = [
    // A trial is of a saved revision, and before the first there are no earlier ones.
    ["Bench log: trial makes", () => set({ dialog: "log" }), unsaved],
    ["Compare sizes and options", () => set({ dialog: "differ" })],
    ["Earlier revisions", () => set({ dialog: "revisions" }), unsaved],
    ["Tidy the rows", () => editPart({ steps: formatPattern(state.getState().part?.steps ?? "") })],
    ["Save as a design file", toFile],
    [unsaved ? "Throw this draft away" : "Throw the changes away", discard, !changed],
  ];
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>
        <Button>
          More <ChevronDown size={15} aria-hidden />
        </Button>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content align="end" className="z-50 rounded-md border border-edge bg-paper p-1 shadow-lg">
          {list
            .filter(([, , hidden]) => !hidden)
            .map(([words, act]) => (
              <DropdownMenu.Item key={words} className={ITEM} onSelect={act}>
                {words}
              </DropdownMenu.Item>
            ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
