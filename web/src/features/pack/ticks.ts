import { create } from "zustand";
import { persist } from "zustand/middleware";

interface Ticks {
  /** What is ticked, by its own name under the box's. */
  done: Record<string, true>;
  toggle: (key: string) => void;
  clear: (begin: string) => void;
}

/** What lies on the bench or in the bag already: only a help to the eye, kept in this browser. */
export const useTicks = create<Ticks>()(
  persist(
    (set) => ({
      done: {},
      toggle: (key) => set(({ done: { [key]: was, ...rest } }) => ({ done: was ? rest : { ...rest, [key]: true } })),
      clear: (begin) =>
        set(({ done }) => ({
          done: Object.fromEntries(Object.entries(done).filter(([key]) => !key.startsWith(begin))),
        })),
    }),
    { name: "jar-count/packing-ticks" },
  ),
);
