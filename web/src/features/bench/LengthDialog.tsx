import type { Design, LengthWay } from "@jar-count/core/contract";
import { countKit, countWhole, ofSize } from "@jar-count/core/count";
import {
  endsMm,
  finishedMm,
  insideMm,
  isThickAssumed,
  seriesOf,
  strandFor,
  strandOf,
  thickMm,
  USUAL_EASE,
} from "@jar-count/core/length";
import { layOut } from "@jar-count/core/picture";
import { inUnit } from "@jar-count/core/units";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { useSettings } from "../../settings/index.ts";
import { Button, Labelled, Segmented } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { LengthField } from "../../ui/fields.tsx";
import { CountMark, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { PictureCard } from "../../ui/PictureCard.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { useWays } from "./useWays.ts";

/** How long the part at hand comes out, what that is made of, and ways to bring it to another length. */
export function LengthDialog({ onClose }: { onClose: () => void }) {
  const name = useBench((b) => b.part?.name ?? "");
  return (
    <Dialog title={`Length of ${name}`} open onClose={onClose} wide>
      <div className="flex flex-col gap-6">
        <ComesOut />
        <MakeIt />
        <Equal />
        <EverySize />
      </div>
    </Dialog>
  );
}

/** The finished length with its ±, what it is made of, and what that is round the body. */
function ComesOut() {
  const { editDesign } = useBenchStore();
  const { design, counting, strung } = useBench(
    useShallow(({ design, counting, strung }) => ({ design, counting, strung })),
  );
  const say = useSayQuantity();
  if (!strung) return null;
  const strand = strandOf(counting, strung);
  const members = seriesOf(counting, strung);
  const thick = thickMm(counting, strung);
  const isAssumed = thick !== null && isThickAssumed(counting, strung);
  const size = design.sizes?.find((s) => s.key === counting.answer.size);
  const means = design.about?.sizeMeans ?? "strand";
  const ease = design.about?.easeMm ?? USUAL_EASE;
  const kind = design.about?.kind;
  const isRound = means === "body" || kind === "bracelet" || kind === "ring" || (kind == null && strand.mm < 260);
  const about = (change: Partial<NonNullable<Design["about"]>>) =>
    editDesign({ about: { ...design.about, ...change } });
  return (
    <section aria-label="How long it is">
      <p className="text-2xl font-semibold">
        <CountMark n={finishedMm(counting, strung)} of="mm" u={strand.u} strong />
      </p>
      <p className="text-muted">
        finished, end to end.{" "}
        {strand.isDefault
          ? "The ± comes from the trade’s usual spread of such beads: measure some and write it in the key."
          : "The ± comes from the spread that was measured."}
      </p>
      {members.length > 1 && (
        <dl className="mt-2 max-w-md">
          {members.map((m, i) => (
            <div key={i} className="flex justify-between gap-4 border-b border-rule py-1">
              <dt>
                {m.say} {m.isRest && <span className="text-muted">takes up the rest</span>}
              </dt>
              <dd className="font-semibold">{say(m.mm, "mm")}</dd>
            </div>
          ))}
        </dl>
      )}
      <div className="mt-3 flex flex-wrap items-end gap-4">
        <Labelled label="A size means">
          <select
            className="field"
            value={means}
            onChange={(e) => about({ sizeMeans: e.target.value as "strand" | "body" })}
          >
            <option value="strand">how long the strand is</option>
            <option value="body">the wrist or neck that it fits</option>
          </select>
        </Labelled>
        {means === "body" && (
          <Labelled label="Ease: room between">
            <LengthField className="field w-24" mm={ease} zero onChange={(easeMm) => about({ easeMm })} />
          </Labelled>
        )}
      </div>
      {thick !== null && isRound && (
        <p className="mt-2">
          Closed to a ring it measures <strong>{say(insideMm(strand.mm, thick), "mm")}</strong> inside, since the beads
          are {say(thick, "mm")} thick{isAssumed && " (assumed, as wide as they are long)"}.
          {means === "body" && size?.bodyMm && (
            <>
              {" "}
              To fit {say(size.bodyMm, "mm")} with {say(ease, "mm")} of room the strand should be{" "}
              <strong>{say(strandFor(size.bodyMm, ease, thick), "mm")}</strong>.
            </>
          )}
        </p>
      )}
    </section>
  );
}

/** Ways to a length, the closest first: what each comes to, what it takes, how it looks; one press makes it so. */
function MakeIt() {
  const { design, part, size, option, counting, strung } = useBench(
    useShallow(({ design, part, size, option, counting, strung }) => ({
      design,
      part,
      size,
      option,
      counting,
      strung,
    })),
  );
  const ratio = part?.finishedRatio ?? 1;
  // What is asked for and said here is the finished length; the rows make its strand.
  const ends = strung ? endsMm(counting, strung) : 0;
  const finished = (strandMm: number) => strandMm * ratio + ends;
  const now = strung ? finishedMm(counting, strung) : 0;
  const own = ofSize(part?.targetMm, size);
  const suggested = own === null ? nextStep(now) : own + ends;
  const [targetMm, setTarget] = useState<number>(suggested);
  const others = counting.parts.filter(
    (p) => p.part.id !== part?.id && p.whole.strandMm > 0 && Math.abs(finishedMm(counting, p) - now) > 0.5,
  );
  const say = useSayQuantity();
  const rests = strung?.settled?.of === "rest";
  const strandMm = (targetMm - ends) / ratio;
  const question = part && !rests && strandMm > 0 ? JSON.stringify([design, part.id, size, option, strandMm]) : null;
  const ways = useWays(question, (worker) =>
    worker.waysToLength(design, { part: part!.id, size, option, targetMm: strandMm }),
  );
  if (!part) return null;
  return (
    <section aria-label="Make it another length">
      <h3 className="font-semibold">Make it another length</h3>
      <div className="flex flex-wrap items-end gap-3 pt-1">
        <Labelled label="Make it">
          <LengthField
            aria-label="Make it this long"
            className="field w-28"
            mm={targetMm}
            onChange={(mm) => mm !== null && setTarget(mm)}
          />
        </Labelled>
        {others.slice(0, 3).map((p) => (
          <Button key={p.part.id} className="text-sm" onClick={() => setTarget(finishedMm(counting, p))}>
            as long as {p.part.name}
          </Button>
        ))}
        <span className="pb-2 text-muted">now {say(now, "mm")}</span>
      </div>
      {rests && (
        <p className="mt-2">
          One of its members takes up what is left of the target{own === null ? "" : `, ${say(own, "mm")}`}: set that
          below the rows.{ends > 0.05 && ` Its ends come on top: ${say(ends, "mm")}.`}
        </p>
      )}
      {question !== null && ways === null && (
        <p role="status" className="mt-2 text-muted">
          Looking for ways …
        </p>
      )}
      {ways?.length === 0 && <p className="mt-2">No number in its rows brings it nearer. Write the rows anew.</p>}
      <ul className="mt-2 flex flex-col" aria-label="Ways to this length">
        {ways?.slice(0, 8).map((way) => (
          <li key={way.steps}>
            <Way way={way} finished={finished} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The next half inch, or the next centimetre: what one would ask for first. */
function nextStep(mm: number): number {
  const { unit } = useSettings.getState();
  const step = unit === "in" ? 12.7 : 10;
  return Math.max(step, Math.round(mm / step + 0.5) * step);
}

interface WayProps {
  way: LengthWay;
  /** How long the part comes out with a strand of so much, mm. */
  finished?: (strandMm: number) => number;
}

function Way({ way, finished = (mm) => mm }: WayProps) {
  const { editPart, set } = useBenchStore();
  const { design, part, size, option, looks } = useBench(
    useShallow(({ design, part, size, option, looks }) => ({ design, part, size, option, looks })),
  );
  const unit = useSettings((s) => s.unit);
  const say = useSayQuantity();
  const made = (): { picture: ReturnType<typeof layOut>; looks: typeof looks } | null => {
    const parts = design.parts.map((p) => (p.id === part?.id ? { ...p, steps: way.steps } : p));
    const counting = countWhole({ ...design, parts }, { size, option });
    const strung = counting.parts.find((p) => p.part.id === part?.id);
    return strung ? { picture: layOut(counting, strung, looks), looks } : null;
  };
  const adds = Object.entries(way.adds).map(([key, n]) => `${n > 0 ? "+" : "−"}${sayNumber(Math.abs(n))} ${key}`);
  // What is off by less than a maker can measure in inches is said in millimetres.
  const apart = Math.abs(way.offMm);
  const far = apart < 1.6 ? `${sayNumber(apart)} mm` : say(apart, "mm");
  const off = apart < 0.05 ? "just right" : `${far} ${way.offMm > 0 ? "over" : "short"}`;
  return (
    <div className="grid grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-x-4 border-b border-rule py-2">
      <div className="min-w-0">
        <p className="break-words">{inUnit(way.say, unit)}</p>
        <p className="text-xs text-muted">{adds.length > 0 ? adds.join(", ") : "nothing more, nothing less"}</p>
        <PictureCard of={way} make={made} width={430} height={26} />
      </div>
      <p className="text-right whitespace-nowrap">
        <strong>{say(finished(way.strandMm), "mm")}</strong>
        <br />
        <span className="text-xs text-muted">{off}</span>
      </p>
      <Button
        className="text-sm"
        aria-label={`Make it so: ${way.say}`}
        onClick={() => {
          editPart({ steps: way.steps });
          set({ why: way.say.slice(0, 500), dialog: null });
        }}
      >
        Make it so
      </Button>
    </div>
  );
}

/** Strands side by side that come out unequal. */
function Equal() {
  const { design, part, size, option } = useBench(
    useShallow(({ design, part, size, option }) => ({ design, part, size, option })),
  );
  const say = useSayQuantity();
  const question = part?.steps?.includes("each") ? JSON.stringify([design, part.id, size, option]) : null;
  const found = useWays(question, (worker) => worker.equalStrands(design, part!.id, { size, option }));
  if (!found) return null;
  return (
    <section aria-label="Make the strands equal">
      <h3 className="font-semibold">Make these strands equal</h3>
      <p>They come out at {found.lengths.map((mm) => say(mm, "mm")).join(" and ")}.</p>
      <ul>
        {found.ways.map((way) => (
          <li key={way.steps}>
            <Way way={way} />
          </li>
        ))}
      </ul>
    </section>
  );
}

/** What a kit must hold so that every size can be finished, beside what this size takes. */
function EverySize() {
  const { design, counting, option, sizes } = useBench(
    useShallow(({ design, counting, option, sizes }) => ({ design, counting, option, sizes })),
  );
  const [shown, setShown] = useState<"this" | "every">("every");
  if (sizes.length < 2) return null;
  const kit = countKit(design, null, option, null);
  const rows = design.key.flatMap(({ key, name }) => {
    const [one, every] = [counting.answer.counts[key] ?? 0, kit.counts[key] ?? 0];
    return every > 0 && (shown === "every" ? every !== one : one > 0) ? [{ key, name, one, every }] : [];
  });
  return (
    <section aria-label="What the kit must hold">
      <div className="flex flex-wrap items-baseline justify-between gap-2">
        <h3 className="font-semibold">So that every size can finish, the kit holds</h3>
        <Segmented
          label="Which beads"
          value={shown}
          options={[
            { value: "every", label: "what differs" },
            { value: "this", label: "all of this size" },
          ]}
          onChange={setShown}
        />
      </div>
      {rows.length === 0 ? (
        <p>The same for every size.</p>
      ) : (
        <dl className="max-w-md">
          {rows.map(({ key, name, one, every }) => (
            <div key={key} className="flex justify-between gap-4 border-b border-rule py-1">
              <dt className="min-w-0 break-words">
                <strong>{key}</strong> {name}
              </dt>
              <dd className="whitespace-nowrap">
                <strong>{sayNumber(every)}</strong> <span className="text-muted">this size takes {sayNumber(one)}</span>
              </dd>
            </div>
          ))}
        </dl>
      )}
    </section>
  );
}
