import { Check } from "lucide-react";
import { useNavigate } from "react-router";
import { keepDraft } from "../../draft/index.ts";
import { Button } from "../../ui/controls.tsx";
import type { Lesson } from "../notation/index.ts";
import { useBench, useBenchStore } from "./benchStore.ts";
import { newDesign } from "./unsaved.ts";

/** What to do next in a lesson; a step is ticked as soon as the copy shows that it is done. */
export function LessonSteps({ lesson }: { lesson: Lesson }) {
  const { draft } = useBenchStore();
  const navigate = useNavigate();
  const design = useBench((b) => b.design);
  const done = lesson.steps.map((s) => s.done(design));
  const next = done.indexOf(false);
  const step = lesson.steps[next];
  const keep = () => {
    const id = crypto.randomUUID();
    keepDraft(`design/${id}`, { ...design, name: design.name.replace(/^Lesson: /, "") }, newDesign());
    void navigate(`/designs/${id}?new`);
  };
  return (
    <section aria-label="Lesson" className="mx-6 mt-2 rounded-md border border-edge px-3 py-2">
      <p role="status" className="min-h-10">
        {step ? (
          <>
            <strong className="mr-1">{next + 1}.</strong> {step.say}
            {step.type && (
              <code className="ml-2 rounded bg-hush px-1.5 font-mono font-bold whitespace-nowrap">{step.type}</code>
            )}
          </>
        ) : (
          <strong>Done. That is all there is to it.</strong>
        )}
      </p>
      <div className="flex flex-wrap items-center justify-between gap-x-3">
        <ol className="flex items-center gap-2 text-sm text-muted" aria-label="Steps">
          {lesson.steps.map((s, i) => (
            <li key={s.say} className={i === next ? "font-bold text-ink" : ""}>
              {done[i] ? (
                <>
                  <Check size={14} aria-hidden className="text-action" />
                  <span className="sr-only">step {i + 1} done</span>
                </>
              ) : (
                i + 1
              )}
            </li>
          ))}
        </ol>
        <span className="flex">
          <Button look="quiet" className="h-7! px-2!" onClick={() => draft.getState().edit(() => lesson.start)}>
            Begin again
          </Button>
          <Button look="quiet" className="h-7! px-2!" onClick={keep}>
            Keep it as a design
          </Button>
        </span>
      </div>
    </section>
  );
}
