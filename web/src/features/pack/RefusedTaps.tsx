import type { Packing } from "@jar-count/core/contract";
import { useState } from "react";
import { useSettings } from "../../settings/index.ts";
import { Button, Labelled } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { sayNumber, Triangle } from "../../ui/marks.tsx";
import { type RefusedTap, useQueue } from "./queue.ts";

/** Taps that the server refused, each with its reason and the way out: nothing of them happened, nothing is lost. */
export function RefusedTaps({ packing }: { packing: Packing }) {
  const all = useQueue((q) => q.refused);
  const mine = all.filter((t) => t.box === packing.box);
  return mine.length === 0 ? null : (
    <div className="flex flex-col gap-2 px-4 pt-3">
      {mine.slice(0, 3).map((tap) => (
        <One key={tap.key} tap={tap} packing={packing} />
      ))}
      {mine.length > 3 && <p className="text-muted">and {mine.length - 3} more</p>}
    </div>
  );
}

function One({ tap, packing }: { tap: RefusedTap; packing: Packing }) {
  const { again, leave } = useQueue();
  const { refusal, meant } = tap;
  const component = /^\/components\/(.+)$/.exec(refusal.errors?.[0]?.pointer ?? "")?.[1];
  const empty = refusal.code === "not-in-jar" && component !== undefined;
  const name = meant.does === "pack" ? packing.of.variants.find((v) => v.id === meant.variant)?.name : undefined;
  const what = name !== undefined && meant.does === "pack" ? `Box ${meant.no} of ${name} is not packed` : "Not done";
  return (
    <section aria-label={what} role="alert" className="rounded-md border-l-4 border-short bg-hush px-4 py-3">
      <p className="font-semibold text-short">
        <Triangle /> {what}
      </p>
      <p className="pt-0.5">{refusal.errors?.[0]?.detail ?? refusal.detail}</p>
      {empty && <CountIt tap={tap} component={component} packing={packing} />}
      <p className="flex gap-2 pt-2">
        {!empty && (
          <Button className="h-11!" onClick={() => again(tap.key)}>
            Try again
          </Button>
        )}
        <Button look="quiet" className="h-11!" onClick={() => leave(tap.key)}>
          Leave it
        </Button>
      </p>
    </section>
  );
}

/** The jar holds less than the box takes, by the book: what is really in it? */
function CountIt({ tap, component, packing }: { tap: RefusedTap; component: string; packing: Packing }) {
  const person = useSettings((s) => s.person);
  const { tap: make, again } = useQueue();
  const [n, setN] = useState<number | null>(null);
  const known = packing.of.components.find((c) => c.id === component);
  const stands = packing.stands.filter((s) => s.component === component);
  const spots =
    stands.length > 0 ? stands : packing.places.slice(0, 1).map((p) => ({ place: p.id, lot: "", quantity: 0 }));
  const [chosen, setChosen] = useState(0);
  if (!known || known.baseUnit === "mm") return null;
  const spot = spots[chosen] ?? spots[0]!;
  const codeOf = (place: string) => packing.places.find((p) => p.id === place)?.code ?? "";
  const count = () => {
    if (n === null) return;
    make(packing.box, person, {
      does: "tell",
      told: { kind: "counted", component, place: spot.place, lot: spot.lot, quantity: n },
    });
    again(tap.key);
  };
  return (
    <form
      className="flex flex-wrap items-end gap-3 pt-2"
      onSubmit={(e) => {
        e.preventDefault();
        count();
      }}
    >
      {spots.length > 1 && (
        <Labelled label="Which jar">
          <select className="field h-11!" value={chosen} onChange={(e) => setChosen(Number(e.target.value))}>
            {spots.map((s, i) => (
              <option key={i} value={i}>
                {codeOf(s.place)}
                {s.lot !== "" && `, lot ${s.lot}`}: {sayNumber(s.quantity, 2)}
              </option>
            ))}
          </select>
        </Labelled>
      )}
      <Labelled
        label={`${known.baseUnit === "g" ? "Grams" : "How many"} are in ${codeOf(spot.place) || "the jar"} now`}
      >
        <NumberField
          className="field h-11! w-28 text-lg"
          inputMode="decimal"
          optional
          whole={known.baseUnit === "piece"}
          value={n}
          onChange={setN}
        />
      </Labelled>
      <Button type="submit" look="main" className="h-11!" disabled={n === null}>
        Set the jar, and pack it
      </Button>
    </form>
  );
}
