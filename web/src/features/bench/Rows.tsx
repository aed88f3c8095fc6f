import { mendsOf } from "@jar-count/core/builder";
import { useCallback, useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import type { Problem } from "@jar-count/core/contract";
import { inUnit } from "@jar-count/core/units";
import { CircleHelp } from "lucide-react";
import { useSettings } from "../../settings/index.ts";
import { Button } from "../../ui/controls.tsx";
import { later } from "../../ui/later.tsx";
import { examplesOf, NotationCard } from "../notation/index.ts";
import { useBench, useBenchStore } from "./benchStore.ts";
import type { ShorthandEditorProps } from "./ShorthandEditor.tsx";

export const ShorthandEditor = later(
  async () => (await import("./ShorthandEditor.tsx")).default,
  ({ text }: ShorthandEditorProps) => (
    <pre className="rounded-md bg-hush px-10 py-2.5 font-mono leading-6">{text || " "}</pre>
  ),
);

/** The rows of the part at hand, in shorthand, and beside them the card that explains it. */
export function Rows({ part }: { part: string }) {
  const { state, set, editPart, mend } = useBenchStore();
  const { name, text, sizes, lit, goTo, putIn, frame, strands, card } = useBench(
    useShallow((b) => ({
      name: b.part?.name ?? "",
      text: b.part?.steps ?? "",
      strands: b.part?.strands ?? 1,
      sizes: b.sizes,
      lit: b.lit,
      goTo: b.goTo?.part === part ? b.goTo : null,
      putIn: b.putIn?.part === part ? b.putIn : null,
      frame: b.frame,
      card: b.card,
    })),
  );
  const all = useBench((b) => b.counting.answer.problems);
  const unit = useSettings((s) => s.unit);
  const problems = useMemo(
    () => all.filter((p) => p.part === part).map((p) => ({ ...p, message: inUnit(p.message, unit) })),
    [all, part, unit],
  );
  const subs = useMemo(
    () => frame.parts.flatMap((p) => (p.as != null && p.id !== part ? [{ key: p.as, name: p.name }] : [])),
    [frame, part],
  );
  const exampleKeys = useMemo(() => examplesOf(frame).keys, [frame]);
  const mendsFor = useCallback(
    (p: Problem) => mendsOf(state.getState().design, p).map((m) => ({ say: m.say, act: () => mend(part, m) })),
    [state, mend, part],
  );
  return (
    <div className={`px-6 pt-2 ${card === null ? "" : "grid items-start gap-4 md:grid-cols-2"}`}>
      <div className="min-w-0">
        <div className="flex flex-wrap items-baseline justify-between gap-x-3 pb-1">
          <span className="min-w-0 truncate text-xs text-muted">Rows of {name}</span>
          <Button
            look="quiet"
            className="h-6! px-1.5! text-sm"
            aria-expanded={card !== null}
            onClick={() => set({ card: card === null ? "" : null })}
          >
            <CircleHelp size={14} aria-hidden /> How rows are written{" "}
            <kbd className="font-mono text-xs text-muted">?</kbd>
          </Button>
        </div>
        <ShorthandEditor
          part={part}
          label={`Rows of ${name}, in shorthand`}
          text={text}
          keys={frame.key}
          subs={subs}
          sizes={sizes}
          exampleKeys={exampleKeys}
          problems={problems}
          mendsFor={mendsFor}
          lit={lit}
          goTo={goTo}
          putIn={putIn}
          onPutIn={() => set({ putIn: null })}
          onChange={(steps) => editPart({ steps }, "steps")}
          onLight={(pointed) => set({ pointed })}
          onHelp={(word) => set({ card: word })}
        />
        {strands > 1 && (
          <p className="pt-1 text-xs text-muted">
            {strands} strands side by side: a bead that stands plainly sits on all of them at once, and a repeat to a
            length as well. What each strand has of its own goes into <code className="font-mono">each( … )</code>.
          </p>
        )}
      </div>
      {card !== null && (
        <NotationCard
          design={frame}
          search={card}
          onSearch={(to) => set({ card: to })}
          onPut={(put) => set({ putIn: { part, text: put } })}
          onClose={() => set({ card: null })}
        />
      )}
    </div>
  );
}
