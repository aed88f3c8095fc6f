import { createStore, del, entries, set, type UseStore } from "idb-keyval";
import type { RefusedTap, Tap } from "./queue.ts";

/** Taps of before they were kept here (localStorage): taken over once. */
const OLD = "jar-count/packing";
let store: UseStore | null = null;
const taps = () => (store ??= createStore("jar-count", "taps"));

/** A tap under its own key, so that no tab overwrites another's. @returns false where this browser keeps nothing */
export async function keepTap(tap: Tap | RefusedTap): Promise<boolean> {
  try {
    await set(tap.key, tap, taps());
    return true;
  } catch {
    return false; // no room, or none at all: whoever calls sends it at once
  }
}

export async function dropTap(key: string): Promise<void> {
  try {
    await del(key, taps());
  } catch {
    // Sent again at most, and then it counts once.
  }
}

/** Every tap that is kept in this browser, in the order in which they were made, whichever tab made them. */
export async function keptTaps(): Promise<(Tap | RefusedTap)[]> {
  try {
    await takeOver();
    const found = await entries<string, Tap | RefusedTap>(taps());
    return found.map(([, tap]) => tap).sort((a, b) => a.n - b.n);
  } catch {
    return [];
  }
}

async function takeOver() {
  const text = localStorage.getItem(OLD);
  if (text === null) return;
  const { state } = JSON.parse(text) as { state?: { waiting?: Tap[]; refused?: RefusedTap[] } };
  for (const [i, tap] of [...(state?.waiting ?? []), ...(state?.refused ?? [])].entries()) {
    await set(tap.key, { ...tap, n: Date.parse(tap.at) + i / 1000 }, taps());
  }
  localStorage.removeItem(OLD);
}
