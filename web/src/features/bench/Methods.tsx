import { type ChosenMethod, dropMethod, linesOf } from "@jar-count/core/method";
import { Plus, X } from "lucide-react";
import { Button, IconButton } from "../../ui/controls.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";

/** The tail that a method works with, and the one whose place it took. */
export function sayTail(say: ReturnType<typeof useSayQuantity>, tailMm: number, { method }: ChosenMethod): string {
  const own = method.replacesTailMm;
  return `a tail of ${say(tailMm, "mm")} at each end${own ? `, in place of ${say(own, "mm")}` : ""}`;
}

/** How the part's ends, links and knots are made, each with the lines that it brought. */
export function Methods() {
  const { draft, set } = useBenchStore();
  const design = useBench((b) => b.frame);
  const id = useBench((b) => b.part?.id);
  const say = useSayQuantity();
  const part = design.parts.find((p) => p.id === id);
  if (!part) return null;
  const methods = linesOf(design, part);
  return (
    <section aria-label="Ends, links and knots" className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
      <h3 className="text-xs text-muted">Ends, links, knots</h3>
      <ul className="contents">
        {methods.map(({ of, lines, tailMm }) => (
          <li key={`${of.definition.id} ${of.method.at}`} className="flex items-baseline gap-1">
            <span>
              <strong>{of.definition.name}</strong>, {of.method.at}
              <span className="text-muted">
                {lines.map(({ key, count, mm, state }) => {
                  const cut = mm === null ? "" : ` of ${say(mm, "mm")}`;
                  return `; ${sayNumber(count)} ${key}${cut}${state === "as written" ? "" : ` (${state})`}`;
                })}
                {tailMm > 0 && `; ${sayTail(say, tailMm, of)}`}
              </span>
            </span>
            <IconButton
              label={`Don’t make it by ${of.definition.name}, ${of.method.at}`}
              className="size-6!"
              onClick={() => draft.getState().edit((d) => dropMethod(d, part.id, of.method))}
            >
              <X size={14} />
            </IconButton>
          </li>
        ))}
      </ul>
      <Button look="quiet" className="h-7! px-1.5 text-sm" onClick={() => set({ dialog: "method" })}>
        <Plus size={14} aria-hidden /> {methods.length === 0 ? "Choose how they are made" : "Choose another"}
      </Button>
    </section>
  );
}
