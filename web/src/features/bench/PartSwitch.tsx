import type { Part } from "@jar-count/core/contract";
import { Plus } from "lucide-react";
import { useSearchParams } from "react-router";
import { useShallow } from "zustand/react/shallow";
import { Button, Segmented } from "../../ui/controls.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { freeKey, keysOf } from "./designs.ts";

const MOST_PARTS = 200;

/** Which part, size and option of the design is looked at. */
export function PartSwitch() {
  return (
    <div className="flex flex-wrap items-center justify-between gap-x-3 gap-y-1 px-6 py-1.5">
      <Parts />
      <div className="flex flex-wrap gap-3">
        <Choice of="option" label="Option" />
        <Choice of="size" label="Size" />
      </div>
    </div>
  );
}

function Parts() {
  const { set, editDesign, state } = useBenchStore();
  const parts = useBench((b) => b.frame.parts);
  const chosen = useBench((b) => b.part?.id);
  const broken = useBench(
    useShallow((b) => b.counting.answer.problems.flatMap((p) => (p.level === "error" && p.part ? [p.part] : []))),
  );
  const full = parts.length >= MOST_PARTS;
  // Whoever asks for a sub-assembly wants to see it by itself; of any other part the whole comes first.
  const show = (p: Part) =>
    set({ partId: p.id, look: { ...state.getState().look, showing: p.as != null ? "laid" : null } });
  const name = parts.find((p) => p.id === chosen)?.name;
  const copy = () => {
    const { design, part } = state.getState();
    const id = crypto.randomUUID();
    const as = part!.as == null ? null : freeKey(keysOf(design));
    const again = { ...part!, id, name: `${part!.name} again`.slice(0, 200), as };
    editDesign({ parts: design.parts.flatMap((p) => (p.id === chosen ? [p, again] : [p])) });
    set({ partId: id });
  };
  const add = () => {
    const { design } = state.getState();
    const id = crypto.randomUUID();
    editDesign({ parts: [...design.parts, { id, name: `Part ${design.parts.length + 1}`, makes: 1, steps: "" }] });
    set({ partId: id });
  };
  return (
    <div role="group" aria-label="Parts" className="flex flex-wrap items-center gap-1">
      {parts.map((p) => {
        const look = p.id === chosen ? "bg-ink font-semibold text-paper" : "hover:bg-hush";
        const wrong = broken.includes(p.id) ? "underline decoration-short decoration-wavy decoration-2" : "";
        return (
          <button
            key={p.id}
            type="button"
            aria-pressed={p.id === chosen}
            onClick={() => show(p)}
            className={`h-8 max-w-48 truncate rounded-md px-2.5 ${look} ${wrong}`}
          >
            {p.name}
            {p.as != null && <span className="ml-1.5 font-mono text-xs opacity-80">{p.as}</span>}
          </button>
        );
      })}
      {name !== undefined && (
        <Button look="quiet" className="h-8! px-2!" aria-label={`Copy ${name}`} disabled={full} onClick={copy}>
          Copy
        </Button>
      )}
      <Button look="quiet" className="h-8! px-2!" aria-label="Add a part" disabled={full} onClick={add}>
        <Plus size={15} aria-hidden /> Part
      </Button>
    </div>
  );
}

/** A size or an option, where there are several; kept in the address. */
function Choice({ of, label }: { of: "size" | "option"; label: string }) {
  const [, setParams] = useSearchParams();
  const list = useBench((b) => (of === "size" ? b.frame.sizes : b.frame.options)) ?? [];
  const value = useBench((b) => b[of]);
  if (list.length === 0 || value === null) return null;
  return (
    <Segmented
      label={label}
      value={value}
      options={list.map((x) => ({ value: x.key, label: x.label ?? x.key }))}
      onChange={(key) =>
        setParams(
          (before) => {
            before.set(of, key);
            return before;
          },
          { replace: true },
        )
      }
    />
  );
}
