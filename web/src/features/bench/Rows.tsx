import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { later } from "../../ui/later.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import type { ShorthandEditorProps } from "./ShorthandEditor.tsx";

export const ShorthandEditor = later(
  async () => (await import("./ShorthandEditor.tsx")).default,
  ({ text }: ShorthandEditorProps) => (
    <pre className="rounded-md bg-hush px-10 py-2.5 font-mono leading-6">{text || " "}</pre>
  ),
);

/** The rows of the part at hand, in shorthand. */
export function Rows({ part }: { part: string }) {
  const { set, editPart } = useBenchStore();
  const { name, text, sizes, lit, goTo, frame } = useBench(
    useShallow((b) => ({
      name: b.part?.name ?? "",
      text: b.part?.steps ?? "",
      sizes: b.sizes,
      lit: b.lit,
      goTo: b.goTo?.part === part ? b.goTo : null,
      frame: b.frame,
    })),
  );
  const all = useBench((b) => b.counting.answer.problems);
  const problems = useMemo(() => all.filter((p) => p.part === part), [all, part]);
  const subs = useMemo(
    () => frame.parts.flatMap((p) => (p.as != null && p.id !== part ? [{ key: p.as, name: p.name }] : [])),
    [frame, part],
  );
  return (
    <div className="px-6 pt-4">
      <ShorthandEditor
        part={part}
        label={`Rows of ${name}, in shorthand`}
        text={text}
        keys={frame.key}
        subs={subs}
        sizes={sizes}
        problems={problems}
        lit={lit}
        goTo={goTo}
        onChange={(steps) => editPart({ steps }, "steps")}
        onLight={(pointed) => set({ pointed })}
      />
    </div>
  );
}
