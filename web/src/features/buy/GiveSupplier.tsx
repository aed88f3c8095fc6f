import type { Component } from "@jar-count/core/contract";
import { useId, useState } from "react";
import { call } from "../../api/client.ts";
import { makeStale, queryClient, roomsQuery, stockChanged } from "../../api/queries.ts";
import { refusalOf } from "../../api/refusal.ts";
import { Button, Fault } from "../../ui/controls.tsx";
import { sayNumber } from "../../ui/marks.tsx";
import type { LetterLine } from "./letters.ts";

interface Props {
  lines: readonly LetterLine[];
  suppliers: readonly { id: string; name: string }[];
}

/** Names who sells everything that nobody sells yet, in one step; it stays with the packs. */
export function GiveSupplier({ lines, suppliers }: Props) {
  const listId = useId();
  const [name, setName] = useState(() => (suppliers.length === 1 ? suppliers[0]!.name : ""));
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState<string | null>(null);
  const give = async () => {
    setBusy(true);
    setFault(null);
    try {
      const supplier = await supplierCalled(name.trim());
      await call("changeComponents", { body: { requestKey: crypto.randomUUID(), changes: soldBy(lines, supplier) } });
    } catch (error) {
      setFault(refusalOf(error)?.detail ?? (error as Error).message);
    }
    await stockChanged();
    setBusy(false);
  };
  const many = new Set(lines.map((l) => l.component.id)).size;
  return (
    <form
      className="flex flex-wrap items-center gap-2"
      onSubmit={(e) => {
        e.preventDefault();
        void give();
      }}
    >
      <input
        className="field h-9! w-52"
        aria-label="Who sells them"
        placeholder="a supplier’s name"
        list={listId}
        maxLength={200}
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <datalist id={listId}>
        {suppliers.map((s) => (
          <option key={s.id} value={s.name} />
        ))}
      </datalist>
      <Button type="submit" disabled={busy || name.trim() === ""}>
        {busy ? "Writing it to the packs …" : many === 1 ? "Sells it" : `Sells all ${sayNumber(many)}`}
      </Button>
      {fault && <Fault>{fault}</Fault>}
    </form>
  );
}

/** The supplier of a name; one that is not known yet is written down. */
async function supplierCalled(name: string): Promise<string> {
  const { version, ...rooms } = await queryClient.fetchQuery({ ...roomsQuery, staleTime: 0 });
  const known = rooms.suppliers.find((s) => s.name.toLowerCase() === name.toLowerCase());
  if (known) return known.id;
  const id = crypto.randomUUID();
  const suppliers = [...rooms.suppliers, { id, name, leadDays: null }];
  await call("saveRooms", { body: { requestKey: crypto.randomUUID(), version, rooms: { ...rooms, suppliers } } });
  await makeStale("rooms");
  return id;
}

/** Every pack of these components that names nobody is this supplier's. */
function soldBy(lines: readonly LetterLine[], supplier: string) {
  const components = new Map<string, Component>(lines.map((l) => [l.component.id, l.component]));
  return [...components.values()].map(({ id, version, offers }) => ({
    id,
    version,
    set: { offers: offers.map((o) => ({ ...o, supplier: o.supplier ?? supplier })) },
  }));
}
