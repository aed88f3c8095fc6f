import { API, type Design, type DesignSummary } from "@jar-count/core/contract";
import { call } from "../../api/client.ts";
import { designQuery, designsQuery, makeStale, queryClient, revisionsQuery } from "../../api/queries.ts";
import { type DraftStore, makeDraft } from "../../draft/index.ts";

/** The draft of a design, begun from what the server had. */
export function draftOf(found: DesignSummary): DraftStore<Design> {
  const { id } = found;
  return makeDraft<Design>({
    name: `design/${id}`,
    doc: found.design,
    version: found.revision,
    send: async ({ requestKey, doc: design, reason, version }) => {
      const body = { requestKey, revision: version, reason, design };
      const saved = await call("saveDesign", { params: { id }, body });
      queryClient.setQueryData(designQuery(id).queryKey, (known) =>
        // One that was never saved before is known from here on.
        ({ ...(known ?? found), ...saved, name: design.name, design }),
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
  });
}
