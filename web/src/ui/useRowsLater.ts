import { useDeferredValue } from "react";

/** So many rows fill a tall screen. */
const FIRST = 24;

/**
 * A long list for a page that is to show at once: its first rows now, the rest right after the first paint, without
 * holding up what is typed meanwhile. All of it is there then, for printing and for the browser's own search.
 */
export function useRowsLater<T>(list: readonly T[], first = FIRST): readonly T[] {
  const shown = useDeferredValue(list.length, Math.min(first, list.length));
  return shown < list.length ? list.slice(0, shown) : list;
}
