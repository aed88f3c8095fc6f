import { create } from "zustand";
import { persist } from "zustand/middleware";

interface ByHand {
  /** By component: packs by offer, in place of what costs least. */
  packs: Record<string, Record<string, number>>;
  set: (component: string, packs: Record<string, number>) => void;
  /** Back to what costs least: of some components, or all. */
  reset: (components?: readonly string[]) => void;
}

/** What was set by hand on the buy list, kept in this browser until it is ordered or taken back. */
export const useByHand = create<ByHand>()(
  persist(
    (set) => ({
      packs: {},
      set: (component, packs) => set((s) => ({ packs: { ...s.packs, [component]: packs } })),
      reset: (components) =>
        set((s) => ({
          packs: components
            ? Object.fromEntries(Object.entries(s.packs).filter(([id]) => !components.includes(id)))
            : {},
        })),
    }),
    { name: "jar-count/buy" },
  ),
);
