import { type Bill, billOf, layTray } from "@jar-count/core/bom";
import type { Box, BoxDetail, BoxInput, Component, DesignSummary, PinnedDesign } from "@jar-count/core/contract";
import { type BoxCost, costOf } from "@jar-count/core/cost";
import { useEffect, useMemo, useState } from "react";
import { useStore } from "zustand";
import { call } from "../../api/client.ts";
import { boxQuery, queryClient } from "../../api/queries.ts";
import { type DraftStore, isChanged, makeDraft } from "../../app/draft.ts";

export type BoxDraft = DraftStore<BoxInput>;

/** All that the stages of a box work with. */
export interface BoxWork {
  id: string;
  store: BoxDraft;
  box: Box;
  edit: (change: (box: BoxInput) => BoxInput, together?: string) => void;
  designs: readonly PinnedDesign[];
  library: readonly DesignSummary[];
  components: readonly Component[];
  detail: BoxDetail;
  bill: Bill;
  cost: BoxCost;
}

const withoutId = ({ id: _id, version: _version, ...box }: Box): BoxInput => box;
const SAVE_AFTER_MS = 500;
const RETRY_MS = 4000;

/** A box's draft. Every change is saved by itself, a moment after the last one. */
export function useBoxWork(
  found: BoxDetail,
  library: readonly DesignSummary[],
  components: readonly Component[],
): BoxWork {
  const { id } = found.box;
  // Made once: the page is keyed by the box's id, and later states of the same box are followed below.
  const [store] = useState(() =>
    makeDraft<BoxInput>({
      name: `box/${id}`,
      doc: withoutId(found.box),
      version: found.box.version,
      send: async (box, version) => {
        const saved = await call<BoxDetail>("PUT", `/boxes/${id}`, { version, box });
        queryClient.setQueryData(boxQuery(id).queryKey, saved);
        void queryClient.invalidateQueries({ queryKey: ["boxes"] });
        return { doc: withoutId(saved.box), version: saved.box.version };
      },
      readCurrent: (current) => {
        const now = current as BoxDetail | undefined;
        return now ? { doc: withoutId(now.box), version: now.box.version } : null;
      },
    }),
  );
  useEffect(() => store.getState().follow(withoutId(found.box), found.box.version), [store, found]);

  const { doc, saving, theirs, version } = useStore(store);
  const changed = useStore(store, isChanged);
  useEffect(() => {
    if (!changed || theirs || saving === "busy" || saving === "refused") return;
    const timer = setTimeout(() => void store.getState().save(), saving === "away" ? RETRY_MS : SAVE_AFTER_MS);
    return () => clearTimeout(timer);
  }, [store, doc, changed, saving, theirs]);

  const designs = useMemo(() => {
    const newest = library.map((d): PinnedDesign => ({
      designId: d.id,
      revision: d.revision,
      newest: d.revision,
      design: d.design,
    }));
    const older = found.designs
      .filter((p) => !newest.some((d) => d.designId === p.designId && d.revision === p.revision))
      .map((p) => ({ ...p, newest: newest.find((d) => d.designId === p.designId)?.newest ?? p.newest }));
    return [...newest, ...older];
  }, [library, found.designs]);

  const box = useMemo(() => ({ ...doc, id, version }), [doc, id, version]);
  const bill = useMemo(
    () => billOf({ box, designs: [...designs], components: [...components] }),
    [box, designs, components],
  );
  const cost = useMemo(() => costOf(bill), [bill]);
  const edit: BoxWork["edit"] = (change, together) =>
    store.getState().edit((before) => {
      const after = change(before);
      return after.lines === before.lines ? after : layTray(after, designs, () => crypto.randomUUID());
    }, together);
  const detail = useMemo(
    () => ({ box, designs: [...designs], components: [...components] }),
    [box, designs, components],
  );
  return { id, store, box, edit, designs, library, components, detail, bill, cost };
}
