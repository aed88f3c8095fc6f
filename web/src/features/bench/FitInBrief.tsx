import type { FitCheck } from "@jar-count/core/contract";
import { overruleOf } from "@jar-count/core/fit";
import { inUnit } from "@jar-count/core/units";
import { Check } from "lucide-react";
import { useSettings } from "../../settings/index.ts";
import { Diamond, Triangle } from "../../ui/marks.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";

/** So many are told here: the bead key below stays in sight. */
const FIRST = 2;

/** What does not fit, in the tally: the first ones in their sentences, the rest behind a press. */
export function FitInBrief() {
  const { set } = useBenchStore();
  const design = useBench((b) => b.design);
  const size = useBench((b) => b.size);
  const { checks, unchecked } = useBench((b) => b.fit);
  const unit = useSettings((s) => s.unit);
  const wrong = checks.filter((c) => c.level !== "fine" && overruleOf(design, size, c) === null);
  const stands = checks.filter((c) => c.level !== "fine").length - wrong.length;
  if (checks.length === 0 && unchecked.length === 0) return null;
  return (
    <section className="pt-3" aria-label="Does it fit">
      <h3 className="font-semibold">Does it fit?</h3>
      {wrong.length > 0 ? (
        <ul className="flex flex-col gap-2 pt-1">
          {wrong.slice(0, FIRST).map((check, i) => (
            <li key={i} className="flex gap-2">
              <LevelMark level={check.level} />
              <span className="min-w-0 break-words">{inUnit(check.message, unit)}</span>
            </li>
          ))}
        </ul>
      ) : (
        <p className="flex items-baseline gap-2">
          {checks.length > 0 && <Check size={14} aria-hidden className="relative top-0.5 shrink-0" />}
          {checks.length === 0
            ? "Nothing could be checked yet."
            : checks.length === 1
              ? "The one check is fine."
              : `All ${checks.length} checks are fine${stands > 0 ? " or stand as noted" : ""}.`}
        </p>
      )}
      <button type="button" className="link mt-1 font-medium" onClick={() => set({ dialog: "fit" })}>
        {wrong.length > 0 ? `Ways out${wrong.length > FIRST ? ` of all ${wrong.length}` : ""}` : "See the checks"}
        {unchecked.length > 0 && `, ${unchecked.length} not checked`}
      </button>
    </section>
  );
}

export function LevelMark({ level }: { level: FitCheck["level"] }) {
  if (level === "fine") return <Check size={14} aria-label="Fine:" className="relative top-1 shrink-0" />;
  return (
    <span className={level === "fail" ? "text-short" : "text-low"}>
      {level === "fail" ? <Triangle /> : <Diamond />}
      <span className="sr-only">{level === "fail" ? "Does not fit: " : "Nearly: "}</span>
    </span>
  );
}
