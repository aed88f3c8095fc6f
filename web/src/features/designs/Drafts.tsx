import type { Design, DesignSummary } from "@jar-count/core/contract";
import { useState } from "react";
import { Link } from "react-router";
import { keptDrafts, throwAway } from "../../draft/index.ts";
import { Button } from "../../ui/controls.tsx";

/** What was begun here and is not saved: new designs, and changes to saved ones. */
export function Drafts({ known }: { known: readonly DesignSummary[] }) {
  const [drafts, setDrafts] = useState(() => keptDrafts<Design>("design"));
  const shown = drafts.filter((d) => !d.id.startsWith("lesson-") && d.doc?.parts);
  if (shown.length === 0) return null;
  const isKnown = (id: string) => known.some((d) => d.id === id);
  const discard = (id: string) => {
    throwAway(`design/${id}`);
    setDrafts(keptDrafts<Design>("design"));
  };
  return (
    <section aria-label="Drafts" className="mx-6 mb-4 rounded-md bg-hush px-4 py-3">
      <h2>Not saved yet</h2>
      <ul>
        {shown.map((d) => (
          <li key={d.id} className="flex flex-wrap items-center gap-x-3 py-0.5">
            <Link
              className="link min-w-0 font-medium [overflow-wrap:anywhere]"
              to={`/designs/${d.id}${isKnown(d.id) ? "" : "?new"}`}
            >
              {d.doc.name}
            </Link>
            <span className="text-muted">
              draft: {isKnown(d.id) ? "changes that are only in this browser" : "a new design, only in this browser"}
            </span>
            <Button
              look="quiet"
              className="ml-auto h-8 text-short!"
              aria-label={`Throw the draft of ${d.doc.name} away`}
              onClick={() => discard(d.id)}
            >
              Throw away
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
