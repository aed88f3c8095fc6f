import { levelOf, minutesFor, sayMinutes } from "@jar-count/core/sheet";
import { inUnit } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { useStore } from "zustand";
import { useShallow } from "zustand/react/shallow";
import { trialsQuery } from "../../api/queries.ts";
import { useSettings } from "../../settings/index.ts";
import { TallyRow } from "../../ui/page.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";

const FROM_WORDS = { model: "worked out from its beads and steps", trials: "by its trials", said: "as was said" };

/** How much a maker must be able to do, and how long it takes: each with what it is made of. */
export function LevelAndTime() {
  const { id, draft } = useBenchStore();
  const { counting, fit } = useBench(useShallow(({ counting, fit }) => ({ counting, fit })));
  const unit = useSettings((s) => s.unit);
  const isKept = useStore(draft, (d) => d.version > 0);
  const trials = useQuery({ ...trialsQuery(id), enabled: isKept }).data ?? [];
  const judged = levelOf(counting, fit);
  const minutes = minutesFor(counting, trials);
  return (
    <>
      <dl>
        <TallyRow label="Level">{judged.level}</TallyRow>
        <TallyRow label="Time">{sayMinutes(minutes)}</TallyRow>
      </dl>
      <details>
        <summary className="w-fit cursor-pointer text-action">Why</summary>
        <ul className="list-disc pl-4">
          {judged.byHand !== null && <li>Set by hand{judged.byHand && `: ${judged.byHand}`}</li>}
          {judged.reasons.map((r) => (
            <li key={r.say}>{inUnit(r.say, unit)}</li>
          ))}
          <li>
            Minutes {FROM_WORDS[minutes.from]}
            {minutes.from === "model" &&
              `: ${minutes.of
                .slice(0, 4)
                .map((x) => `${x.say.toLowerCase()} ${Math.max(1, Math.round(x.minutes))}`)
                .join(", ")}`}
          </li>
        </ul>
      </details>
    </>
  );
}
