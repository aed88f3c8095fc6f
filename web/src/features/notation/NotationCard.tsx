import type { Design } from "@jar-count/core/contract";
import { X } from "lucide-react";
import { useEffect, useMemo, useRef } from "react";
import { Link } from "react-router";
import { IconButton } from "../../ui/controls.tsx";
import { Constructs } from "./Constructs.tsx";
import { examplesOf } from "./examples.ts";
import { LESSONS } from "./lessons.ts";

interface Props {
  design: Pick<Design, "key" | "parts" | "sizes">;
  search: string;
  onSearch: (search: string) => void;
  onPut: (text: string) => void;
  onClose: () => void;
}

/** How rows are written, beside the rows, in the design's own keys. */
export function NotationCard({ design, search, onSearch, onPut, onClose }: Props) {
  const { key, parts, sizes } = design;
  // Drawn anew where the key changes, not with each letter of the rows: of the parts, the keys only.
  const subs = parts.flatMap((p) => p.as ?? []).join(" ");
  const examples = useMemo(() => {
    const parts = subs === "" ? [] : subs.split(" ").map((as) => ({ as }));
    return examplesOf({ key, parts, sizes });
  }, [key, subs, sizes]);
  const field = useRef<HTMLInputElement>(null);
  useEffect(() => field.current?.focus(), []);
  return (
    <section
      aria-label="How rows are written"
      className="flex max-h-[420px] min-w-0 flex-col rounded-md border border-edge bg-paper"
      onKeyDown={(e) => {
        if (e.key !== "Escape") return;
        e.stopPropagation();
        onClose();
      }}
    >
      <div className="flex items-center gap-2 border-b border-rule p-2">
        <input
          ref={field}
          type="search"
          className="field min-w-0 flex-1"
          aria-label="Find in the help"
          placeholder="repeat, earring, crimp …"
          value={search}
          onChange={(e) => onSearch(e.target.value)}
        />
        <IconButton label="Close the card" onClick={onClose}>
          <X size={16} />
        </IconButton>
      </div>
      <div className="min-h-0 flex-1 overflow-y-auto px-3 py-1" tabIndex={0} role="region" aria-label="The notation">
        <Constructs examples={examples} search={search} onPut={onPut} />
        {search.trim() === "" && (
          <div className="border-t border-rule py-2">
            <p className="font-semibold">Learn it by doing</p>
            <ul>
              {LESSONS.map((l) => (
                <li key={l.id}>
                  <Link className="link inline-block py-1" to={`/lessons/${l.id}`}>
                    {l.title}
                  </Link>
                </li>
              ))}
            </ul>
          </div>
        )}
      </div>
    </section>
  );
}
