import {
  COMPONENT_KINDS,
  EMPTY_RULE,
  FORMS,
  type SpareRule,
  TRADE_SPARES,
  Workshop,
  workshopInputOf,
} from "@jar-count/core/contract";
import { ArrowDown, ArrowUp, Plus, X } from "lucide-react";
import { useState } from "react";
import { makeStale, queryClient, workshopQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, Fault, IconButton } from "../../ui/controls.tsx";
import { TableHead } from "../../ui/DataTable.tsx";
import { NumberField, TextField } from "../../ui/fields.tsx";

/** How much is put in to spare: rules in their order, the first that fits wins. */
export function SparesSection({ workshop }: { workshop: Workshop }) {
  /** The rules as they are edited, and what they were made of. */
  const [edited, setEdited] = useState<{ base: Workshop; rules: SpareRule[] } | null>(null);
  const rules = edited?.rules ?? workshop.spares;
  const { send, busy, refusal, clear } = useSend(
    "saveWorkshop",
    async (saved) => {
      queryClient.setQueryData(workshopQuery.queryKey, saved);
      setEdited(null);
      await makeStale("boxes", "ahead");
    },
    (current, requestKey) => {
      const found = Workshop.parse(current);
      const [now, theirs] = [found.version, workshopInputOf(found)];
      // Somebody saved the name or the currency first: these rules go beside it. Other rules are for a person to see.
      const same = JSON.stringify(theirs.spares) === JSON.stringify(edited?.base.spares);
      return same ? { body: { requestKey, version: now, workshop: { ...theirs, spares: rules } } } : null;
    },
  );
  const put = (next: SpareRule[]) => setEdited({ base: edited?.base ?? workshop, rules: next });
  const leave = async () => {
    setEdited(null);
    clear();
    await queryClient.invalidateQueries({ queryKey: workshopQuery.queryKey });
  };
  const change = (id: string, to: Partial<SpareRule>) => put(rules.map((r) => (r.id === id ? { ...r, ...to } : r)));
  const move = (i: number, by: number) => {
    const next = [...rules];
    [next[i], next[i + by]] = [next[i + by]!, next[i]!];
    put(next);
  };
  const save = () => {
    const on = edited!.base.version;
    const value = { ...workshopInputOf(edited!.base), spares: rules };
    void send((requestKey) => ({ body: { requestKey, version: on, workshop: value } }));
  };
  return (
    <section className="px-6" aria-label="Spares">
      <p className="mb-2 max-w-prose text-muted">
        How much more goes into each bag. The first rule that fits a component gives it, whole pieces a box; a box may
        say otherwise line by line.
      </p>
      <div>
        <table className="row-table stacks-widest">
          <TableHead
            columns={[
              { head: "Order", silent: true },
              { head: "Rule", wide: true },
              { head: "more", number: true },
              { head: "and %", number: true },
              { head: "Kind" },
              { head: "Form" },
              { head: "Size" },
              { head: "Kept in" },
              { head: "In the bag, from … to" },
              { head: "One costs, from … to" },
              { head: "over % of the box", number: true },
              { head: "Take out", silent: true },
            ]}
          />
          <tbody>
            {rules.map((rule, i) => (
              <tr key={rule.id} data-testid="spare-rule">
                <td className="px-0! whitespace-nowrap">
                  <IconButton label={`${rule.name} earlier`} disabled={i === 0} onClick={() => move(i, -1)}>
                    <ArrowUp size={14} />
                  </IconButton>
                  <IconButton label={`${rule.name} later`} disabled={i === rules.length - 1} onClick={() => move(i, 1)}>
                    <ArrowDown size={14} />
                  </IconButton>
                </td>
                <td data-head="Rule" className="whole">
                  <TextField
                    aria-label={`Name of rule ${i + 1}`}
                    className="field w-52"
                    value={rule.name}
                    check={(text) => (text.trim() === "" ? "Give it a name." : null)}
                    onChange={(name) => change(rule.id, { name })}
                  />
                  <label className="flex items-center gap-1 text-xs text-muted">
                    <input
                      type="checkbox"
                      className="size-6"
                      checked={rule.closes}
                      onChange={(e) => change(rule.id, { closes: e.target.checked })}
                    />
                    only beads that close a size
                  </label>
                </td>
                <td data-head="more">
                  <NumberField
                    aria-label={`More by ${rule.name}`}
                    className="field w-14 text-right"
                    whole
                    max={100_000}
                    value={rule.add}
                    onChange={(add) => change(rule.id, { add: add! })}
                  />
                </td>
                <td data-head="and %">
                  <NumberField
                    aria-label={`Part by ${rule.name}`}
                    className="field w-14 text-right"
                    factor={100}
                    max={100}
                    value={rule.part}
                    onChange={(part) => change(rule.id, { part: part! })}
                  />
                </td>
                <td data-head="Kind">
                  <OneOf
                    label={`Kind for ${rule.name}`}
                    list={COMPONENT_KINDS}
                    chosen={rule.kinds}
                    onChange={(kinds) => change(rule.id, { kinds })}
                  />
                </td>
                <td data-head="Form">
                  <OneOf
                    label={`Form for ${rule.name}`}
                    list={FORMS}
                    chosen={rule.forms}
                    onChange={(forms) => change(rule.id, { forms })}
                  />
                </td>
                <td data-head="Size">
                  <TextField
                    aria-label={`Size for ${rule.name}`}
                    className="field w-16"
                    placeholder="any"
                    value={rule.sizes.join(", ")}
                    onChange={(text) =>
                      change(rule.id, {
                        sizes: text
                          .split(",")
                          .map((s) => s.trim())
                          .filter(Boolean),
                      })
                    }
                  />
                </td>
                <td data-head="Kept in">
                  <OneOf
                    label={`Unit for ${rule.name}`}
                    list={["piece", "g", "mm"] as const}
                    chosen={rule.units}
                    onChange={(units) => change(rule.id, { units })}
                  />
                </td>
                <td data-head="In the bag, from … to">
                  <span className="flex gap-1">
                    {(["from", "to"] as const).map((end) => (
                      <NumberField
                        key={end}
                        aria-label={`${end === "from" ? "Fewest" : "Most"} in the bag for ${rule.name}`}
                        className="field w-12 text-right"
                        optional
                        value={rule[end] ?? null}
                        onChange={(n) => change(rule.id, { [end]: n })}
                      />
                    ))}
                  </span>
                </td>
                <td data-head="One costs, from … to">
                  <span className="flex gap-1">
                    {(["costFrom", "costTo"] as const).map((end) => (
                      <NumberField
                        key={end}
                        aria-label={`${end === "costFrom" ? "Cheapest" : "Dearest"} for ${rule.name}`}
                        className="field w-14 text-right"
                        optional
                        value={rule[end] == null ? null : Number(rule[end])}
                        onChange={(n) => change(rule.id, { [end]: n === null ? null : String(n) })}
                      />
                    ))}
                  </span>
                </td>
                <td data-head="over % of the box">
                  <NumberField
                    aria-label={`Over this part of the box for ${rule.name}`}
                    className="field w-14 text-right"
                    optional
                    factor={100}
                    max={100}
                    value={rule.shareOver ?? null}
                    onChange={(shareOver) => change(rule.id, { shareOver })}
                  />
                </td>
                <td className="px-0!">
                  <IconButton
                    label={`Take ${rule.name} out`}
                    onClick={() => put(rules.filter((r) => r.id !== rule.id))}
                  >
                    <X size={15} />
                  </IconButton>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <div className="mt-3 flex flex-wrap items-center gap-2">
        <Button onClick={() => put([...rules, { ...EMPTY_RULE, id: crypto.randomUUID(), name: "one more", add: 1 }])}>
          <Plus size={16} aria-hidden /> Add a rule
        </Button>
        <Button onClick={() => put(TRADE_SPARES.map((r) => ({ ...r })))}>As the trade usually does</Button>
        <Button look="main" disabled={!edited || busy} onClick={save}>
          Save the rules
        </Button>
        {edited && (
          <Button onClick={() => void leave()}>{refusal ? "See what is there now" : "Leave them as they were"}</Button>
        )}
        {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
      </div>
    </section>
  );
}

/** One of a list, or any of it. A rule that names several, as from a file, keeps them until another is chosen. */
function OneOf<T extends string>(props: {
  label: string;
  list: readonly T[];
  chosen: readonly T[];
  onChange: (chosen: T[]) => void;
}) {
  const { label, list, chosen, onChange } = props;
  const several = chosen.length > 1;
  return (
    <select
      aria-label={label}
      className="field w-24"
      value={several ? "several" : (chosen[0] ?? "")}
      onChange={(e) => onChange(e.target.value === "" ? [] : [e.target.value as T])}
    >
      <option value="">any</option>
      {several && (
        <option value="several" disabled>
          {chosen.join(", ")}
        </option>
      )}
      {list.map((one) => (
        <option key={one} value={one}>
          {one}
        </option>
      ))}
    </select>
  );
}
