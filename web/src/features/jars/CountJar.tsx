import type { Balance, ComponentDetail, StockEntry } from "@jar-count/core/contract";
import { sayRun, expanded } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { componentQuery, query, roomsQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSettings } from "../../settings/index.ts";
import { Chip } from "../../ui/Bead.tsx";
import { Button, Fault, Labelled, Segmented } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { CountMark, sayNumber } from "../../ui/marks.tsx";
import { Page, PageHead } from "../../ui/page.tsx";
import { Waiting } from "../../ui/Waiting.tsx";
import { ScalePanel, Weigh, type Weighed } from "../scale/index.ts";
import { useStock } from "./useStock.ts";

/** The count screen of one jar, by its id or by the code on its label. */
export function CountJar() {
  const { id, code } = useParams();
  const found = useQuery(
    id !== undefined ? componentQuery(id) : query("readComponentByCode", { params: { code: code! } }),
  );
  if (!found.data) return <Waiting error={found.error} what="the jar" retry={() => void found.refetch()} />;
  return <Count key={found.data.component.id} detail={found.data} />;
}

function Count({ detail }: { detail: ComponentDetail }) {
  const { component, balances } = detail;
  const navigate = useNavigate();
  const rooms = useQuery(roomsQuery);
  const unit = useSettings((s) => s.unit);
  const { move, busy, refusal } = useStock(component.id);
  const linear = component.baseUnit === "mm";
  const [how, setHow] = useState<"weigh" | "hand">(linear ? "hand" : "weigh");
  const [chosen, setChosen] = useState(0);
  const [byHand, setByHand] = useState<number | null>(null);
  const at: Balance | null = balances[chosen] ?? null;
  const place = at?.place ?? rooms.data?.places.find((p) => !p.held)?.id ?? null;
  const spot = { place, lot: at?.lot ?? "", ...(linear ? { stretchMm: at?.stretchMm ?? null } : {}) };
  const done = async (found: Omit<Extract<StockEntry, { kind: "counted" }>, "kind" | "requestKey">) => {
    if (await move({ kind: "counted", ...spot, ...found })) await navigate(`/jars/${component.id}`);
  };
  const book = at?.quantity ?? 0;
  const grams = component.baseUnit === "g" ? 2 : 0;
  const say = (n: number) => `${sayNumber(n, grams)}${grams > 0 ? " g" : ""}`;
  const differs = (n: number, u: number) => {
    const by = n - book;
    const sure = expanded(Math.hypot(u, at?.u ?? 0));
    if (Math.abs(by) < 0.5 * 10 ** -grams) return "Just what the book says.";
    const off = `${say(Math.abs(by))} ${by > 0 ? "more" : "fewer"} than the book's ${sayNumber(book, grams)}`;
    if (sure === 0) return `${off}.`;
    return `${off}, ${Math.abs(by) > sure ? "more than the uncertainty explains" : "within the uncertainty of both"}.`;
  };
  return (
    <Page title={`Count ${component.name}`} tally={how === "weigh" ? <ScalePanel /> : undefined}>
      <PageHead
        back={{ to: `/jars/${component.id}`, words: component.name }}
        beside={<span className="font-mono text-muted">{component.code}</span>}
        mark={<Chip of={component} size={28} />}
        title="Count this jar"
        about={
          <>
            The book says <CountMark n={book} u={at?.u ?? 0} of={linear ? "piece" : component.baseUnit} />
            {linear && at?.stretchMm ? ` pieces of ${sayRun(at.stretchMm, unit)}` : ""}.
          </>
        }
      />
      <div className="flex flex-wrap items-end gap-4 px-6 pb-6">
        {balances.length > 1 && (
          <Labelled label="Which jar">
            <select className="field" value={chosen} onChange={(e) => setChosen(Number(e.target.value))}>
              {balances.map((b, i) => (
                <option key={i} value={i}>
                  {[b.placeCode, b.lot && `lot ${b.lot}`, b.stretchMm !== null && sayRun(b.stretchMm, unit)]
                    .filter(Boolean)
                    .join(", ")}
                </option>
              ))}
            </select>
          </Labelled>
        )}
        {!linear && (
          <Segmented
            label="How"
            value={how}
            options={[
              { value: "weigh", label: "By weight" },
              { value: "hand", label: component.baseUnit === "g" ? "Write the weight" : "By hand" },
            ]}
            onChange={setHow}
          />
        )}
      </div>
      <div className="px-6">
        {how === "weigh" ? (
          <Weigh key={chosen} component={component} balance={at}>
            {(weighed: Weighed | null) => (
              <div>
                {weighed && <p className="pb-2">{differs(weighed.quantity, weighed.u)}</p>}
                <Button
                  look="main"
                  disabled={!weighed || busy || place === null}
                  onClick={() =>
                    weighed &&
                    void done({
                      quantity: weighed.quantity,
                      u: weighed.u,
                      entered: weighed.entered,
                      tareG: weighed.tareG,
                      ...(weighed.unitMass ? { unitMass: weighed.unitMass } : {}),
                    })
                  }
                >
                  {weighed ? `Set the jar to ${say(weighed.quantity)}` : "Set the jar to what was weighed"}
                </Button>
              </div>
            )}
          </Weigh>
        ) : (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              if (byHand !== null) void done({ quantity: byHand, u: 0, entered: "counted by hand" });
            }}
          >
            <Labelled
              label={
                component.baseUnit === "g"
                  ? "Grams in the jar"
                  : linear
                    ? "How many such pieces are there"
                    : "How many are in the jar"
              }
            >
              <NumberField
                autoFocus
                className="field h-11! w-40 text-lg"
                optional
                whole={component.baseUnit !== "g"}
                value={byHand}
                onChange={setByHand}
              />
            </Labelled>
            {byHand !== null && <p className="pt-2">{differs(byHand, 0)}</p>}
            <Button type="submit" look="main" className="mt-3" disabled={byHand === null || busy || place === null}>
              Set the jar to what was counted
            </Button>
          </form>
        )}
        {refusal && (
          <p className="pt-3">
            <Fault>{sentenceOf(refusal)}</Fault>
          </p>
        )}
      </div>
    </Page>
  );
}
