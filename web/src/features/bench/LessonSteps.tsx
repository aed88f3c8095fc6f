import { Check } from "lucide-react";
import { useNavigate } from "react-router";
import { Button } from "../../ui/controls.tsx";
import { keepDraft } from "../../draft/index.ts";
import type { Lesson } from "../notation/index.ts";
import { useBench, useBenchStore } from "./benchStore.ts";
import { newDesign } from "./unsaved.ts";

/** What to do in a lesson, step by step, with what is done already ticked. */
export function LessonSteps({ lesson }: { lesson: Lesson }) {
  const { draft } = useBenchStore();
  const navigate = useNavigate();
  const design = useBench((b) => b.design);
  const done = lesson.steps.map((s) => s.done(design));
  const next = done.indexOf(false);
  const keep = () => {
    const id = crypto.randomUUID();
    keepDraft(`design/${id}`, { ...design, name: design.name.replace(/^Lesson: /, "") }, newDesign());
    void navigate(`/designs/${id}?new`);
  };
  return (
    <section aria-label="Lesson" className="mx-6 mt-3 rounded-md border border-edge px-4 py-2">
      <ol>
        {lesson.steps.map((step, i) => (
          <li key={step.say} className={`flex gap-2 py-0.5 ${i === next ? "font-medium" : "text-muted"}`}>
            <span className="w-4 shrink-0">
              {done[i] ? (
                <>
                  <Check size={15} aria-hidden className="mt-0.5 text-action" />
                  <span className="sr-only">done: </span>
                </>
              ) : (
                `${i + 1}`
              )}
            </span>
            <span hidden={i !== next && !done[i]} className="min-w-0">
              {step.say}
              {step.type && (
                <code className="ml-2 rounded bg-hush px-1.5 font-mono font-bold whitespace-nowrap">{step.type}</code>
              )}
            </span>
            {i !== next && !done[i] && <span>…</span>}
          </li>
        ))}
      </ol>
      <p className="mt-1 flex flex-wrap items-center gap-2" role="status">
        {next < 0 && <strong>Done. That is all there is to it.</strong>}
        <Button className="h-8!" onClick={keep}>
          Keep it as a design
        </Button>
        <Button className="h-8!" look="quiet" onClick={() => draft.getState().edit(() => lesson.start)}>
          Begin again
        </Button>
      </p>
    </section>
  );
}
