import { isMirroredPair } from "@jar-count/core/builder";
import type { Answer, Design } from "@jar-count/core/contract";
import { sayCut } from "@jar-count/core/units";
import { useShallow } from "zustand/react/shallow";
import { useSettings } from "../../settings/index.ts";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { Leading, Problems, TallyHead, TallyRow, TallyRule } from "../../ui/page.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";

/** Always beside the bench: how many, how long, what to cut, what is wrong. */
export function BenchTally() {
  const { set } = useBenchStore();
  const { design, counting, before, size, option, part, ringMm } = useBench(
    useShallow(({ design, counting, before, size, option, part, ringMm }) => ({
      ringMm,
      design,
      counting,
      before,
      size,
      option,
      part,
    })),
  );
  const onGo = (id: string, at: { row: number; from: number; to: number } | null) =>
    set({ partId: id, ...(at ? { goTo: { part: id, ...at } } : {}) });
  const { answer } = counting;
  const say = useSayQuantity();
  const unit = useSettings((s) => s.unit);
  const beads = beadsIn(design, answer);
  const was = before && beadsIn(design, before);
  const name = (list: Design["sizes"] | Design["options"], key: string | null) =>
    (list ?? [])?.find((x) => x.key === key)?.label ?? key;
  const shown = answer.parts.find((p) => p.id === part?.id);
  const old = before?.parts.find((p) => p.id === part?.id);
  const changedFrom = <V,>(now: V, then: V | undefined, text: (v: V) => string) =>
    then !== undefined && before && text(then) !== text(now) ? text(then) : null;
  const length = (mm: number) => say(mm, "length");
  const others = design.key.filter(
    (e) => e.kind !== "stringing" && e.kind !== "mix" && e.kind !== "bead" && e.kind !== "focal",
  );
  const found = others
    .map((e) => ({
      e,
      n: (answer.counts[e.key] ?? 0) + (answer.perKit[e.key] ?? 0),
      then: before ? (before.counts[e.key] ?? 0) + (before.perKit[e.key] ?? 0) : undefined,
    }))
    .filter((x) => x.n > 0 || (x.then ?? 0) > 0);
  return (
    <>
      <TallyHead
        what={["one item", name(design.sizes, size), name(design.options, option)]
          .filter(Boolean)
          .join(", ")
          .toLowerCase()}
      />
      <Leading n={sayNumber(beads)}>
        {beads === 1 ? "bead" : "beads"}
        {was !== null && was !== beads && (
          <del className="ml-2 text-xs">
            <span className="sr-only">was </span>
            {sayNumber(was)}
          </del>
        )}
      </Leading>
      <dl>
        {ringMm && (
          <TallyRow label={`${part!.name}, as drawn`}>
            <span title="wide × tall">
              {length(ringMm.wide).replace(/ (in|mm)$/, "")} × {length(ringMm.tall)}
            </span>
          </TallyRow>
        )}
        {shown && shown.strandMm > 0 && !ringMm && (
          <TallyRow label={`${part!.name} comes out`} was={changedFrom(shown.strandMm, old?.strandMm, length)}>
            {length(shown.strandMm)}
          </TallyRow>
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
      {part && isMirroredPair(design, part) && (
        <p className="pt-2 font-medium">
          <Diamond className="text-low" /> Make a mirrored pair: {part.name} once each way round.
        </p>
      )}
      {Object.keys(answer.pieces).length > 0 && (
        <>
          <TallyRule />
          <h3 className="mb-1 text-xs text-muted">To cut</h3>
          <dl>
            {Object.entries(answer.pieces).flatMap(([key, pieces]) =>
              pieces.map((p, i) => (
                <TallyRow
                  key={`${key}${i}`}
                  label={
                    <span title={design.key.find((e) => e.key === key)?.name}>
                      {design.key.find((e) => e.key === key)?.name ?? key}
                    </span>
                  }
                  was={i === 0 ? changedFrom(answer.lengthsMm[key]!, before?.lengthsMm[key], length) : null}
                >
                  {sayNumber(p.count)} × {sayCut(p.mm, unit)}
                </TallyRow>
              )),
            )}
          </dl>
        </>
      )}
      {Object.keys(answer.offcuts).length > 0 && (
        <>
          <h3 className="mt-3 mb-1 text-xs text-muted">From what those cuts leave</h3>
          <dl>
            {Object.entries(answer.offcuts).flatMap(([key, pieces]) =>
              pieces.map((p, i) => (
                <TallyRow key={`${key}${i}`} label={design.key.find((e) => e.key === key)?.name ?? key}>
                  {sayNumber(p.count)} × {sayCut(p.mm, unit)}
                </TallyRow>
              )),
            )}
          </dl>
        </>
      )}
      {found.length > 0 && (
        <>
          <TallyRule />
          <h3 className="mb-1 text-xs text-muted">Findings and the rest</h3>
          <dl>
            {found.map(({ e, n, then }) => (
              <TallyRow key={e.id ?? e.key} label={e.name} was={changedFrom(n, then, (x) => sayNumber(x))}>
                {sayNumber(n)}
                {(answer.perKit[e.key] ?? 0) > 0 && <span className="font-normal text-muted"> a kit</span>}
              </TallyRow>
            ))}
          </dl>
        </>
      )}
      {answer.problems.length > 0 && (
        <>
          <TallyRule />
          <Problems
            list={answer.problems.slice(0, 12).map((p) => {
              const of = p.part === null ? undefined : design.parts.find((x) => x.id === p.part);
              return {
                level: p.level,
                message: p.message,
                where: of && `${of.name}${p.row ? `, line ${p.row}` : ""}`,
                go: of && (() => onGo(of.id, p.row === null ? null : { row: p.row, from: p.from ?? 0, to: p.to ?? 0 })),
              };
            })}
          />
          {answer.problems.length > 12 && <p className="mt-2 text-muted">and {answer.problems.length - 12} more</p>}
        </>
      )}
    </>
  );
}

const beadsIn = (design: Design, answer: Answer) =>
  design.key
    .filter((e) => e.kind === "bead" || e.kind === "focal")
    .reduce((sum, e) => sum + (answer.counts[e.key] ?? 0) + (answer.perKit[e.key] ?? 0), 0);
