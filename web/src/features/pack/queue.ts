import type { ErrorBody, Packing, TellPacking } from "@jar-count/core/contract";
import { create } from "zustand";
import { persist } from "zustand/middleware";
import { call, Refused } from "../../api/client.ts";
import { packingQuery, queryClient } from "../../api/queries.ts";

/** `Omit` that keeps the members of a union apart. */
type Without<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;

/** What a tap means: a box packed or taken out again, something told, a piece cut, or something taken back. */
export type Meant =
  | { does: "pack"; variant: string; no: number; packed: boolean }
  | { does: "tell"; told: Without<TellPacking, "requestKey" | "person" | "at"> }
  | {
      does: "cut";
      component: string;
      place: string;
      lot: string;
      fromMm: number;
      cuts: { mm: number; count: number }[];
    }
  | { does: "undo"; entry: string };

/** A tap that is not known to be written down yet. Its key stays the same: however often it is sent, it counts once. */
export interface Tap {
  key: string;
  box: string;
  person: string | null;
  at: string;
  meant: Meant;
}

/** A tap that was refused: it waits for a person. */
export interface RefusedTap extends Tap {
  refusal: ErrorBody;
}

interface Queue {
  waiting: Tap[];
  refused: RefusedTap[];
  /** Whether the last one got no answer. */
  away: boolean;
  /** The last thing told that was written down, to be taken back by the next tap. */
  last: { box: string; entry: string; words: string } | null;
  tap: (box: string, person: string | null, meant: Meant) => void;
  /** Leaves a tap that was refused. */
  leave: (key: string) => void;
  again: (key: string) => void;
}

/** Taps in the order in which they were made, kept in this browser until the server has them. */
export const useQueue = create<Queue>()(
  persist(
    (set, get) => ({
      waiting: [],
      refused: [],
      away: false,
      last: null,
      tap: (box, person, meant) => {
        const tap: Tap = { key: crypto.randomUUID(), box, person, at: new Date().toISOString(), meant };
        // A box packed and taken out again before it was sent was never packed.
        const undone = get().waiting.findIndex((t, i) => i > 0 && undoes(tap, t));
        if (undone > 0) set((q) => ({ waiting: q.waiting.filter((_, i) => i !== undone) }));
        else set((q) => ({ waiting: [...q.waiting, tap] }));
        void sendAll();
      },
      leave: (key) => set((q) => ({ refused: q.refused.filter((t) => t.key !== key) })),
      again: (key) => {
        const found = get().refused.find((t) => t.key === key);
        if (!found) return;
        const { refusal: _refusal, ...tap } = found;
        // Refused, so it never happened: it may go with a new key.
        set((q) => ({
          refused: q.refused.filter((t) => t.key !== key),
          waiting: [...q.waiting, { ...tap, key: crypto.randomUUID() }],
        }));
        void sendAll();
      },
    }),
    {
      name: "jar-count/packing",
      partialize: ({ waiting, refused }) => ({ waiting, refused }),
    },
  ),
);

/** Whether a tap takes back one that waits; the first one may be on its way already, so it is never taken out. */
const undoes = ({ box, meant }: Tap, before: Tap) =>
  meant.does === "pack" &&
  before.meant.does === "pack" &&
  box === before.box &&
  meant.variant === before.meant.variant &&
  meant.no === before.meant.no &&
  meant.packed !== before.meant.packed;

const RETRY_MS = 2000;
let sending = false;
let again: ReturnType<typeof setTimeout> | null = null;

/** Sends what waits, one after the other; what gets no answer is tried again until it does. */
export async function sendAll(): Promise<void> {
  if (sending) return;
  sending = true;
  if (again) clearTimeout(again);
  const touched = new Set<string>();
  try {
    for (let tap = useQueue.getState().waiting[0]; tap; tap = useQueue.getState().waiting[0]) {
      const { key, box } = tap;
      try {
        const entry = await send(tap);
        useQueue.setState((q) => ({
          away: false,
          waiting: q.waiting.filter((t) => t.key !== key),
          last: entry === null ? q.last : { box, entry, words: wordsOf(tap.meant) },
        }));
        touched.add(box);
      } catch (error) {
        if (!(error instanceof Refused)) {
          useQueue.setState({ away: true });
          again = setTimeout(() => void sendAll(), RETRY_MS);
          return;
        }
        const refusal = error.body;
        useQueue.setState((q) => ({
          away: false,
          waiting: q.waiting.filter((t) => t.key !== key),
          refused: [...q.refused, { ...tap, refusal }],
        }));
        touched.add(box);
      }
    }
  } finally {
    sending = false;
    for (const box of touched) void queryClient.invalidateQueries({ queryKey: packingQuery(box).queryKey });
  }
}
addEventListener("online", () => void sendAll());

/** Sends one tap. @returns the entry it made, where that can be taken back */
async function send({ key: requestKey, box: id, person, at, meant }: Tap): Promise<string | null> {
  const by = { requestKey, person, at };
  switch (meant.does) {
    case "pack": {
      const { variant, no, packed } = meant;
      await call("setPacked", { params: { id }, body: { ...by, variant, no, packed } });
      return null;
    }
    case "tell":
      return (await call("tellPacking", { params: { id }, body: { ...by, ...meant.told } as TellPacking })).entry;
    case "cut": {
      const { does: _does, ...cut } = meant;
      return (await call("cutPiece", { params: { id }, body: { ...by, ...cut } })).entry;
    }
    case "undo":
      await call("takeBackTold", { params: { id, entry: meant.entry }, body: { requestKey, person } });
      useQueue.setState({ last: null });
      return null;
  }
}

function wordsOf(meant: Meant): string {
  if (meant.does === "cut") return "Cut";
  if (meant.does !== "tell") return "";
  return { broken: "Broken", lost: "Lost", swapped: "Swapped", counted: "Counted" }[meant.told.kind];
}

/** What is packed by the server's word and the taps that still wait, as one list. */
export function packedNow(packing: Packing, waiting: readonly Tap[]): Packing["packed"] {
  let packed = packing.packed;
  for (const { box, at, meant } of waiting) {
    if (box !== packing.box || meant.does !== "pack") continue;
    const { variant, no } = meant;
    packed = packed.filter((p) => p.variant !== variant || p.no !== no);
    if (meant.packed) packed = [...packed, { variant, no, at, person: null }];
  }
  return packed;
}
