import { type ErrorBody, Rooms } from "@jar-count/core/contract";
import { Plus, X } from "lucide-react";
import { useState } from "react";
import { queryClient, roomsQuery, stockChanged } from "../../api/queries.ts";
import { notYet } from "../../api/refusal.ts";
import { useSend } from "../../api/useSend.ts";
import { Button, IconButton } from "../../ui/controls.tsx";
import { NumberField } from "../../ui/fields.tsx";
import { RefusalNotice } from "../../ui/page.tsx";

/** What the database refuses without naming a place is still named by something else. */
const inWords = (refusal: ErrorBody): ErrorBody =>
  refusal.code === "invalid" && !refusal.errors
    ? { ...refusal, detail: "Something that is taken out here is still named by stock or an order. Nothing was saved." }
    : refusal;

/** Who works here, who sells to us, and where things stand. */
export function RoomsForm({ rooms }: { rooms: Rooms }) {
  const [doc, setDoc] = useState(rooms);
  const [wrong, setWrong] = useState<ErrorBody | null>(null);
  const {
    send,
    busy,
    refusal: refused,
  } = useSend("saveRooms", async (saved) => {
    queryClient.setQueryData(roomsQuery.queryKey, saved);
    await stockChanged();
  });
  const refusal = wrong ?? (refused && inWords(refused));
  const changed = JSON.stringify(doc) !== JSON.stringify(rooms);
  const save = async () => {
    const checked = Rooms.safeParse(doc);
    setWrong(checked.success ? null : notYet(checked.error, "/rooms"));
    if (checked.success) await send({ body: checked.data });
  };
  const edit = <K extends keyof Rooms>(list: K, i: number, change: Partial<Rooms[K][number]>) =>
    setDoc({
      ...doc,
      [list]: (doc[list] as Rooms[K][number][]).with(i, { ...doc[list][i]!, ...change } as Rooms[K][number]),
    });
  const drop = (list: keyof Rooms, i: number) => setDoc({ ...doc, [list]: doc[list].filter((_, j) => j !== i) });
  const row = "flex items-center gap-2 py-0.5";
  return (
    <section className="pt-10" aria-label="People, suppliers and places">
      {refusal && <RefusalNotice refusal={refusal} />}
      <div className="grid gap-8 px-6 md:grid-cols-2 xl:grid-cols-3">
        <div>
          <h2>People</h2>
          <p className="pb-1 text-muted">Who can be named beside what moves.</p>
          {doc.people.map((p, i) => (
            <div key={p.id} className={row}>
              <input
                className="field w-48"
                aria-label={`Person ${i + 1}`}
                maxLength={200}
                value={p.name}
                onChange={(e) => edit("people", i, { name: e.target.value })}
              />
              <IconButton label={`Take ${p.name} out`} onClick={() => drop("people", i)}>
                <X size={15} />
              </IconButton>
            </div>
          ))}
          <Button
            className="mt-1 h-8!"
            onClick={() => setDoc({ ...doc, people: [...doc.people, { id: crypto.randomUUID(), name: "" }] })}
          >
            <Plus size={15} aria-hidden /> Add a person
          </Button>
        </div>
        <div>
          <h2>Suppliers</h2>
          <p className="pb-1 text-muted">With the days they usually take.</p>
          {doc.suppliers.map((s, i) => (
            <div key={s.id} className={row}>
              <input
                className="field w-48"
                aria-label={`Supplier ${i + 1}`}
                maxLength={200}
                value={s.name}
                onChange={(e) => edit("suppliers", i, { name: e.target.value })}
              />
              <NumberField
                className="field w-16"
                aria-label={`Lead days of ${s.name}`}
                optional
                whole
                max={730}
                placeholder="days"
                value={s.leadDays ?? null}
                onChange={(leadDays) => edit("suppliers", i, { leadDays })}
              />
              <IconButton label={`Take ${s.name} out`} onClick={() => drop("suppliers", i)}>
                <X size={15} />
              </IconButton>
            </div>
          ))}
          <Button
            className="mt-1 h-8!"
            onClick={() =>
              setDoc({ ...doc, suppliers: [...doc.suppliers, { id: crypto.randomUUID(), name: "", leadDays: null }] })
            }
          >
            <Plus size={15} aria-hidden /> Add a supplier
          </Button>
        </div>
        <div>
          <h2>Places</h2>
          <p className="pb-1 text-muted">In the order in which one walks past them.</p>
          {doc.places.map((p, i) => (
            <div key={p.id} className={row}>
              <input
                className="field w-18 font-mono"
                aria-label={`Code of place ${i + 1}`}
                maxLength={20}
                value={p.code}
                onChange={(e) => edit("places", i, { code: e.target.value })}
              />
              <input
                className="field w-44 min-w-0 flex-1"
                aria-label={`Name of place ${p.code}`}
                maxLength={200}
                value={p.name}
                onChange={(e) => edit("places", i, { name: e.target.value })}
              />
              <label className="flex items-center gap-1 whitespace-nowrap">
                <input
                  type="checkbox"
                  className="size-4"
                  checked={p.held}
                  onChange={(e) => edit("places", i, { held: e.target.checked })}
                />{" "}
                held
              </label>
              <IconButton
                label={`Take ${p.code} out`}
                disabled={doc.places.length === 1}
                onClick={() => drop("places", i)}
              >
                <X size={15} />
              </IconButton>
            </div>
          ))}
          <Button
            className="mt-1 h-8!"
            onClick={() =>
              setDoc({ ...doc, places: [...doc.places, { id: crypto.randomUUID(), code: "", name: "", held: false }] })
            }
          >
            <Plus size={15} aria-hidden /> Add a place
          </Button>
        </div>
      </div>
      <p className="flex gap-2 px-6 pt-4">
        <Button look="main" disabled={!changed || busy} onClick={() => void save()}>
          Save people, suppliers and places
        </Button>
        {changed && (
          <Button
            onClick={() => {
              setDoc(rooms);
              setWrong(null);
            }}
          >
            As it was
          </Button>
        )}
      </p>
    </section>
  );
}
