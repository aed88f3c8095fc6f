import type { Packing } from "@jar-count/core/contract";
import { bagItems } from "@jar-count/core/pack";
import type { Contents } from "@jar-count/core/run";
import { bagWeight, judgeBag } from "@jar-count/core/weigh";
import { useState } from "react";
import { Labelled } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { ScalePanel, useReadability, useScale } from "../scale/index.ts";

/** What a bag should weigh, what it does weigh, and which missing bead that could and could not show. */
export function CheckWeight({ bag, packing }: { bag: Contents["bags"][number]; packing: Packing }) {
  const d = useReadability();
  const reading = useScale((s) => s.reading);
  const connected = useScale((s) => s.source !== "none");
  const [typed, setTyped] = useState<number | null>(null);
  const items = bagItems(bag.items, packing.stands);
  const weight = bagWeight(items, { d, repeatability: 0 });
  const now = connected ? (reading?.stable && !reading.overload ? reading.grams : null) : typed;
  const verdict = now === null ? null : judgeBag(weight, items, now);
  const single = weight.items.filter((i) => i.from === 1).map((i) => i.name);
  const several = weight.items.filter((i) => i.from > 1 && Number.isFinite(i.from));
  const hidden = weight.items.filter((i) => !Number.isFinite(i.from)).map((i) => i.name);
  return (
    <section aria-label="Check by weight" className="mb-4 rounded-md bg-hush px-4 py-3">
      <h3 className="font-semibold">Check by weight</h3>
      <p className="pt-1">
        It should weigh{" "}
        <strong className="text-xl font-semibold" data-testid="should-weigh">
          {sayNumber(weight.g, 2)} g
        </strong>{" "}
        <span className="text-xs text-muted">± {sayNumber(weight.plusMinus, 2)} g</span> without the bag itself: zero
        the scale with an empty one.
      </p>
      {weight.unknown.length > 0 && (
        <p className="pt-1">
          <Triangle className="mr-1 text-low" />
          Leave off the scale, since nobody knows what they weigh: {weight.unknown.join(", ")}.
        </p>
      )}
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3 pt-3">
        <ScalePanel />
        {!connected && (
          <Labelled label="It weighs, g">
            <NumberField className="field h-11! w-28 text-lg" optional value={typed} onChange={setTyped} />
          </Labelled>
        )}
      </div>
      <p role="status" className="min-h-6 pt-2 text-base font-semibold" data-testid="verdict">
        {verdict === null ? (
          ""
        ) : verdict.is === "fits" ? (
          "It fits: within what chance explains."
        ) : (
          <span className="text-short">
            <Triangle /> {sayNumber(verdict.byG, 2)} g too {verdict.is}.{" "}
            {verdict.by.length > 0
              ? verdict.by.slice(0, 3).join(", or ") +
                (verdict.is === "light" ? " missing would explain it." : " too many would explain it.")
              : "Count it by hand."}
          </span>
        )}
      </p>
      <ul className="list-disc pt-1 pl-5 text-muted">
        {single.length > 0 && <li>A single one missing would show: {single.join(", ")}.</li>}
        {several.length > 0 && (
          <li>
            One missing would not show, more would:{" "}
            {several.map((i) => `${sayNumber(i.from)} or more of ${i.name}`).join("; ")}.
          </li>
        )}
        {hidden.length > 0 && <li>Not to be seen by weight, even if all of it were missing: {hidden.join(", ")}.</li>}
        {weight.weighFirst !== null && (
          <li>
            Most of the ± is that the weight of {weight.weighFirst} is only an estimate: count its jar by weight once.
          </li>
        )}
      </ul>
      <p className="pt-1 text-xs text-muted">
        A good bag is called light once in 20 times; a shortage that would show is missed once in 20 times.
      </p>
    </section>
  );
}
