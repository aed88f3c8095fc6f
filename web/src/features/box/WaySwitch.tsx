import type { Box } from "@jar-count/core/contract";

/** Which colourway is looked at: one, or where it makes sense all. */
export function WaySwitch({
  box,
  value,
  all,
  onChange,
}: {
  box: Box;
  value: string;
  all?: boolean;
  onChange: (id: string) => void;
}) {
  const ways = [...(all ? [{ id: "all", name: "All colourways" }] : []), ...box.colourways];
  return (
    <div role="group" aria-label="Colourway" className="flex flex-wrap gap-1">
      {ways.map((w) => (
        <button
          key={w.id}
          type="button"
          aria-pressed={w.id === value}
          onClick={() => onChange(w.id)}
          title={w.name}
          className={`h-8 max-w-44 truncate rounded-md px-2.5 ${w.id === value ? "bg-ink font-semibold text-paper" : "hover:bg-hush"}`}
        >
          {w.name}
        </button>
      ))}
    </div>
  );
}
