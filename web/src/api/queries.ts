import type {
  BoxDetail, BoxSummary, Component, ComponentDetail, DesignSummary, RevisionNote, Workshop,
} from "@jar-count/core/contract";
import { QueryClient, queryOptions } from "@tanstack/react-query";
import { call, Unreachable } from "./client.ts";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => error instanceof Unreachable && failures < 3,
      networkMode: "always",
    },
  },
});

/** What is read from the server, each under the key that a change to it makes stale. */
export const workshopQuery = queryOptions({ queryKey: ["workshop"], queryFn: () => call<Workshop>("GET", "/workshop") });
export const boxesQuery = queryOptions({ queryKey: ["boxes"], queryFn: () => call<BoxSummary[]>("GET", "/boxes") });
export const boxQuery = (id: string) =>
  queryOptions({ queryKey: ["box", id], queryFn: () => call<BoxDetail>("GET", `/boxes/${id}`) });
export const designsQuery = queryOptions({ queryKey: ["designs"], queryFn: () => call<DesignSummary[]>("GET", "/designs") });
export const designQuery = (id: string) =>
  queryOptions({ queryKey: ["design", id], queryFn: () => call<DesignSummary>("GET", `/designs/${id}`) });
export const revisionsQuery = (id: string) =>
  queryOptions({ queryKey: ["design", id, "revisions"], queryFn: () => call<RevisionNote[]>("GET", `/designs/${id}/revisions`) });
export const componentsQuery = queryOptions({
  queryKey: ["components"],
  queryFn: () => call<Component[]>("GET", "/components"),
});
export const componentQuery = (id: string) =>
  queryOptions({ queryKey: ["component", id], queryFn: () => call<ComponentDetail>("GET", `/components/${id}`) });

/** Stock or components changed: everything that shows a count or a cost is read again. */
export function stockChanged() {
  return Promise.all(["components", "component", "box", "boxes"].map((key) => queryClient.invalidateQueries({ queryKey: [key] })));
}
