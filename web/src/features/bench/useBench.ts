import { API, type Design, type DesignSummary, type Part } from "@jar-count/core/contract";
import { useEffect, useState } from "react";
import { call } from "../../api/client.ts";
import { designQuery, designsQuery, makeStale, queryClient, revisionsQuery } from "../../api/queries.ts";
import { type DraftStore, makeDraft } from "../../draft/index.ts";

export type DesignDraft = DraftStore<Design>;

/** The draft of a design, begun from what the server had; a newer revision read later is followed or reported. */
export function useDesignDraft(found: DesignSummary): DesignDraft {
  const { id } = found;
  // Made once: the page is keyed by the design's id, and later states of the same design are followed below.
  const [store] = useState(() =>
    makeDraft<Design>({
      name: `design/${id}`,
      doc: found.design,
      version: found.revision,
      send: async ({ requestKey, doc: design, reason, version }) => {
        const body = { requestKey, revision: version, reason, design };
        const saved = await call("saveDesign", { params: { id }, body });
        queryClient.setQueryData(designQuery(id).queryKey, (known) =>
          known ? { ...known, ...saved, name: design.name, design } : known,
        );
        void queryClient.invalidateQueries({ queryKey: designsQuery.queryKey, exact: true });
        void queryClient.invalidateQueries({ queryKey: revisionsQuery(id).queryKey });
        void makeStale("boxes");
        return saved.revision;
      },
      readCurrent: (current) => {
        const now = API.saveDesign.current.safeParse(current);
        return now.success ? { doc: now.data.design, version: now.data.revision } : null;
      },
    }),
  );
  useEffect(() => store.getState().follow(found.design, found.revision), [store, found]);
  return store;
}

const LETTERS = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwyz";

/** The first letter that is no key yet; A1, A2 … when all are taken. */
export function freeKey(taken: ReadonlySet<string>): string {
  for (const letter of LETTERS) if (!taken.has(letter)) return letter;
  for (let n = 1; ; n++) if (!taken.has(`A${n}`)) return `A${n}`;
}

export const keysOf = (design: Design) =>
  new Set([...design.key.map((e) => e.key), ...design.parts.flatMap((p) => (p.as ? [p.as] : []))]);

/** Whether two states of a design differ in nothing but the rows of its parts, which is what typing changes. */
export function sameButRows(a: Design, b: Design): boolean {
  return (
    a.key === b.key &&
    a.sizes === b.sizes &&
    a.options === b.options &&
    a.uses === b.uses &&
    a.about === b.about &&
    a.minutes === b.minutes &&
    a.parts.length === b.parts.length &&
    a.parts.every((p, i) => sameButSteps(p, b.parts[i]!))
  );
}

export function sameButSteps(a: Part, b: Part): boolean {
  if (a === b) return true;
  const fields = new Set([...Object.keys(a), ...Object.keys(b)]) as Set<keyof Part>;
  return [...fields].every((field) => field === "steps" || a[field] === b[field]);
}
