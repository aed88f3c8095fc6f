import type { Packing } from "@jar-count/core/contract";
import type { CutStep } from "@jar-count/core/cut";
import { cutList } from "@jar-count/core/pack";
import { sayCut } from "@jar-count/core/units";
import { Scissors } from "lucide-react";
import { useMemo } from "react";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button } from "../../ui/controls.tsx";
import { sayNumber, Short, useSayQuantity } from "../../ui/marks.tsx";
import { useQueue } from "./queue.ts";

/** What is cut from which spool or offcut, the longest first; each cut posts itself. */
export function CutList({ packing, over }: { packing: Packing; over: boolean }) {
  const list = useMemo(() => cutList(packing), [packing]);
  const unit = useSettings((s) => s.unit);
  if (list.length === 0) {
    return <p className="py-8 text-center text-muted">Nothing is left to be cut for these boxes.</p>;
  }
  return (
    <section aria-label="Cut list">
      {list.map(({ component, steps, missing }) => {
        const c = packing.of.components.find((x) => x.id === component)!;
        const ready = steps.filter(isReady);
        const open = steps.filter((s) => !isReady(s));
        const lengths = new Map<number, number>();
        for (const s of ready) lengths.set(s.fromMm, (lengths.get(s.fromMm) ?? 0) + s.pieces);
        return (
          <section key={component} aria-label={c.name} className="mb-6">
            <h2 className="flex items-center gap-2 py-1">
              <Chip of={c} size={26} /> <span className="min-w-0 [overflow-wrap:anywhere]">{c.name}</span>
            </h2>
            {c.cautions.includes("hard wire") && (
              <p className="pb-1 text-xs">Hard wire: eye protection and hard-wire cutters; tuck the ends in.</p>
            )}
            {ready.length > 0 && (
              <p className="pb-1 text-muted">
                Cut already: {[...lengths].map(([mm, n]) => `${n} × ${sayCut(mm, unit, c.linkMm)}`).join(", ")}
              </p>
            )}
            <ul>
              {open.map((step, i) => (
                <Step key={i} step={step} component={component} linkMm={c.linkMm} packing={packing} over={over} />
              ))}
            </ul>
            {missing.length > 0 && (
              <p className="pt-1">
                No piece is long enough for{" "}
                {missing.map((m) => (
                  <Short key={m.mm}>
                    {m.count} × {sayCut(m.mm, unit, c.linkMm)}
                  </Short>
                ))}
              </p>
            )}
          </section>
        );
      })}
    </section>
  );
}

/** Pieces that are as long as the cut already. */
const isReady = (step: CutStep) => step.cuts.length === 1 && step.cuts[0]!.count === 1 && step.leftMm === 0;

interface StepProps {
  step: CutStep;
  component: string;
  /** How long a link of it is, of chain. */
  linkMm: number | null | undefined;
  packing: Packing;
  over: boolean;
}

function Step({ step, component, linkMm, packing, over }: StepProps) {
  const unit = useSettings((s) => s.unit);
  const person = useSettings((s) => s.person);
  const tap = useQueue((q) => q.tap);
  const waits = useQueue((q) => q.waiting.some((t) => t.meant.does === "cut" && t.meant.component === component));
  const say = useSayQuantity();
  const { place, lot, fromMm, pieces, cuts } = step;
  const code = packing.places.find((p) => p.id === place)?.code ?? "";
  return (
    <li className="border-t border-rule py-2">
      <div className="flex items-center justify-between gap-3">
        <p className="min-w-0">
          {pieces === 1 ? "From " : `From each of ${sayNumber(pieces)} pieces of `}
          <strong className="font-semibold">{say(fromMm, "length")}</strong>{" "}
          <span className="text-muted">
            at {code}
            {lot !== "" && `, lot ${lot}`}
          </span>
        </p>
        <Button
          className="h-11! shrink-0"
          disabled={waits || over}
          onClick={() =>
            tap(packing.box, person, {
              does: "cut",
              component,
              place,
              lot,
              fromMm,
              cuts: cuts.map(({ mm, count }) => ({ mm, count })),
            })
          }
        >
          <Scissors size={16} aria-hidden /> {pieces === 1 ? "Cut" : "Cut one"}
        </Button>
      </div>
      <ol className="mt-1">
        {cuts.map((c) => (
          <li key={c.mm} className="flex justify-between gap-3 py-0.5">
            <span>
              <strong className="text-base font-semibold">{c.count}</strong> × {sayCut(c.mm, unit, linkMm)}
            </span>
            <span className="text-muted">leaves {c.leftMm === 0 ? "nothing" : say(c.leftMm, "length")}</span>
          </li>
        ))}
      </ol>
    </li>
  );
}
