import { type Laid, LAID } from "@jar-count/core/contract";
import { keyFault } from "@jar-count/core/shorthand";
import { Trash2 } from "lucide-react";
import { Button, Labelled } from "../../ui/controls.tsx";
import { checkName, LengthField, NumberField, TextField } from "../../ui/fields.tsx";
import { Fold } from "../../ui/Fold.tsx";
import { Beside, BySize, countedKeys, Cuts, KeySelect, Uses } from "./Lists.tsx";
import { useBench, useBenchStore } from "./benchStore.ts";
import { Methods } from "./Methods.tsx";
import { freeKey, keysOf } from "./designs.ts";

const SAID: Record<Laid, string> = {
  strand: "a strand",
  ring: "a ring",
  hanging: "hanging, first step on top",
  rising: "rising, first step lowest",
};

/** The fields of one part: what it is strung on, how it is cut, what it takes that its text doesn't name. */
export function PartFields() {
  const { id: designId, state, editPart: onChange, editDesign } = useBenchStore();
  // As it was before rows were typed: its fields are the same.
  const design = useBench((b) => b.frame);
  const id = useBench((b) => b.part?.id);
  const proposal = useBench((b) => b.proposal);
  const part = design.parts.find((p) => p.id === id);
  if (!part) return null;
  const onRemove = () => editDesign({ parts: state.getState().design.parts.filter((p) => p.id !== id) });
  const strings = design.key.filter((e) => e.kind === "stringing").map(({ key, name }) => ({ key, name }));
  const others = countedKeys(design).filter((c) => c.key !== part.as);
  const sizes = design.sizes ?? [];
  const sizeKeys = sizes.map((s) => s.key);
  const isSub = part.as != null;
  return (
    <div className="flex flex-col gap-4 px-6 pt-3">
      <div className="flex flex-wrap items-start gap-x-3 gap-y-2">
        <Labelled label="Part">
          <TextField
            className="field w-30"
            value={part.name}
            check={checkName}
            onChange={(name) => onChange({ name }, "part-name")}
          />
        </Labelled>
        {!isSub && (
          <Labelled label="An item needs">
            <NumberField
              className="field w-16"
              whole
              min={1}
              max={100_000}
              value={part.makes ?? 1}
              onChange={(makes) => onChange({ makes })}
            />
          </Labelled>
        )}
        <Labelled label="Strung on" hint={strings.length === 0 && "add a cord or wire to the key"}>
          <KeySelect
            label="Strung on"
            value={part.stringing ?? null}
            choices={strings}
            none="nothing"
            onChange={(stringing) => onChange({ stringing })}
          />
        </Labelled>
        <Labelled label="Each tail">
          <LengthField
            className="field w-28"
            mm={part.tailMm ?? null}
            optional
            zero
            placeholder="none"
            onChange={(tailMm) => onChange({ tailMm })}
          />
        </Labelled>
        {sizes.length === 0 ? (
          <Labelled label="Target length">
            <LengthField
              className="field w-28"
              optional
              placeholder="none"
              mm={typeof part.targetMm === "number" ? part.targetMm : null}
              onChange={(targetMm) => onChange({ targetMm })}
            />
          </Labelled>
        ) : (
          sizes.map((size) => (
            <Labelled key={size.key} label={`Target, ${size.label ?? size.key}`}>
              <LengthField
                className="field w-28"
                optional
                placeholder="none"
                mm={typeof part.targetMm === "number" ? part.targetMm : (part.targetMm?.[size.key] ?? null)}
                onChange={(mm) => {
                  const had =
                    typeof part.targetMm === "number"
                      ? Object.fromEntries(sizes.map((s) => [s.key, part.targetMm as number]))
                      : (part.targetMm ?? {});
                  const { [size.key]: _gone, ...rest } = had;
                  const next = mm === null ? rest : { ...rest, [size.key]: mm };
                  onChange({ targetMm: Object.keys(next).length > 0 ? next : null });
                }}
              />
            </Labelled>
          ))
        )}
      </div>
      <Methods />
      <Fold
        key={part.id}
        name={`part/${designId}/${part.id}`}
        title="This part’s strands, thread, cuts, and findings that no row names"
      >
        <div className="grid gap-5 md:grid-cols-2">
          <div className="flex flex-wrap items-start gap-x-4 gap-y-3">
            <Labelled
              label="Drawn as"
              hint={proposal.laid !== "strand" && proposal.reason && `since ${proposal.reason}`}
              className="max-w-52"
            >
              <select
                className="field"
                value={part.laid ?? ""}
                onChange={(e) => onChange({ laid: (e.target.value || null) as Laid | null })}
              >
                <option value="">
                  {proposal.reason === null ? "as proposed" : `${SAID[proposal.laid]}, as proposed`}
                </option>
                {LAID.map((laid) => (
                  <option key={laid} value={laid}>
                    {SAID[laid]}
                  </option>
                ))}
              </select>
            </Labelled>
            <Labelled label="Strands side by side">
              <NumberField
                className="field w-20"
                whole
                min={1}
                max={100}
                value={part.strands ?? 1}
                onChange={(strands) => onChange({ strands })}
              />
            </Labelled>
            <Labelled label="Extra thread for stitches, %" hint="“take-up”: what they eat beside the path">
              <NumberField
                className="field w-20"
                optional
                factor={100}
                max={100}
                value={part.takeUp ?? null}
                onChange={(takeUp) => onChange({ takeUp })}
              />
            </Labelled>
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="size-4"
                checked={part.noTwoAlike ?? false}
                onChange={(e) => onChange({ noTwoAlike: e.target.checked || null })}
              />{" "}
              no two alike side by side
            </label>
            <Labelled label="Whole path gone again, times">
              <NumberField
                className="field w-20"
                optional
                max={100}
                value={part.reinforce ?? null}
                onChange={(reinforce) => onChange({ reinforce })}
              />
            </Labelled>
            <fieldset>
              <legend className="text-xs text-muted">Length of each cut, if it is fixed</legend>
              <span className="flex flex-wrap items-center gap-1.5">
                <BySize
                  value={part.cutMm ?? null}
                  sizes={sizeKeys}
                  begin={100}
                  onChange={(cutMm) => onChange({ cutMm })}
                >
                  {({ value, of, onChange: put }) => (
                    <LengthField
                      aria-label={`Fixed cut${of}`}
                      className="field w-24"
                      optional={of === ""}
                      placeholder="as needed"
                      mm={value}
                      onChange={put}
                    />
                  )}
                </BySize>
              </span>
            </fieldset>
            <Labelled label="Finished, % of the strand">
              <NumberField
                className="field w-20"
                optional
                factor={100}
                min={0.01}
                max={100}
                placeholder="100"
                value={part.finishedRatio ?? null}
                onChange={(finishedRatio) => onChange({ finishedRatio })}
              />
            </Labelled>
            <label className="flex items-center gap-2 self-end pb-1.5">
              <input
                type="checkbox"
                checked={part.folded ?? false}
                onChange={(e) => onChange({ folded: e.target.checked })}
              />
              each cut is bent double and makes two strands
            </label>
            {(design.options ?? []).length > 0 && !isSub && (
              <fieldset>
                <legend className="text-xs text-muted">Only in</legend>
                {design.options!.map((o) => (
                  <label key={o.key} className="mr-3 inline-flex items-center gap-1.5">
                    <input
                      type="checkbox"
                      checked={part.options?.includes(o.key) ?? false}
                      onChange={(e) => {
                        const next = design
                          .options!.map((x) => x.key)
                          .filter((k) => (k === o.key ? e.target.checked : part.options?.includes(k)));
                        onChange({ options: next.length > 0 ? next : null });
                      }}
                    />
                    {o.label ?? o.key}
                  </label>
                ))}
              </fieldset>
            )}
          </div>
          <div className="flex flex-wrap items-start gap-x-4 gap-y-3">
            <label className="flex w-full items-center gap-2">
              <input
                type="checkbox"
                checked={isSub}
                onChange={(e) =>
                  onChange(
                    e.target.checked ? { as: freeKey(keysOf(design)) } : { as: null, alongMm: null, hangsBy: null },
                  )
                }
              />
              made apart and used by a letter of its own (a sub-assembly)
            </label>
            {isSub && (
              <>
                <Labelled label="Its letter">
                  <TextField
                    className="field w-20 font-mono"
                    value={part.as!}
                    onChange={(as) => onChange({ as })}
                    check={(k) =>
                      keyFault(k) ?? (k !== part.as && keysOf(design).has(k) ? `${k} is a letter already.` : null)
                    }
                  />
                </Labelled>
                <Labelled label="Along a strand">
                  <LengthField
                    className="field w-28"
                    optional
                    placeholder="its own strand"
                    mm={part.alongMm ?? null}
                    onChange={(alongMm) => onChange({ alongMm })}
                  />
                </Labelled>
                <Uses
                  title={`${part.as} hangs by`}
                  add="Add what it hangs by"
                  uses={part.hangsBy ?? []}
                  choices={others}
                  onChange={(hangsBy) => onChange({ hangsBy })}
                />
              </>
            )}
          </div>
          <Uses
            title="Findings of this part that no row names"
            add="Add what this part takes"
            uses={part.uses ?? []}
            choices={others}
            sizes={sizeKeys}
            each={others}
            onChange={(uses) => onChange({ uses })}
          />
          <Cuts
            cuts={part.cuts ?? []}
            choices={strings}
            sizes={sizeKeys}
            each={others}
            onChange={(cuts) => onChange({ cuts })}
          />
          <Beside
            also={part.also ?? []}
            choices={strings}
            sizes={sizeKeys}
            onChange={(also) => onChange({ also: also.length > 0 ? also : null })}
          />
        </div>
        <Button look="quiet" className="mt-3 text-short" disabled={design.parts.length < 2} onClick={onRemove}>
          <Trash2 size={15} aria-hidden /> Take this part out
        </Button>
      </Fold>
    </div>
  );
}
