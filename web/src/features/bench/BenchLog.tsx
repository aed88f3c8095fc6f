import { type Design, roleId, type Trial, VERDICTS } from "@jar-count/core/contract";
import { countWhole } from "@jar-count/core/count";
import { finishedMm } from "@jar-count/core/length";
import { correctionsOf, usedBeside } from "@jar-count/core/trial";
import { inUnit } from "@jar-count/core/units";
import { useQuery } from "@tanstack/react-query";
import { Plus } from "lucide-react";
import { useState } from "react";
import { useForm } from "react-hook-form";
import { queryClient, roomsQuery, trialsQuery } from "../../api/queries.ts";
import { sentenceOf } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { today, useSettings } from "../../settings/index.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { Dialog } from "../../ui/Dialog.tsx";
import { AmountField, LengthField, NumberField } from "../../ui/fields.tsx";
import { Field, MendFirst, useRefusalAtFields } from "../../ui/form.tsx";
import { Diamond, sayNumber, useSayQuantity } from "../../ui/marks.tsx";
import { sayDay } from "../../ui/month.ts";

interface Props {
  id: string;
  revision: number;
  design: Design;
  size: string | null;
  option: string | null;
  onClose: () => void;
  onCorrect: (design: Design, reason: string) => void;
}

/** Every trial make: what it really took beside what was counted, and what would put the design right. */
export function BenchLog({ id, revision, design, size, option, onClose, onCorrect }: Props) {
  const trials = useQuery(trialsQuery(id));
  const rooms = useQuery(roomsQuery);
  const [adding, setAdding] = useState(false);
  const say = useSayQuantity();
  const unit = useSettings((s) => s.unit);
  const who = (person: string | null | undefined) => rooms.data?.people.find((p) => p.id === person)?.name;
  return (
    <Dialog title="Bench log" open onClose={onClose} wide>
      {!trials.data ? (
        <p role="status">{trials.error?.message ?? "Fetching the log …"}</p>
      ) : adding ? (
        <TrialForm
          id={id}
          revision={revision}
          design={design}
          size={size}
          option={option}
          onDone={() => setAdding(false)}
        />
      ) : (
        <>
          {revision === 0 ? (
            <p className="mb-3 text-muted">Save the design first: a trial is of a saved revision.</p>
          ) : (
            <Button look="main" className="mb-3" onClick={() => setAdding(true)}>
              <Plus size={16} aria-hidden /> Write a trial down
            </Button>
          )}
          {trials.data.length === 0 && (
            <p className="text-muted">
              Nobody has written a trial make down yet. Make one, count what it took, and the design can be put right by
              it.
            </p>
          )}
          <ul className="flex flex-col gap-4">
            {trials.data.map((t) => {
              const beside = usedBeside(design, t);
              const differ = beside.filter((u) => Math.abs(u.used - u.computed) > (u.unit === "mm" ? 1 : 0));
              const amount = (n: number, unit: "piece" | "mm") => (unit === "mm" ? say(n, "length") : sayNumber(n));
              const corrections = correctionsOf(design, t);
              return (
                <li key={t.id} className="border-t border-rule pt-3" data-testid="trial">
                  <p className="flex flex-wrap items-baseline gap-x-3">
                    <strong>{sayDay(t.madeOn)}</strong>
                    <span className="text-muted">
                      {[
                        who(t.person),
                        `revision ${t.revision}`,
                        t.size,
                        t.option,
                        t.minutes != null && `${sayNumber(t.minutes)} min`,
                        t.finished && `${say(t.finished.mm, "length")} long`,
                      ]
                        .filter(Boolean)
                        .join(" · ")}
                    </span>
                    <span className="ml-auto font-semibold">{t.verdict}</span>
                  </p>
                  {t.note && <p className="[overflow-wrap:anywhere]">{t.note}</p>}
                  {differ.length > 0 && (
                    <p className="pt-1">
                      {differ.map((u) => (
                        <span key={u.entry.key} className="mr-4">
                          <code className="font-mono font-bold">{u.entry.key}</code> counted{" "}
                          {amount(u.computed, u.unit)}, used <strong>{amount(u.used, u.unit)}</strong>
                        </span>
                      ))}
                    </p>
                  )}
                  {beside.length > 0 && differ.length === 0 && (
                    <p className="pt-1 text-muted">It took what was counted.</p>
                  )}
                  {corrections.map((c) => (
                    <p key={c.id} className="flex flex-wrap items-center gap-2 pt-2">
                      <Diamond className="text-low" /> <span className="min-w-0 flex-1">{inUnit(c.say, unit)}.</span>
                      <Button className="h-8!" onClick={() => onCorrect(c.design, c.reason)}>
                        Correct the design
                      </Button>
                    </p>
                  ))}
                </li>
              );
            })}
          </ul>
        </>
      )}
    </Dialog>
  );
}

function TrialForm({
  id,
  revision,
  design,
  size,
  option,
  onDone,
}: Pick<Props, "id" | "revision" | "design" | "size" | "option"> & { onDone: () => void }) {
  const person = useSettings((s) => s.person);
  const rooms = useQuery(roomsQuery);
  const parts = design.parts.filter((p) => p.as == null && p.steps);
  const [trialId] = useState(() => crypto.randomUUID());
  const { send, busy, refusal } = useSend("saveTrial", (list) =>
    queryClient.setQueryData(trialsQuery(id).queryKey, list),
  );
  const form = useForm({
    defaultValues: {
      madeOn: today(),
      person: person ?? "",
      minutes: null as number | null,
      verdict: "good" as Trial["verdict"],
      part: parts[0]?.id ?? "",
      finishedMm: null as number | null,
      /** Used of each role, in pieces or millimetres; null where nobody counted. */
      used: {} as Record<string, number | null>,
      note: "",
    },
  });
  useRefusalAtFields(form, refusal, "");
  const part = form.watch("part");
  const counting = countWhole(design, { size, option });
  const { answer } = counting;
  const say = useSayQuantity();
  const comesOut = (id: string) => {
    const found = counting.parts.find((p) => p.part.id === id);
    return found ? say(finishedMm(counting, found), "length") : "";
  };
  const counted = design.key.filter(
    (e) => e.kind !== "mix" && ((answer.counts[e.key] ?? 0) > 0 || (answer.lengthsMm[e.key] ?? 0) > 0),
  );
  const save = form.handleSubmit(async ({ part, finishedMm, used, person, ...rest }) => {
    const body = {
      ...rest,
      version: 0,
      revision,
      size,
      option,
      person: person || null,
      finished: finishedMm !== null && part ? { part, mm: finishedMm } : null,
      used: Object.fromEntries(Object.entries(used).filter((u): u is [string, number] => u[1] != null)),
    };
    const sent = await send((requestKey) => ({ params: { id, trial: trialId }, body: { ...body, requestKey } }));
    if (sent) onDone();
  });
  return (
    <form onSubmit={save} noValidate className="flex flex-col gap-4" aria-label="A trial">
      <div className="flex flex-wrap items-start gap-4">
        <Field form={form} name="madeOn" label="Made on">
          {(field) => <input type="date" className="field" {...field} />}
        </Field>
        <Field form={form} name="person" label="Who made it">
          {(field) => (
            <select className="field" {...field}>
              <option value="">nobody named</option>
              {rooms.data?.people.map((p) => (
                <option key={p.id} value={p.id}>
                  {p.name}
                </option>
              ))}
            </select>
          )}
        </Field>
        <Field form={form} name="minutes" label="Minutes">
          {(field) => <NumberField className="field w-20" optional max={10_000} {...field} />}
        </Field>
        <Field form={form} name="verdict" label="Verdict">
          {(field) => (
            <select className="field" {...field}>
              {VERDICTS.map((v) => (
                <option key={v}>{v}</option>
              ))}
            </select>
          )}
        </Field>
      </div>
      {parts.length > 0 && (
        <div className="flex flex-wrap items-start gap-4">
          <Field form={form} name="part" label="Part that was measured">
            {(field) => (
              <select className="field" {...field}>
                {parts.map((p) => (
                  <option key={p.id} value={p.id}>
                    {p.name}
                  </option>
                ))}
              </select>
            )}
          </Field>
          <Field form={form} name="finishedMm" label="It came out" hint={`from end to end; counted ${comesOut(part)}`}>
            {({ value, ...field }) => (
              <LengthField className="field w-28" aria-label="It came out" optional mm={value} {...field} />
            )}
          </Field>
        </div>
      )}
      <fieldset>
        <legend className="mb-1 font-semibold">
          What one item really took <span className="font-normal text-muted">(leave empty what nobody counted)</span>
        </legend>
        <div className="grid max-h-56 grid-cols-1 gap-x-6 gap-y-1 overflow-y-auto sm:grid-cols-2">
          {counted.map((e) => {
            const linear = e.kind === "stringing";
            return (
              <label key={e.key} className="flex items-center gap-2">
                <code className="w-10 font-mono font-bold">{e.key}</code>
                <span className="min-w-0 flex-1 truncate text-muted" title={e.name}>
                  {e.name}
                </span>
                <span className="text-xs text-muted">{linear ? "" : sayNumber(answer.counts[e.key] ?? 0)}</span>
                <Field form={form} name={`used.${roleId(e)}`}>
                  {({ value, ...field }) => (
                    <AmountField
                      unit={linear ? "mm" : undefined}
                      zero
                      className={`field h-7! ${linear ? "w-24" : "w-20"}`}
                      aria-label={`Used of ${e.key}`}
                      optional
                      amount={value ?? null}
                      {...field}
                    />
                  )}
                </Field>
              </label>
            );
          })}
        </div>
      </fieldset>
      <Field form={form} name="note" label="What was awkward">
        {(field) => <textarea className="field h-16! py-1" maxLength={2000} {...field} />}
      </Field>
      {refusal && <Fault>{sentenceOf(refusal)}</Fault>}
      <MendFirst form={form} />
      <div className="flex justify-end gap-2">
        <Button onClick={() => onDone()}>Not now</Button>
        <Button type="submit" look="main" disabled={busy}>
          Write it down
        </Button>
      </div>
    </form>
  );
}
