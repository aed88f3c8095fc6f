import { type ErrorBody, Rooms, RoomsInput } from "@jar-count/core/contract";
import { Plus, X } from "lucide-react";
import { useFieldArray } from "react-hook-form";
import { queryClient, roomsQuery, stockChanged } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, IconButton } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { Field, MendFirst, useRefusalAtFields } from "../../ui/form.tsx";
import { ClashNotice, useRecord } from "../../ui/record.tsx";
import { RefusalNotice } from "../../ui/page.tsx";

/** What the database refuses without naming a place is still named by something else. */
const inWords = (refusal: ErrorBody): ErrorBody =>
  refusal.code === "invalid" && !refusal.errors
    ? { ...refusal, detail: "Something that is taken out here is still named by stock or an order. Nothing was saved." }
    : refusal;

const ROW = "flex items-start gap-2 py-0.5";

/** Who works here, who sells to us, and where things stand. */
export function RoomsForm({ rooms: { version, ...rooms } }: { rooms: Rooms }) {
  const record = useRecord<RoomsInput>({ schema: RoomsInput, found: { version, value: rooms } });
  const { send, busy, refusal } = useSend(
    "saveRooms",
    async ({ version: next, ...value }) => {
      record.saved({ version: next, value });
      queryClient.setQueryData(roomsQuery.queryKey, { version: next, ...value });
      await stockChanged();
    },
    (current, requestKey) => {
      const { version: theirs, ...value } = Rooms.parse(current);
      const merged = record.merge({ version: theirs, value });
      return merged && { body: { requestKey, version: theirs, rooms: merged } };
    },
  );
  const { form } = record;
  useRefusalAtFields(form, refusal, "/rooms");
  const save = (value: RoomsInput, on = record.version) =>
    send((requestKey) => ({ body: { requestKey, version: on, rooms: value } }));
  const decide = (whose: "mine" | "theirs") => {
    const chosen = record.decide(whose);
    if (chosen) void save(chosen.value, chosen.version);
  };
  const { control, watch } = form;
  // The lists' own ids are kept: react-hook-form's keys have another name.
  const people = useFieldArray({ control, name: "people", keyName: "row" });
  const suppliers = useFieldArray({ control, name: "suppliers", keyName: "row" });
  const places = useFieldArray({ control, name: "places", keyName: "row" });
  const now = watch();
  const { isDirty } = form.formState;
  return (
    <form aria-label="People, suppliers and places" noValidate onSubmit={form.handleSubmit((value) => save(value))}>
      {record.clash ? (
        <ClashNotice clash={record.clash.list} decide={decide} />
      ) : (
        refusal && <RefusalNotice refusal={inWords(refusal)} />
      )}
      <div className="flex flex-wrap gap-x-8 gap-y-6 px-6">
        <div>
          <h2>People</h2>
          <p className="pb-1 text-muted">Who can be named beside what moves.</p>
          {people.fields.map((p, i) => (
            <div key={p.row} className={ROW}>
              <Field form={form} name={`people.${i}.name`}>
                {(field) => <input className="field w-48" aria-label={`Person ${i + 1}`} maxLength={200} {...field} />}
              </Field>
              <IconButton label={`Take ${now.people[i]?.name ?? ""} out`} onClick={() => people.remove(i)}>
                <X size={15} />
              </IconButton>
            </div>
          ))}
          <Button className="mt-1 h-8!" onClick={() => people.append({ id: crypto.randomUUID(), name: "" })}>
            <Plus size={15} aria-hidden /> Add a person
          </Button>
        </div>
        <div>
          <h2>Suppliers</h2>
          <p className="pb-1 text-muted">With the days they usually take.</p>
          {suppliers.fields.map((s, i) => (
            <div key={s.row} className={ROW}>
              <Field form={form} name={`suppliers.${i}.name`}>
                {(field) => (
                  <input className="field w-48" aria-label={`Supplier ${i + 1}`} maxLength={200} {...field} />
                )}
              </Field>
              <Field form={form} name={`suppliers.${i}.leadDays`}>
                {({ value, ...field }) => (
                  <NumberField
                    className="field w-16"
                    aria-label={`Lead days of ${now.suppliers[i]?.name ?? ""}`}
                    optional
                    whole
                    max={730}
                    placeholder="days"
                    value={value ?? null}
                    {...field}
                  />
                )}
              </Field>
              <IconButton label={`Take ${now.suppliers[i]?.name ?? ""} out`} onClick={() => suppliers.remove(i)}>
                <X size={15} />
              </IconButton>
            </div>
          ))}
          <Button
            className="mt-1 h-8!"
            onClick={() => suppliers.append({ id: crypto.randomUUID(), name: "", leadDays: null })}
          >
            <Plus size={15} aria-hidden /> Add a supplier
          </Button>
        </div>
        <div className="min-w-[min(100%,26rem)] flex-1">
          <h2>Places</h2>
          <p className="pb-1 text-muted">In the order in which one walks past them.</p>
          {places.fields.map((p, i) => {
            const { code = "" } = now.places[i] ?? {};
            return (
              <div key={p.row} className={ROW}>
                <Field form={form} name={`places.${i}.code`}>
                  {(field) => (
                    <input
                      className="field w-18 font-mono"
                      aria-label={`Code of place ${i + 1}`}
                      maxLength={20}
                      {...field}
                    />
                  )}
                </Field>
                <Field form={form} name={`places.${i}.name`} className="min-w-0 flex-1">
                  {(field) => (
                    <input className="field w-full" aria-label={`Name of place ${code}`} maxLength={200} {...field} />
                  )}
                </Field>
                <label className="flex h-8 items-center gap-1 whitespace-nowrap">
                  <Field form={form} name={`places.${i}.held`}>
                    {({ value, ...field }) => (
                      <input type="checkbox" className="size-4" checked={value ?? false} {...field} />
                    )}
                  </Field>{" "}
                  held back
                </label>
                <IconButton
                  label={`Take ${code} out`}
                  disabled={places.fields.length === 1}
                  onClick={() => places.remove(i)}
                >
                  <X size={15} />
                </IconButton>
              </div>
            );
          })}
          <Button
            className="mt-1 h-8!"
            onClick={() => places.append({ id: crypto.randomUUID(), code: "", name: "", held: false })}
          >
            <Plus size={15} aria-hidden /> Add a place
          </Button>
        </div>
      </div>
      <p className="flex items-center gap-2 px-6 pt-4">
        <Button type="submit" look="main" disabled={!isDirty || busy}>
          Save people, suppliers and places
        </Button>
        {isDirty && <Button onClick={() => form.reset()}>As it was</Button>}
        <MendFirst form={form} />
      </p>
    </form>
  );
}
