import { useBox } from "./boxStore.ts";

interface Props {
  /** The colourway looked at; null for all of them. */
  value: string | null;
  /** Whether all of them can be looked at together. */
  all?: boolean;
  onChange: (id: string | null) => void;
}

/** Which colourway is looked at: one, or where it makes sense all. */
export function ColourwaySwitch({ value, all, onChange }: Props) {
  const colourways = useBox(({ box }) => box.colourways);
  const choices = [...(all ? [{ id: null, name: "All colourways" }] : []), ...colourways];
  return (
    <div role="group" aria-label="Colourway" className="flex flex-wrap gap-1">
      {choices.map((w) => (
        <button
          key={w.id}
          type="button"
          aria-pressed={w.id === value}
          onClick={() => onChange(w.id)}
          title={w.name}
          className={`h-8 max-w-44 truncate rounded-md px-2.5 ${
            w.id === value ? "bg-ink font-semibold text-paper" : "hover:bg-hush"
          }`}
        >
          {w.name}
        </button>
      ))}
    </div>
  );
}
