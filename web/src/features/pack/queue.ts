import type { ErrorBody, Packing, TellPacking } from "@jar-count/core/contract";
import { create } from "zustand";
import { call, Refused } from "../../api/client.ts";
import { packingQuery, queryClient } from "../../api/queries.ts";
import { dropTap, keepTap, keptTaps } from "./taps.ts";

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
  /** In which order taps were made, in whichever tab: milliseconds since 1970, and parts of them. */
  n: number;
  meant: Meant;
}

/** A tap that was refused: it waits for a person. */
export interface RefusedTap extends Tap {
  refusal: ErrorBody;
}

interface Queue {
  /** Whether it is known by now what this browser keeps. */
  looked: boolean;
  waiting: Tap[];
  refused: RefusedTap[];
  /** Whether the last one got no answer. */
  away: boolean;
  /** Taps that this browser could not keep: they are lost if this tab is closed before they are sent. */
  unkept: ReadonlySet<string>;
  /** The last thing told that was written down, to be taken back by the next tap. */
  last: { box: string; entry: string; words: string } | null;
  tap: (box: string, person: string | null, meant: Meant) => void;
  /** Leaves a tap that was refused. */
  leave: (key: string) => void;
  again: (key: string) => void;
}

const newTap = (box: string, person: string | null, meant: Meant): Tap => ({
  ...{ key: crypto.randomUUID(), box, person, meant },
  at: new Date().toISOString(),
  n: performance.timeOrigin + performance.now(),
});

/** Taps in the order in which they were made, kept in this browser until the server has them, for all of its tabs. */
export const useQueue = create<Queue>()((_set, get) => ({
  looked: false,
  waiting: [],
  refused: [],
  away: false,
  unkept: new Set(),
  last: null,
  tap: (box, person, meant) => void put(newTap(box, person, meant)),
  leave: (key) => void forget(key),
  again: (key) => {
    const found = get().refused.find((t) => t.key === key);
    if (!found) return;
    // Refused, so it never happened: it may go with a new key.
    void forget(key);
    void put(newTap(found.box, found.person, found.meant));
  },
}));

/** Tells the other tabs of this browser that taps changed: which box they are of, and what was written down last. */
const channel = typeof BroadcastChannel === "undefined" ? null : new BroadcastChannel("jar-count/packing");
interface News {
  boxes: string[];
  /** Where it changed. */
  last?: Queue["last"];
}
function tell(news: News) {
  channel?.postMessage(news);
}
channel?.addEventListener("message", ({ data }: MessageEvent<News>) => {
  if (data.last !== undefined) useQueue.setState({ last: data.last });
  void look();
  for (const box of data.boxes) void queryClient.invalidateQueries({ queryKey: packingQuery(box).queryKey });
});

const byOrder = <T extends Tap>(list: readonly T[]) => [...list].sort((a, b) => a.n - b.n);

/** Taps that are over, by their keys: where the browser can't drop one, it is not sent again and again. */
const over = new Set<string>();

/** Shows what is kept, with what could not be. */
async function look(): Promise<void> {
  const kept = (await keptTaps()).filter((t) => !over.has(t.key));
  const { waiting, refused, unkept } = useQueue.getState();
  const here = (list: readonly Tap[]) => list.filter((t) => unkept.has(t.key));
  const isRefused = (t: Tap | RefusedTap): t is RefusedTap => "refusal" in t;
  useQueue.setState({
    looked: true,
    waiting: byOrder([...kept.filter((t) => !isRefused(t)), ...here(waiting)]),
    refused: byOrder([...kept.filter(isRefused), ...(here(refused) as RefusedTap[])]),
  });
}

/** Shown at once, kept, and sent; where it can't be kept, it is sent all the same. */
async function put(tap: Tap): Promise<void> {
  // Counts as not kept until it is: so no other tab's news takes it off the screen meanwhile.
  useQueue.setState((q) => ({ waiting: byOrder([...q.waiting, tap]), unkept: new Set([...q.unkept, tap.key]) }));
  if (await keepTap(tap)) keptNow(tap.key);
  tell({ boxes: [] });
  await sendAll();
}

const keptNow = (key: string) =>
  useQueue.setState((q) => ({ unkept: new Set([...q.unkept].filter((k) => k !== key)) }));

async function forget(key: string): Promise<void> {
  over.add(key);
  useQueue.setState((q) => ({
    waiting: q.waiting.filter((t) => t.key !== key),
    refused: q.refused.filter((t) => t.key !== key),
  }));
  keptNow(key);
  await dropTap(key);
  tell({ boxes: [] });
}

const RETRY_MS = 2000;
const LOCK = "jar-count/packing";
let sending: Promise<void> | null = null;
let asked = false;
let again: ReturnType<typeof setTimeout> | null = null;

/** Sends what waits, one after the other and by one tab at a time; what gets no answer is tried again until it does. */
export function sendAll(): Promise<void> {
  if (again) clearTimeout(again);
  again = null;
  asked = true;
  sending ??= (async () => {
    try {
      while (asked) {
        asked = false;
        // Where a browser has no such locks (without https), a tap that two tabs send counts once by its key.
        const locks = (navigator as { locks?: LockManager }).locks;
        if (locks) await locks.request(LOCK, sendWaiting);
        else await sendWaiting();
      }
    } finally {
      sending = null;
    }
  })();
  return sending;
}

async function sendWaiting(): Promise<void> {
  const touched = new Set<string>();
  const news: News = { boxes: [] };
  try {
    // Looked at anew each time: other tabs' taps stand among them, in the order in which they were made.
    for (;;) {
      await look();
      const tap = useQueue.getState().waiting[0];
      if (!tap) return;
      try {
        const entry = await send(tap);
        if (entry !== null) news.last = { box: tap.box, entry, words: wordsOf(tap.meant) };
        else if (tap.meant.does === "undo") news.last = null;
        useQueue.setState({ away: false, ...(news.last === undefined ? {} : { last: news.last }) });
        await forget(tap.key);
      } catch (error) {
        if (!(error instanceof Refused)) {
          useQueue.setState({ away: true });
          again = setTimeout(() => void sendAll(), RETRY_MS);
          return;
        }
        await refuse({ ...tap, refusal: error.body });
      }
      touched.add(tap.box);
    }
  } finally {
    tell({ ...news, boxes: [...touched] });
    for (const box of touched) void queryClient.invalidateQueries({ queryKey: packingQuery(box).queryKey });
  }
}

async function refuse(tap: RefusedTap): Promise<void> {
  useQueue.setState((q) => ({
    away: false,
    waiting: q.waiting.filter((t) => t.key !== tap.key),
    refused: byOrder([...q.refused, tap]),
    unkept: new Set([...q.unkept, tap.key]),
  }));
  if (await keepTap(tap)) keptNow(tap.key);
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
