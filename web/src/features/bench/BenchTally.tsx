import { isMirroredPair, mendsOf } from "@jar-count/core/builder";
import type { Answer, Design, Problem } from "@jar-count/core/contract";
import { endsMm, finishedMm, seriesOf } from "@jar-count/core/length";
import { inUnit } from "@jar-count/core/units";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { useSettings } from "../../settings/index.ts";
import { Button } from "../../ui/controls.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { Leading, Problems, TallyHead, TallyRow, TallyRule } from "../../ui/page.tsx";
import { BeadKey } from "./BeadKey.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { FitInBrief } from "./FitInBrief.tsx";
import { LevelAndTime } from "./LevelAndTime.tsx";

/** Always beside the bench: how many, how long, what is wrong, and the bead key with what each line of it comes to. */
export function BenchTally({ onPut }: { onPut: (key: string) => void }) {
  const size = useBench((b) => b.design.sizes?.find((s) => s.key === b.size)?.label ?? b.size);
  const option = useBench((b) => b.design.options?.find((o) => o.key === b.option)?.label ?? b.option);
  return (
    <>
      <TallyHead what={["one item", size, option].filter(Boolean).join(", ").toLowerCase()} />
      <LeadingFigures />
      <Lengths />
      <LevelAndTime />
      <WhatIsWrong />
      <FitInBrief />
      <TallyRule />
      <BeadKey onPut={onPut} />
    </>
  );
}

/** How many beads, and what they were in the state that is saved. */
function LeadingFigures() {
  const beads = useBench((b) => beadsIn(b.design, b.counting.answer));
  const was = useBench((b) => b.before && beadsIn(b.before.design, b.before.answer));
  return (
    <Leading n={sayNumber(beads)}>
      {beads === 1 ? "bead" : "beads"}
      {was !== null && was !== beads && (
        <del className="ml-2 text-xs">
          <span className="sr-only">was </span>
          {sayNumber(was)}
        </del>
      )}
    </Leading>
  );
}

/** The same in one line, for where the tally itself is out of sight. */
export function FiguresInBrief() {
  const say = useSayQuantity();
  const beads = useBench((b) => beadsIn(b.design, b.counting.answer));
  const mm = useBench(({ counting, strung }) => (strung ? finishedMm(counting, strung) : 0));
  const name = useBench((b) => b.part?.name ?? "");
  const isRing = useBench((b) => b.ringMm !== null);
  const wrong = useBench((b) => b.counting.answer.problems.filter((p) => p.level === "error").length);
  return (
    <p className="flex items-baseline gap-x-4 overflow-hidden whitespace-nowrap" data-testid="figures-in-brief">
      <span>
        <strong className="text-lg">{sayNumber(beads)}</strong> {beads === 1 ? "bead" : "beads"}
      </span>
      {mm > 0 && !isRing && (
        <span className="min-w-0 truncate">
          {name} <strong>{say(mm, "length")}</strong>
        </span>
      )}
      {wrong > 0 && (
        <span className="ml-auto font-medium text-short">{wrong === 1 ? "1 error" : `${wrong} errors`}</span>
      )}
    </p>
  );
}

function Lengths() {
  const { set } = useBenchStore();
  const { design, answer, before, part, ringMm } = useBench(
    useShallow(({ design, counting, before, part, ringMm }) => ({
      design,
      answer: counting.answer,
      before: before?.answer ?? null,
      part,
      ringMm,
    })),
  );
  const say = useSayQuantity();
  const shown = answer.parts.find((p) => p.id === part?.id);
  const old = before?.parts.find((p) => p.id === part?.id);
  const changedFrom = <V,>(now: V, then: V | undefined, text: (v: V) => string) =>
    then !== undefined && before && text(then) !== text(now) ? text(then) : null;
  const length = (mm: number) => say(mm, "length");
  return (
    <>
      <dl>
        {ringMm && (
          <TallyRow label={`${part!.name}, as drawn`}>
            <span title="wide × tall">
              {length(ringMm.wide).replace(/ (in|mm)$/, "")} × {length(ringMm.tall)}
            </span>
          </TallyRow>
        )}
        {shown && shown.strandMm > 0 && !ringMm && (
          <ComesOut was={changedFrom(shown.strandMm, old?.strandMm, length)} />
        )}
        {shown?.repeats != null && (
          <TallyRow label="Repeats that fit" was={changedFrom(shown.repeats, old?.repeats ?? undefined, String)}>
            {shown.repeats}
          </TallyRow>
        )}
        {shown && shown.hangMm > 0 && (
          <TallyRow label={`Hangs below ${part!.name}`} was={changedFrom(shown.hangMm, old?.hangMm, length)}>
            {length(shown.hangMm)}
          </TallyRow>
        )}
        {shown?.leftoverMm != null && (
          <TallyRow label={shown.leftoverMm < -0.005 ? "Over the target" : "Short of the target"}>
            {say(Math.abs(shown.leftoverMm), "length")}
          </TallyRow>
        )}
        {shown && shown.links > 0 && (
          <TallyRow label="Links of chain" was={changedFrom(shown.links, old?.links, String)}>
            {sayNumber(shown.links)}
          </TallyRow>
        )}
      </dl>
      {shown && shown.strandMm > 0 && (
        <button type="button" className="link" onClick={() => set({ dialog: "length" })}>
          Length in all, and ways to another
        </button>
      )}
      {part && isMirroredPair(design, part) && (
        <p className="pt-2 font-medium">
          <Diamond className="text-low" /> Make a mirrored pair: {part.name} once each way round.
        </p>
      )}
    </>
  );
}

/** How long the part comes out from end to end, and what that includes beside its strand. */
function ComesOut({ was }: { was: string | null }) {
  const { counting, strung } = useBench(useShallow((b) => ({ counting: b.counting, strung: b.strung })));
  const say = useSayQuantity();
  if (!strung) return null;
  const members = seriesOf(counting, strung);
  const several = endsMm(counting, strung) > 0.05;
  return (
    <>
      <TallyRow label={`${strung.part.name} comes out`} was={several ? null : was}>
        {say(finishedMm(counting, strung), "length")}
      </TallyRow>
      {several && (
        <div className="pl-3 text-xs text-muted">
          <TallyRow label="strung" was={was}>
            {say(strung.whole.strandMm, "length")}
          </TallyRow>
          {members.slice(1).map((m, i) => (
            <TallyRow key={i} label={m.say}>
              {say(m.mm, "length")}
            </TallyRow>
          ))}
        </div>
      )}
    </>
  );
}

/** So many are shown at first: the key below stays in sight. */
const FIRST = 2;
const MOST = 40;

/** What is wrong in the design, each with the way there and, where one is known, its mend. */
function WhatIsWrong() {
  const { set, mend } = useBenchStore();
  const design = useBench((b) => b.design);
  const problems = useBench((b) => b.counting.answer.problems);
  const unit = useSettings((s) => s.unit);
  const [all, setAll] = useState(false);
  if (problems.length === 0) return null;
  const sorted = [...problems.filter((p) => p.level === "error"), ...problems.filter((p) => p.level !== "error")];
  const shown = sorted.slice(0, all ? MOST : FIRST);
  const go = (of: { id: string }, p: Problem) =>
    set({
      partId: of.id,
      ...(p.row === null ? {} : { goTo: { part: of.id, row: p.row, from: p.from ?? 0, to: p.to ?? 0 } }),
    });
  return (
    <div className="pt-3">
      <Problems
        list={shown.map((p) => {
          const of = p.part === null ? undefined : design.parts.find((x) => x.id === p.part);
          const [first] = mendsOf(design, p);
          return {
            level: p.level,
            message: inUnit(p.message, unit),
            where: of && `${of.name}${p.row ? `, row ${p.row}` : ""}`,
            go: of && (() => go(of, p)),
            action: of && first && (
              <Button className="mt-1 flex h-7! text-sm" onClick={() => mend(of.id, first)}>
                {first.say}
              </Button>
            ),
          };
        })}
      />
      {problems.length > FIRST && (
        <button type="button" className="link mt-2" aria-expanded={all} onClick={() => setAll(!all)}>
          {all ? "fewer" : `${sayNumber(problems.length - FIRST)} more`}
        </button>
      )}
    </div>
  );
}

const beadsIn = (design: Design, answer: Answer) =>
  design.key
    .filter((e) => e.kind === "bead" || e.kind === "focal")
    .reduce((sum, e) => sum + (answer.counts[e.key] ?? 0) + (answer.perKit[e.key] ?? 0), 0);
