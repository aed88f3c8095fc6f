import type { ErrorBody } from "@jar-count/core/contract";
import { temporal, type TemporalState } from "zundo";
import { createStore, type StoreApi } from "zustand";
import { Refused, Unreachable } from "../api/client.ts";
import { dropKept, type Kept, type Pending, readKept, writeKept } from "./kept.ts";

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
  /** Why it is saved, for what is saved with a reason. */
  reason: string;
  pending: Pending<T> | null;
  saving: "idle" | "busy" | "away" | "refused";
  /** Somebody saved first: what is there now. */
  theirs: { doc: T; version: number } | null;
  refusal: ErrorBody | null;
  /** Changes made under the same `group`, shortly after each other, are undone together. */
  edit: (change: (doc: T) => T, group?: string) => void;
  setReason: (reason: string) => void;
  save: () => Promise<boolean>;
  keepMine: () => Promise<boolean>;
  takeTheirs: () => void;
  /** The server's state was read again: followed at once where nothing was typed. */
  follow: (doc: T, version: number) => void;
}

export type DraftStore<T> = StoreApi<Draft<T>> & {
  temporal: StoreApi<TemporalState<Pick<Draft<T>, "doc">>>;
};

/** What a save is sent with: the document, the one that the server has, and its version. */
export interface Save<T> extends Pending<T> {
  base: T;
  version: number;
}

interface DraftOptions<T> {
  /** Unique in this browser: kind and id. */
  name: string;
  doc: T;
  version: number;
  /** Fields that drafts do not have which this browser kept before there were such fields. */
  newer?: Partial<T>;
  /** Returns the version that it became. */
  send: (save: Save<T>) => Promise<number>;
  /** Reads what a refusal says is there now. */
  readCurrent: (current: unknown) => { doc: T; version: number } | null;
}

/** Keystrokes this close to each other are undone together, ms. */
const GROUP_MS = 900;

/** Whether a document differs from what the server has. */
export const isChanged = <T>({ doc, base }: Pick<Draft<T>, "doc" | "base">): boolean => !isSame(doc, base);

/**
 * Whether two values hold the same, as files would: a field that is undefined is one that is not there. What was not
 * changed is the same object, so only what leads to a change is gone through, however large the document.
 */
function isSame(a: unknown, b: unknown): boolean {
  if (Object.is(a, b)) return true;
  if (typeof a !== "object" || typeof b !== "object" || a === null || b === null) return false;
  if (Array.isArray(a) !== Array.isArray(b)) return false;
  const [mine, theirs] = [a as Record<string, unknown>, b as Record<string, unknown>];
  for (const key in mine) if (!isSame(mine[key], theirs[key])) return false;
  for (const key in theirs) if (theirs[key] !== undefined && mine[key] === undefined) return false;
  return true;
}

/** What a state of the server is in the browser's store; it stays the same over many changes of the draft. */
const written = new WeakMap<object, string>();
function textOf(base: object): string {
  let text = written.get(base);
  if (text === undefined) written.set(base, (text = JSON.stringify(base)));
  return text;
}

/** What a draft begins with: what this browser kept of it, if anything, beside what the server has. */
function beginning<T>({ name, doc, version, newer }: DraftOptions<T>): Kept<T> & Pick<Draft<T>, "theirs"> {
  const found = readKept<T>(name);
  const kept = found && { ...found, doc: { ...newer, ...found.doc }, base: { ...newer, ...found.base } };
  if (!kept) return { doc, base: doc, version, theirs: null };
  const pending = kept.pending ?? null;
  if (kept.version === version) return { doc: kept.doc, base: doc, version, pending, theirs: null };
  // Where a save had no answer, it may be this one's own that made the newer version: it is asked first.
  return { ...kept, pending, theirs: pending ? null : { doc, version } };
}

export function makeDraft<T extends object>(options: DraftOptions<T>): DraftStore<T> {
  const { name, send, readCurrent } = options;
  const begun = beginning(options);
  let lastGroup = "";
  let lastAt = 0;

  const store = createStore<Draft<T>>()(
    temporal(
      (set, get) => ({
        ...begun,
        reason: "",
        pending: begun.pending ?? null,
        saving: "idle",
        refusal: null,

        edit: (change, group = "") => {
          const now = Date.now();
          const joins = group !== "" && group === lastGroup && now - lastAt < GROUP_MS;
          [lastGroup, lastAt] = [group, now];
          const history = store.temporal.getState();
          if (joins) history.pause();
          const { saving } = get();
          // What was refused is tried again once it was mended.
          set({ doc: change(get().doc), refusal: null, ...(saving === "refused" ? { saving: "idle" } : {}) });
          if (joins) history.resume();
        },
        setReason: (reason) => set({ reason }),

        save: async () => {
          const { doc, base, version, reason, saving } = get();
          if (saving === "busy") return false;
          const again = get().pending;
          const pending = again ?? { requestKey: crypto.randomUUID(), doc, reason };
          set({ saving: "busy", pending });
          try {
            const newVersion = await send({ ...pending, base, version });
            // What was typed while it was being saved stays, as a change to what was saved.
            set({
              base: pending.doc,
              version: newVersion,
              pending: null,
              saving: "idle",
              theirs: null,
              refusal: null,
              ...(get().reason === pending.reason ? { reason: "" } : {}),
            });
          } catch (error) {
            set(afterFault(error));
            if (!(error instanceof Refused) && !(error instanceof Unreachable)) throw error;
            return false;
          }
          // What went before got its answer; what was typed since is sent now.
          return again && isChanged(get()) ? get().save() : true;

          function afterFault(error: unknown): Partial<Draft<T>> {
            if (error instanceof Unreachable) return { saving: "away" };
            if (!(error instanceof Refused)) return { saving: "idle", pending: null };
            const theirs = error.code === "stale" ? readCurrent(error.body.current) : null;
            if (theirs) return { saving: "idle", pending: null, theirs };
            return { saving: "refused", pending: null, refusal: error.body };
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
          // The newer version may be our own save whose answer was lost: that is asked first.
          if (draft.pending) void draft.save();
          else if (isChanged(draft)) set({ theirs: { doc: next, version: newVersion } });
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
    const { doc, base, version, pending } = draft;
    if (doc === before.doc && base === before.base && version === before.version && pending === before.pending) return;
    try {
      if (pending || isChanged(draft))
        writeKept(
          name,
          `{"doc":${JSON.stringify(doc)},"base":${textOf(base)},"version":${version},` +
            `"pending":${JSON.stringify(pending)}}`,
        );
      else dropKept(name);
    } catch {
      // No room left in this browser's store: the draft lives on in memory.
    }
  });
  if (begun.pending) queueMicrotask(() => void store.getState().save());
  return store;
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
