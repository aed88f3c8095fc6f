import type { LengthUnit } from "@jar-count/core/units";
import { create } from "zustand";
import { persist } from "zustand/middleware";

type Theme = "auto" | "light" | "dark";

interface Settings {
  unit: LengthUnit;
  /** Whether a person chose the unit here; until then it is the one that the workshop measures in. */
  unitChosen: boolean;
  theme: Theme;
  /** Who is at the bench, by id: written beside what moves, until there are accounts. */
  person: string | null;
  setPerson: (person: string | null) => void;
  setUnit: (unit: LengthUnit) => void;
  setTheme: (theme: Theme) => void;
}

/** What this person chose, kept in this browser. */
export const useSettings = create<Settings>()(
  persist(
    (set) => ({
      unit: "in",
      unitChosen: false,
      theme: "auto",
      person: null,
      setPerson: (person) => set({ person }),
      setUnit: (unit) => set({ unit, unitChosen: true }),
      setTheme: (theme) => set({ theme }),
    }),
    { name: "jar-count/settings" },
  ),
);

/** Takes over what the workshop measures in, where nobody chose another unit in this browser. */
export function followUnit(unit: LengthUnit): void {
  const now = useSettings.getState();
  if (!now.unitChosen && now.unit !== unit) useSettings.setState({ unit });
}

/** Shows the page in the theme that was chosen, and keeps to it when the choice or the system's own changes. */
export function followTheme(): void {
  const prefersDark = matchMedia("(prefers-color-scheme: dark)");
  const show = () => {
    const { theme } = useSettings.getState();
    const dark = theme === "dark" || (theme === "auto" && prefersDark.matches);
    document.documentElement.dataset.theme = dark ? "dark" : "light";
  };
  show();
  useSettings.subscribe(show);
  prefersDark.addEventListener("change", show);
}
