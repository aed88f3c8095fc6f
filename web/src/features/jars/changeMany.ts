import type { Component, ComponentChange } from "@jar-count/core/contract";
import { call } from "../../api/client.ts";

/** What is to be set of every chosen component; what is not named stays. */
export interface ManyChanges extends Omit<ComponentChange, "offers"> {
  /** Where all of it is moved to. */
  place?: string;
  /** Who sells the packs that name nobody yet. */
  supplier?: string;
}

/** Takes everything back that was set at once. */
export type Undo = () => Promise<void>;

/** The components' own changes: what differs from what each is now. */
function changesOf(list: readonly Component[], { place: _place, supplier, ...set }: ManyChanges) {
  return list.flatMap((c) => {
    const offers =
      supplier !== undefined && c.offers.some((o) => o.supplier == null)
        ? { offers: c.offers.map((o) => ({ ...o, supplier: o.supplier ?? supplier })) }
        : {};
    const now: ComponentChange = { ...set, ...offers };
    const names = Object.keys(now) as (keyof ComponentChange)[];
    if (!names.some((name) => (c[name] ?? null) !== (now[name] ?? null))) return [];
    const before = Object.fromEntries(names.map((name) => [name, c[name] ?? null])) as ComponentChange;
    return [{ id: c.id, version: c.version, set: now, before }];
  });
}

/**
 * Sets something of many components, all or none.
 * @throws Refused where one of them changed meanwhile
 */
export async function changeMany(
  list: readonly Component[],
  wanted: ManyChanges,
  person: string | null,
): Promise<{ said: string; undo: Undo }> {
  const undo: Undo[] = [];
  const said: string[] = [];
  const changes = changesOf(list, wanted);
  if (changes.length > 0) {
    await call("changeComponents", {
      body: {
        requestKey: crypto.randomUUID(),
        changes: changes.map(({ id, version, set }) => ({ id, version, set })),
      },
    });
    said.push(`${changes.length.toLocaleString("en")} changed`);
    const back = changes.map(({ id, version, before }) => ({ id, version: version + 1, set: before }));
    undo.push(async () => {
      await call("changeComponents", { body: { requestKey: crypto.randomUUID(), changes: back } });
    });
  }
  if (wanted.place !== undefined) {
    const { entry, moved } = await call("placeComponents", {
      body: { requestKey: crypto.randomUUID(), person, place: wanted.place, components: list.map((c) => c.id) },
    });
    said.push(`${moved.toLocaleString("en")} moved`);
    if (entry !== null) {
      undo.push(async () => {
        await call("reverseEntry", { params: { entry }, body: { requestKey: crypto.randomUUID(), person, note: "" } });
      });
    }
  }
  return {
    said: said.join(", ") || "nothing to change",
    undo: async () => {
      for (const step of undo.reverse()) await step();
    },
  };
}
