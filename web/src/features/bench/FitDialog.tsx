import type { Assumed, Design, FitCheck, FitRule, Unchecked } from "@jar-count/core/contract";
import { firstToMeasure, judgeAgain, letStand, overruleOf } from "@jar-count/core/fit";
import { inUnit } from "@jar-count/core/units";
import { takeWay } from "@jar-count/core/ways";
import { useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { today, useSettings } from "../../settings/index.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { Fold } from "../../ui/Fold.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { NoteOf } from "../../ui/NoteOf.tsx";
import { usePersonName } from "../../ui/usePersonName.ts";
import { useBench, useBenchStore } from "./benchStore.ts";
import { LevelMark } from "./FitInBrief.tsx";
import { useWays } from "./useWays.ts";

/** What each rule looks at, in words. */
export const RULE_WORDS: Record<FitRule, string> = {
  hole: "Passes through a hole",
  crimp: "Wires in a crimp",
  cover: "Cover over a crimp",
  pin: "Pin, stack and loop",
  ring: "What hangs in a ring",
  cone: "What a cone or cap hides",
  slip: "Beads that slip",
  cut: "Cut",
  links: "Links of chain",
  alike: "No two alike",
  strength: "Strength",
  pair: "Mirrored mates",
  drops: "Room to hang freely",
  magnet: "Magnets and children",
  lacks: "What a method takes",
  body: "Round the body",
};

const MEASURE_WORDS: Readonly<Record<string, string>> = {
  holeMm: "its hole",
  diameterMm: "its thickness",
  innerMm: "its width inside",
  acrossMm: "its size across",
  alongMm: "its size along the thread",
  lengthMm: "its length",
  thickMm: "how thick it is where it hangs",
  breakKg: "the load at which it breaks",
  massG: "what one weighs",
  lossLinks: "how many links a cut destroys",
};

/** A measure in a sentence: `the hole`. */
const sayMeasure = (measure: string) => (MEASURE_WORDS[measure] ?? measure).replace(/^its /, "the ");

/** Every check of the design, what is wrong first: each with its ways out, or the note by which it stands. */
export function FitDialog({ onClose }: { onClose: () => void }) {
  const { design, size, fit } = useBench(useShallow(({ design, size, fit }) => ({ design, size, fit })));
  const wrong = fit.checks.filter((c) => c.level !== "fine" && overruleOf(design, size, c) === null);
  const stands = fit.checks.filter((c) => c.level !== "fine" && !wrong.includes(c));
  const fine = fit.checks.filter((c) => c.level === "fine");
  return (
    <Dialog title="Does it fit?" open onClose={onClose} wide>
      {wrong.length === 0 && (
        <p className="mb-4">
          {fit.checks.length === 0 ? "Nothing could be checked yet: measures are missing." : "Nothing is wrong."}
        </p>
      )}
      <ul className="flex flex-col gap-5" aria-label="What does not fit">
        {wrong.map((check) => (
          <li key={idOf(check)}>
            <Wrong check={check} />
          </li>
        ))}
      </ul>
      {stands.length > 0 && (
        <section className="mt-6" aria-label="Let stand">
          <h3 className="mb-1 font-semibold">Let stand</h3>
          <ul className="flex flex-col gap-3">
            {stands.map((check) => (
              <li key={idOf(check)}>
                <Standing check={check} />
              </li>
            ))}
          </ul>
        </section>
      )}
      <div className="mt-6 flex flex-col gap-3">
        {fine.length > 0 && (
          <Fold name="fit/fine" title={fine.length === 1 ? "One check is fine" : `${fine.length} checks are fine`}>
            <Fine list={fine} />
          </Fold>
        )}
        {fit.assumed.length > 0 && <TakenForGranted list={fit.assumed} />}
        {fit.unchecked.length > 0 && <NotChecked list={fit.unchecked} />}
      </div>
    </Dialog>
  );
}

const idOf = (c: FitCheck) => `${c.rule} ${c.part} ${c.key} ${c.need} ${c.have} ${c.row} ${c.from}`;

function partName(design: Design, id: string | null): string | undefined {
  return id === null ? undefined : design.parts.find((p) => p.id === id)?.name;
}

function Sentence({ check }: { check: FitCheck }) {
  const design = useBench((b) => b.design);
  const unit = useSettings((s) => s.unit);
  return (
    <p className="flex gap-2">
      <LevelMark level={check.level} />
      <span className="min-w-0 break-words">
        <span className="text-xs text-muted">
          {[RULE_WORDS[check.rule], partName(design, check.part)].filter(Boolean).join(" · ")}
        </span>
        <br />
        {inUnit(check.message, unit)}
      </span>
    </p>
  );
}

/** One finding: the ways out of it, tried by a worker, and the note by which one lets it stand. */
function Wrong({ check }: { check: FitCheck }) {
  const { draft, set } = useBenchStore();
  const { design, size, option } = useBench(useShallow(({ design, size, option }) => ({ design, size, option })));
  const unit = useSettings((s) => s.unit);
  const question = JSON.stringify([design, size, option, check]);
  const ways = useWays(question, (worker) => worker.waysOut(design, { size, option }, check));
  const [noting, setNoting] = useState(false);
  const { edit } = draft.getState();
  return (
    <>
      <Sentence check={check} />
      <div className="mt-1.5 flex flex-wrap gap-1.5 pl-6">
        {ways === null && (
          <span role="status" className="text-muted">
            Trying ways out …
          </span>
        )}
        {ways?.map((way) => (
          <Button
            key={way.say}
            className="h-auto! min-h-8 py-1 text-left text-sm whitespace-normal!"
            onClick={() => {
              edit(() => takeWay(design, way));
              set({ why: way.say.slice(0, 500) });
            }}
          >
            {inUnit(way.say, unit)}
          </Button>
        ))}
        {!noting && (
          <Button look="quiet" className="h-8! text-sm" onClick={() => setNoting(true)}>
            Let it stand
          </Button>
        )}
      </div>
      {noting && <Note check={check} onClose={() => setNoting(false)} />}
    </>
  );
}

/** Why something is let stand: the note stays with the revision, until it gets worse. */
function Note({ check, onClose }: { check: FitCheck; onClose: () => void }) {
  const { draft } = useBenchStore();
  const size = useBench((b) => b.size);
  const [note, setNote] = useState("");
  const person = usePersonName();
  const [said, setWho] = useState<string | null>(null);
  const who = said ?? person;
  const keep = () => {
    draft.getState().edit((d) => letStand(d, size, check, { note: note.trim(), who: who.trim(), on: today() }));
    onClose();
  };
  return (
    <div className="mt-2 flex flex-wrap items-end gap-2 pl-6">
      <Labelled label="Why it may stand" className="min-w-60 flex-1">
        <input
          className="field w-full"
          maxLength={500}
          value={note}
          onChange={(e) => setNote(e.target.value)}
          placeholder="tried it: it goes through with a push"
        />
      </Labelled>
      <Labelled label="Who says so">
        <input className="field w-32" maxLength={200} value={who} onChange={(e) => setWho(e.target.value)} />
      </Labelled>
      <Button look="main" disabled={note.trim() === ""} onClick={keep}>
        Keep this note
      </Button>
      <Button look="quiet" onClick={onClose}>
        Don’t
      </Button>
    </div>
  );
}

function Standing({ check }: { check: FitCheck }) {
  const { draft } = useBenchStore();
  const design = useBench((b) => b.design);
  const size = useBench((b) => b.size);
  const overrule = overruleOf(design, size, check);
  if (!overrule) return null;
  return (
    <>
      <Sentence check={check} />
      <p className="pl-6">
        <NoteOf of={overrule} />
        <button
          type="button"
          className="link ml-2"
          onClick={() => draft.getState().edit((d) => judgeAgain(d, overrule))}
        >
          judge it again
        </button>
      </p>
    </>
  );
}

function Fine({ list }: { list: readonly FitCheck[] }) {
  const unit = useSettings((s) => s.unit);
  return (
    <ul className="flex flex-col gap-1">
      {list.map((check) => (
        <li key={idOf(check)}>
          <span className="text-muted">{RULE_WORDS[check.rule]}:</span> {inUnit(check.message, unit)}
        </li>
      ))}
    </ul>
  );
}

/** What can't be judged, by the key whose measure is missing: never guessed. */
/** Measures that the checks went by and nobody made. */
function TakenForGranted({ list }: { list: readonly Assumed[] }) {
  const design = useBench((b) => b.design);
  const say = useSayQuantity();
  return (
    <p className="text-muted">
      <Diamond className="text-low" /> Assumed, since nobody measured it:{" "}
      {list
        .map(({ key, measure, value }) => {
          const name = design.key.find((e) => e.key === key)?.name ?? "";
          return `${key}, ${name}: ${say(value, "mm")} for ${MEASURE_WORDS[measure] ?? measure}`;
        })
        .join("; ")}
      . Write it in the bead key to be sure.
    </p>
  );
}

function NotChecked({ list }: { list: readonly Unchecked[] }) {
  const design = useBench((b) => b.design);
  const byKey = new Map<string, Set<string>>();
  for (const u of list) byKey.set(u.key, (byKey.get(u.key) ?? new Set()).add(MEASURE_WORDS[u.missing] ?? u.missing));
  const first = firstToMeasure(list);
  const waiting = first.reduce((sum, m) => sum + m.checks, 0);
  const nameOf = (key: string) => design.key.find((e) => e.key === key)?.name ?? key;
  return (
    <div>
      <p className="mb-1">
        {list.length === 1 ? "One check" : `${sayNumber(list.length)} checks`} could not be made. Measure first{" "}
        {first.map(({ key, missing }) => `${sayMeasure(missing)} of ${key}, ${nameOf(key)}`).join(", and ")}
        {list.length > 1 && `: ${waiting === list.length ? "all" : sayNumber(waiting)} of them wait for that`}.
      </p>
      <Fold
        name="fit/unchecked"
        title={list.length === 1 ? "One thing is not checked" : `${list.length} things are not checked`}
      >
        <p className="mb-1 text-muted">
          Nobody measured these. They are in the bead key, or come with the component that a box chooses.
        </p>
        <ul>
          {[...byKey].map(([key, missing]) => (
            <li key={key}>
              <strong>{key}</strong> {design.key.find((e) => e.key === key)?.name}: {[...missing].join(", ")}
            </li>
          ))}
        </ul>
      </Fold>
    </div>
  );
}
