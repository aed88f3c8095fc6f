import { useState } from "react";

const KEY = "jar-count/left";

function readAll(): Record<string, unknown> {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? "{}") as Record<string, unknown>;
  } catch {
    return {};
  }
}

/** How something on the page was left (open or shut, say), kept in this browser under a name of its own. */
export function useLeft<T extends boolean | string>(name: string, initial: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => (readAll()[name] as T | undefined) ?? initial);
  const set = (next: T) => {
    setValue(next);
    const { [name]: _gone, ...rest } = readAll();
    try {
      localStorage.setItem(KEY, JSON.stringify(next === initial ? rest : { ...rest, [name]: next }));
    } catch {
      // No room left in this browser's store: it holds until the page is left.
    }
  };
  return [value, set];
}
