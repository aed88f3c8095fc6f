import { type Component, type Design, type KeyEntry, MethodDefinition, type Part } from "@jar-count/core/contract";
import { unitCost } from "@jar-count/core/component";
import { type Choice, cautionsOf, chooseMethod, linesOf, minutesOf, SHIPPED, toolsOf } from "@jar-count/core/method";
import { definitionsIn } from "@jar-count/core/method";
import { cautionWords, DEFER } from "@jar-count/core/run";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useShallow } from "zustand/react/shallow";
import { componentsQuery, designsQuery, moneyQuery } from "../../api/queries.ts";
import { Button, Fault, Labelled } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { LengthField } from "../../ui/fields.tsx";
import { sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { useSayAbout } from "../../ui/money.ts";
import { useBench, useBenchStore } from "./benchStore.ts";
import { sayTail } from "./Methods.tsx";

const FOR_WORDS: Record<MethodDefinition["for"], string> = {
  end: "Ends",
  link: "Links and loops",
  knot: "Knots and hidden beads",
  charm: "How charms hang",
  finding: "Bought or made",
};

/** Chooses how an end, a link or a knot of the part at hand is made: what it brings is seen before it is taken. */
export function MethodDialog({ onClose }: { onClose: () => void }) {
  const { draft, set } = useBenchStore();
  const { design, part } = useBench(useShallow(({ design, part }) => ({ design, part })));
  const [own, setOwn] = useState<MethodDefinition[]>([]);
  const designs = useQuery(designsQuery).data;
  // A workshop's own methods are those that its designs carry.
  const all = new Map(
    [...SHIPPED, ...(designs ?? []).flatMap((d) => definitionsIn(d.design)), ...definitionsIn(design), ...own].map(
      (d) => [`${d.id} ${d.version}`, d],
    ),
  );
  const usual = part ? usualFor(design, part) : "";
  const [id, setId] = useState(`${usual} 1`);
  const definition = all.get(id) ?? [...all.values()][0]!;
  const [choice, setChoice] = useState<Choice>({ at: definition.places[0]! });
  const each = part ? keysTaken(part.steps ?? "", design.key) : [];
  const at = choice.at === "each" ? `each ${each[0] ?? ""}` : choice.at;
  const pick = (to: string) => {
    setId(to);
    const [place] = all.get(to)?.places ?? [];
    setChoice({ at: place ?? "one end" });
  };
  if (!part) return null;
  const asked = { ...choice, at };
  const can = at !== "each ";
  const after = can ? chooseMethod(design, part.id, definition, asked) : design;
  const take = () => {
    draft.getState().edit(() => after);
    set({ why: `${definition.name}, ${part.name}`.slice(0, 500), dialog: null });
  };
  return (
    <Dialog title={`How ${part.name} is made`} open onClose={onClose} wide>
      <div className="grid gap-5 sm:grid-cols-2">
        <div className="flex flex-col gap-3">
          <Labelled label="Method">
            <select
              aria-label="Method"
              className="field w-full"
              value={`${definition.id} ${definition.version}`}
              onChange={(e) => pick(e.target.value)}
            >
              {Object.entries(FOR_WORDS).map(([for_, words]) => (
                <optgroup key={for_} label={words}>
                  {[...all]
                    .filter(([, d]) => d.for === for_)
                    .map(([key, d]) => (
                      <option key={key} value={key}>
                        {d.name}
                        {d.version > 1 ? `, version ${d.version}` : ""}
                      </option>
                    ))}
                </optgroup>
              ))}
            </select>
          </Labelled>
          <p>{definition.about}</p>
          <Labelled label="Where">
            <select
              aria-label="Where"
              className="field w-full"
              value={at}
              onChange={(e) => setChoice({ ...choice, at: e.target.value })}
            >
              {definition.places.flatMap((place) =>
                place === "each"
                  ? each.map((key) => (
                      <option key={key} value={`each ${key}`}>
                        for each {key}, {design.key.find((e) => e.key === key)?.name}
                      </option>
                    ))
                  : [
                      <option key={place} value={place}>
                        {place}
                      </option>,
                    ],
              )}
            </select>
          </Labelled>
          {!can && <Fault>Hang or string something in this part first: the method is for each of it.</Fault>}
          {definition.choices.map(({ id: which, name, values }) => (
            <Labelled key={which} label={name}>
              <select
                aria-label={name}
                className="field w-full"
                value={choice.values?.[which] ?? values[0]!.id}
                onChange={(e) => setChoice({ ...choice, values: { ...choice.values, [which]: e.target.value } })}
              >
                {values.map((v) => (
                  <option key={v.id} value={v.id}>
                    {v.name}
                  </option>
                ))}
              </select>
            </Labelled>
          ))}
          {definition.numbers.map(({ id: which, name, mm }) => (
            <Labelled key={which} label={name}>
              <LengthField
                className="field w-28"
                zero
                mm={choice.numbers?.[which] ?? mm}
                onChange={(to) => setChoice({ ...choice, numbers: { ...choice.numbers, [which]: to ?? mm } })}
              />
            </Labelled>
          ))}
          <OwnMethod
            onRead={(d) => {
              setOwn([...own, d]);
              setId(`${d.id} ${d.version}`);
              setChoice({ at: d.places[0]! });
            }}
          />
        </div>
        <Brings after={after} definition={definition} at={at} />
      </div>
      <div className="mt-5 flex items-center gap-2">
        <Button look="main" disabled={!can} onClick={take}>
          Make it so
        </Button>
        <Button look="quiet" onClick={onClose}>
          Leave it
        </Button>
      </div>
    </Dialog>
  );
}

/** What one would look for first, by what the part is strung on. */
function usualFor(design: Design, part: Part): string {
  const entry = design.key.find((e) => e.key === part.stringing);
  if (!entry) return "simple-loop";
  const said = `${entry.form ?? ""} ${entry.name}`.toLowerCase();
  const found = USUAL.find(([word]) => word.test(said));
  return found?.[1] ?? "crimp-folded";
}
const USUAL: readonly (readonly [RegExp, string])[] = [
  [/memory/, "memory-wire-loops"],
  [/stretch|elastic/, "knot-surgeon"],
  [/ribbon/, "ribbon-end"],
  [/wire/, "crimp-folded"],
  [/cord/, "glued-cord-end"],
  [/thread/, "knot-in-bead"],
];

/** Keys that a part's rows name: what a method can be for each of. */
function keysTaken(steps: string, key: readonly { key: string; kind: string }[]): string[] {
  const words = new Set(steps.match(/\p{L}[\p{L}0-9_]*/gu) ?? []);
  const taken = key.filter((e) => words.has(e.key) && e.kind !== "stringing");
  return [...taken.filter((e) => e.kind === "focal"), ...taken.filter((e) => e.kind !== "focal")].map((e) => e.key);
}

/** What a method brings to the part: lines, working length, tools, cautions, minutes, and what that costs. */
function Brings({ after, definition, at }: { after: Design; definition: MethodDefinition; at: string }) {
  const partId = useBench((b) => b.part?.id);
  const design = useBench((b) => b.design);
  const say = useSayQuantity();
  const part = after.parts.find((p) => p.id === partId);
  const found = part && linesOf(after, part).find((m) => m.of.definition.id === definition.id && m.of.method.at === at);
  if (!part || !found) return null;
  const { handsOn, waiting } = minutesOf(found.of);
  const cautions = cautionsOf(found.of);
  return (
    <section aria-label="What it brings" className="rounded-md bg-hush p-3">
      <h3 className="font-semibold">It brings</h3>
      <ul>
        {found.lines.map((line, i) => (
          <li key={i}>
            {sayNumber(line.count)} × {after.key.find((e) => e.key === line.key)?.name ?? line.key}
            {line.mm !== null && `, ${say(line.mm, "mm")} each`}
            {!design.key.some((e) => e.key === line.key) && (
              <span className="text-muted"> new in the key: {line.key}</span>
            )}
            {line.state !== "as written" && <span className="text-muted">, {line.state}</span>}
          </li>
        ))}
        {found.tailMm > 0 && <li>{sayTail(say, found.tailMm, found.of)}</li>}
        {found.lines.length === 0 && found.tailMm === 0 && <li>no findings of its own</li>}
      </ul>
      <p className="mt-2">
        <span className="text-muted">Tools:</span> {toolsOf(found.of).join(", ") || "none"}
      </p>
      <p>
        <span className="text-muted">Time:</span> {sayNumber(handsOn, 1)} min hands on
        {waiting > 0 && `, ${sayNumber(waiting)} min waiting`}
      </p>
      {cautions.length > 0 && (
        <p className="mt-1">
          {cautionWords(cautions).join(" ")} <span className="text-muted">{DEFER}</span>
        </p>
      )}
      <MakeOrBuy definition={definition} after={after} />
    </section>
  );
}

/** What is the one bought and made: each made by its own method, for the same thing. */
const EITHER: Readonly<Record<string, readonly [bought: string, made: string]>> = {
  "ear-wire-bought": ["ear-wire-bought", "ear-wire-made"],
  "ear-wire-made": ["ear-wire-bought", "ear-wire-made"],
  "head-pin-bought": ["head-pin-bought", "head-pin-made"],
  "head-pin-made": ["head-pin-bought", "head-pin-made"],
};

/** Make or buy: material by the jars' own costs, and the minutes at the workshop's wage. */
function MakeOrBuy({ definition, after }: { definition: MethodDefinition; after: Design }) {
  const partId = useBench((b) => b.part?.id);
  const components = useQuery(componentsQuery).data;
  const money = useQuery(moneyQuery).data;
  const sayAbout = useSayAbout();
  const pair = EITHER[definition.id];
  if (!pair || !components || !money || !partId) return null;
  return (
    <table className="mt-3 w-full text-left">
      <caption className="text-left font-semibold">Make or buy, one of it</caption>
      <thead>
        <tr className="text-xs text-muted">
          <th className="font-normal">way</th>
          <th className="text-right font-normal">material</th>
          <th className="text-right font-normal">minutes</th>
          <th className="text-right font-normal">in all</th>
        </tr>
      </thead>
      <tbody>
        {pair.map((id) => {
          const of = SHIPPED.find((d) => d.id === id)!;
          const made = chooseMethod(after, partId, of, { at: "one end" });
          const part = made.parts.find((p) => p.id === partId)!;
          const found = linesOf(made, part).find((m) => m.of.definition.id === id)!;
          let material: number | null = 0;
          for (const line of found.lines) {
            const cost = cheapest(
              components,
              made.key.find((e) => e.key === line.key),
            );
            material = material === null || cost === null ? null : material + cost * line.count * (line.mm ?? 1);
          }
          const { handsOn } = minutesOf(found.of);
          const wage = (Number(money.wage) * handsOn) / 60;
          return (
            <tr key={id}>
              <td>{of.name}</td>
              <td className="text-right">{material === null ? "not known" : sayAbout(material)}</td>
              <td className="text-right">{sayNumber(handsOn)}</td>
              <td className="text-right font-semibold">
                {material === null ? "not known" : sayAbout(material + wage)}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}

/** What one such costs at the least, a base unit: of wire only what is as thick; null where nobody knows. */
function cheapest(components: readonly Component[], entry: KeyEntry | undefined): number | null {
  const { form, diameterMm } = entry ?? {};
  const isThick = (c: Component) =>
    diameterMm == null || (c.diameterMm != null && Math.abs(c.diameterMm - diameterMm) < 0.1 * diameterMm);
  const costs = components
    .filter((c) => c.form === form && (c.kind !== "stringing" || isThick(c)))
    .flatMap((c) => unitCost(c, "average") ?? unitCost(c, "replacement") ?? [])
    .map(Number);
  return costs.length > 0 ? Math.min(...costs) : null;
}

/** A method from a file of the workshop's own: it travels with the design from then on. */
function OwnMethod({ onRead }: { onRead: (d: MethodDefinition) => void }) {
  const picker = useRef<HTMLInputElement>(null);
  const [fault, setFault] = useState<string | null>(null);
  const read = async (file: File | undefined) => {
    if (!file) return;
    setFault(null);
    try {
      const found = MethodDefinition.safeParse(JSON.parse(await file.text()));
      if (found.success) return onRead(found.data);
      const [issue] = found.error.issues;
      setFault(`${issue!.path.join(" › ")}: ${issue!.message}`);
    } catch {
      setFault("This file is not JSON. A method file is *.method.json, as those that ship with Jar Count.");
    }
  };
  return (
    <div>
      <input
        ref={picker}
        type="file"
        accept=".json,application/json"
        className="sr-only"
        tabIndex={-1}
        aria-label="Method file"
        onChange={(e) => {
          void read(e.target.files?.[0]);
          e.target.value = "";
        }}
      />
      <Button look="quiet" className="h-8 px-1.5 text-sm" onClick={() => picker.current?.click()}>
        Use a method file of your own
      </Button>
      {fault && <Fault>{fault}</Fault>}
    </div>
  );
}
