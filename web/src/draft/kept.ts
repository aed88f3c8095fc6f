/**
 * Where drafts are kept in this browser. A draft belongs to the page (tab) that it is typed in: what another page saves
 * or throws away leaves it alone. When its page is gone, it is taken up by the next page that opens what it is of.
 */

/** A save on its way, or sent without an answer: sent again exactly so, it happens once. */
export interface Pending<T> {
  requestKey: string;
  doc: T;
  reason: string;
}

export interface Kept<T> {
  doc: T;
  base: T;
  version: number;
  pending?: Pending<T> | null;
}

const PREFIX = "jar-count/draft/";
const ALIVE = "jar-count/page/";
/** The page that this one was before it was loaded anew: its drafts come first. */
const BEFORE = "jar-count/page-before";
/** So often a page says that it is there; one that was silent for so long is gone (browsers slow hidden ones), ms. */
const SAY_MS = 20_000;
const GONE_MS = 150_000;

let page: string = crypto.randomUUID();
const keyOf = (name: string, of = page) => `${PREFIX}${name}#${of}`;

/** Every key of this browser's store. */
function* keys(): Iterable<string> {
  const many = localStorage.length;
  const all = Array.from({ length: many }, (_, i) => localStorage.key(i));
  for (const key of all) if (key !== null) yield key;
}

/** Drafts of before they belonged to pages have no page in their key: nobody's, and to be taken up. */
function split(key: string): { name: string; of: string | null } {
  const [name, of] = key.slice(PREFIX.length).split("#") as [string, string?];
  return { name, of: of ?? null };
}

function isGone(of: string | null): boolean {
  if (of === page) return false;
  const said = of === null ? null : localStorage.getItem(ALIVE + of);
  return said === null || !(Date.now() - Number(said) < GONE_MS);
}

/** Says that this page is there, and when it leaves. Called once for each page. */
export function watchPage(): void {
  const here = () => {
    try {
      localStorage.setItem(ALIVE + page, String(Date.now()));
    } catch {
      // No room: then nothing is kept either.
    }
  };
  here();
  setInterval(here, SAY_MS);
  addEventListener("pagehide", () => {
    localStorage.removeItem(ALIVE + page);
    try {
      sessionStorage.setItem(BEFORE, page);
    } catch {
      // Then another draft of the same may come first; none is lost.
    }
  });
  addEventListener("pageshow", here);
  for (const key of keys()) if (key.startsWith(ALIVE) && isGone(key.slice(ALIVE.length))) localStorage.removeItem(key);
}

function parse<T>(key: string): Kept<T> | null {
  try {
    return JSON.parse(localStorage.getItem(key) ?? "null") as Kept<T> | null;
  } catch {
    return null;
  }
}

/** Keys of drafts of something that this page may have: its own, then those whose page is gone. */
function keysFor(name: string): string[] {
  const before = typeof sessionStorage === "undefined" ? null : sessionStorage.getItem(BEFORE);
  const rank = (key: string) => {
    const { of } = split(key);
    return of === page ? 0 : of !== null && of === before ? 1 : 2;
  };
  return [...keys()]
    .filter((key) => key.startsWith(PREFIX) && split(key).name === name)
    .filter((key) => split(key).of === page || isGone(split(key).of))
    .sort((a, b) => rank(a) - rank(b));
}

/** What this browser keeps of something: this page's own draft, or one whose page is gone, which is its own now. */
export function readKept<T>(name: string): Kept<T> | null {
  for (const key of keysFor(name)) {
    const found = parse<T>(key);
    if (!found) continue;
    if (key !== keyOf(name)) {
      // Taken away first: there may be no room for both.
      const text = localStorage.getItem(key)!;
      localStorage.removeItem(key);
      localStorage.setItem(keyOf(name), text);
    }
    return found;
  }
  return null;
}

/** @throws where this browser has no room */
export const writeKept = (name: string, text: string) => localStorage.setItem(keyOf(name), text);
export const dropKept = (name: string) => localStorage.removeItem(keyOf(name));

/** A draft that this browser keeps of something, with the id of what it is of. */
export interface KeptDraft<T> {
  id: string;
  doc: T;
  /** 0 for what was never saved. */
  version: number;
}

/** What this browser keeps unsaved of a kind, such as `design`, in this page or in one that is gone. */
export function keptDrafts<T>(kind: string): KeptDraft<T>[] {
  const begin = `${PREFIX}${kind}/`;
  const names = new Set([...keys()].filter((key) => key.startsWith(begin)).map((key) => split(key).name));
  return [...names].flatMap((name) => {
    const kept = keysFor(name)
      .map((key) => parse<T>(key))
      .find((found) => found !== null);
    return kept ? [{ id: name.slice(kind.length + 1), doc: kept.doc, version: kept.version }] : [];
  });
}

/** Throws away what is kept unsaved of a document, but for what another page is at. */
export function throwAway(name: string): void {
  for (const key of keysFor(name)) localStorage.removeItem(key);
}

/** Begins a document that was never saved with something in it: it is there when its page opens. */
export const keepDraft = <T>(name: string, doc: T, base: T) =>
  writeKept(name, JSON.stringify({ doc, base, version: 0, pending: null }));

/** For tests: the page is loaded anew, or another one is opened beside it. */
export const turnInto = (other: string) => void (page = other);
