import type { ErrorBody } from "@jar-count/core/contract";
import { temporal, type TemporalState } from "zundo";
import { createStore, type StoreApi } from "zustand";
import { Refused, Unreachable } from "../api/client.ts";

/**
 * A document being edited: what the server has, what the person made of it, and how saving stands. Every change is kept
 * in this browser until the server has it, so neither a reload nor a lost connection loses a letter.
 */
export interface Draft<T> {
  doc: T;
  /** What the server had when this draft was begun or last saved. */
  base: T;
  /** The version that `base` is; 0 for something never saved. */
  version: number;
  saving: "idle" | "busy" | "away" | "refused";
  /** Somebody saved first: what is there now. */
  theirs: { doc: T; version: number } | null;
  refusal: ErrorBody | null;
  edit: (change: (doc: T) => T, together?: string) => void;
  save: () => Promise<boolean>;
  keepMine: () => Promise<boolean>;
  takeTheirs: () => void;
  /** The server's state was read again: followed at once where nothing was typed. */
  follow: (doc: T, version: number) => void;
}

export type DraftStore<T> = StoreApi<Draft<T>> & {
  temporal: StoreApi<TemporalState<Pick<Draft<T>, "doc">>>;
};

interface DraftOptions<T> {
  /** Unique in this browser: kind and id. */
  name: string;
  doc: T;
  version: number;
  send: (doc: T, version: number) => Promise<{ doc: T; version: number }>;
  /** Reads what a 409 says is there now. */
  readCurrent: (current: unknown) => { doc: T; version: number } | null;
}

const TOGETHER_MS = 900;
const keyOf = (name: string) => `jar-count/draft/${name}`;

/** What was found for a document, kept for as long as it is there: several places ask at every keystroke. */
const compared = new WeakMap<object, { base: unknown; changed: boolean }>();

export function isChanged<T>({ doc, base }: Pick<Draft<T>, "doc" | "base">): boolean {
  if (doc === base) return false;
  const known = compared.get(doc as object);
  if (known?.base === base) return known.changed;
  const changed = JSON.stringify(doc) !== JSON.stringify(base);
  compared.set(doc as object, { base, changed });
  return changed;
}

export function makeDraft<T>({ name, doc, version, send, readCurrent }: DraftOptions<T>): DraftStore<T> {
  const kept = readKept<T>(name);
  const changedElsewhere = kept !== null && kept.version !== version;
  let lastTogether = "";
  let lastAt = 0;

  const store = createStore<Draft<T>>()(
    temporal(
      (set, get) => ({
        doc: kept?.doc ?? doc,
        base: kept && changedElsewhere ? kept.base : doc,
        version: kept && changedElsewhere ? kept.version : version,
        saving: "idle",
        theirs: changedElsewhere ? { doc, version } : null,
        refusal: null,

        edit: (change, together = "") => {
          // Keystrokes in one place, shortly after each other, are undone together.
          const now = Date.now();
          const joins = together !== "" && together === lastTogether && now - lastAt < TOGETHER_MS;
          [lastTogether, lastAt] = [together, now];
          const history = store.temporal.getState();
          if (joins) history.pause();
          set({ doc: change(get().doc), refusal: null });
          if (joins) history.resume();
        },

        save: async () => {
          const { doc: sent, version: from, saving } = get();
          if (saving === "busy") return false;
          set({ saving: "busy" });
          try {
            const saved = await send(sent, from);
            // What was typed while it was being saved stays, as a change to what was saved.
            const untouched = get().doc === sent;
            set({
              ...(untouched ? { doc: saved.doc } : {}),
              base: saved.doc,
              version: saved.version,
              saving: "idle",
              theirs: null,
              refusal: null,
            });
            return true;
          } catch (error) {
            if (error instanceof Refused && error.status === 409) {
              set({ saving: "idle", theirs: readCurrent(error.body.current) });
              if (get().theirs === null) set({ saving: "refused", refusal: error.body });
            } else if (error instanceof Refused) {
              set({ saving: "refused", refusal: error.body });
            } else if (error instanceof Unreachable) {
              set({ saving: "away" });
            } else {
              set({ saving: "idle" });
              throw error;
            }
            return false;
          }
        },
        keepMine: () => {
          const { theirs } = get();
          if (theirs) set({ version: theirs.version, base: theirs.doc, theirs: null });
          return get().save();
        },
        takeTheirs: () => {
          const { theirs } = get();
          if (theirs)
            set({
              doc: theirs.doc,
              base: theirs.doc,
              version: theirs.version,
              theirs: null,
              refusal: null,
              saving: "idle",
            });
        },
        follow: (next, newVersion) => {
          const draft = get();
          if (newVersion <= draft.version || draft.saving === "busy") return;
          if (isChanged(draft)) set({ theirs: { doc: next, version: newVersion } });
          else set({ doc: next, base: next, version: newVersion });
        },
      }),
      {
        partialize: ({ doc }) => ({ doc }),
        equality: (a, b) => a.doc === b.doc,
        limit: 200,
      },
    ),
  ) as DraftStore<T>;
  store.temporal.getState().clear();

  store.subscribe((draft, before) => {
    if (draft.doc === before.doc && draft.base === before.base && draft.version === before.version) return;
    try {
      if (isChanged(draft))
        localStorage.setItem(keyOf(name), JSON.stringify({ doc: draft.doc, base: draft.base, version: draft.version }));
      else localStorage.removeItem(keyOf(name));
    } catch {
      // No room left in this browser's store: the draft lives on in memory.
    }
  });
  return store;
}

function readKept<T>(name: string): { doc: T; base: T; version: number } | null {
  try {
    return JSON.parse(localStorage.getItem(keyOf(name)) ?? "null") as { doc: T; base: T; version: number } | null;
  } catch {
    return null;
  }
}

export interface Difference {
  path: string;
  mine: string;
  theirs: string;
}

/** Where two versions of a document differ, place by place, for a person to compare. */
export function differences(mine: unknown, theirs: unknown, path = "", most = 60): Difference[] {
  if (JSON.stringify(mine) === JSON.stringify(theirs)) return [];
  const isBranch = (x: unknown): x is Record<string, unknown> => typeof x === "object" && x !== null;
  if (isBranch(mine) && isBranch(theirs) && Array.isArray(mine) === Array.isArray(theirs)) {
    const keys = [...new Set([...Object.keys(mine), ...Object.keys(theirs)])];
    return keys
      .flatMap((key) =>
        differences(
          mine[key],
          theirs[key],
          path ? `${path} › ${labelOf(mine, theirs, key)}` : labelOf(mine, theirs, key),
          most,
        ),
      )
      .slice(0, most);
  }
  const say = (x: unknown) => (x === undefined || x === null ? "none" : typeof x === "string" ? x : JSON.stringify(x));
  return [{ path, mine: say(mine), theirs: say(theirs) }];
}

/** A list's member is called by its name or key, not by its number. */
function labelOf(a: object, b: object, key: string): string {
  if (!Array.isArray(a)) return key;
  const item = ((a as unknown[])[Number(key)] ?? (b as unknown[])[Number(key)]) as {
    name?: unknown;
    key?: unknown;
  } | null;
  const label = item && typeof item === "object" ? (item.name ?? item.key) : undefined;
  return typeof label === "string" ? label : `${Number(key) + 1}`;
}
