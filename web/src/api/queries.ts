import type {
  BoxDetail,
  BoxSummary,
  Component,
  ComponentDetail,
  ComponentList,
  DesignSummary,
  Order,
  RevisionNote,
  Rooms,
  ShelfJar,
  Stocktake,
  Workshop,
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
export const workshopQuery = queryOptions({
  queryKey: ["workshop"],
  queryFn: () => call<Workshop>("GET", "/workshop"),
});
export const boxesQuery = queryOptions({ queryKey: ["boxes"], queryFn: () => call<BoxSummary[]>("GET", "/boxes") });
export const boxQuery = (id: string) =>
  queryOptions({ queryKey: ["box", id], queryFn: () => call<BoxDetail>("GET", `/boxes/${id}`) });
export const designsQuery = queryOptions({
  queryKey: ["designs"],
  queryFn: () => call<DesignSummary[]>("GET", "/designs"),
});
export const designQuery = (id: string) =>
  queryOptions({
    queryKey: ["design", id],
    queryFn: () => call<DesignSummary>("GET", `/designs/${id}`),
    // The list of designs holds it already: it opens at once, and is read again where the list is not fresh.
    initialData: () => queryClient.getQueryData<DesignSummary[]>(["designs"])?.find((d) => d.id === id),
    initialDataUpdatedAt: () => queryClient.getQueryState(["designs"])?.dataUpdatedAt,
  });
export const revisionsQuery = (id: string) =>
  queryOptions({
    queryKey: ["design", id, "revisions"],
    queryFn: () => call<RevisionNote[]>("GET", `/designs/${id}/revisions`),
  });
let listed: ComponentList | null = null;

/** Every component. Once they are here, only those that changed since are asked for. */
export const componentsQuery = queryOptions({
  queryKey: ["components"],
  // What did not change stays the same object already: comparing thousands of them deeply would hold the page up.
  structuralSharing: false,
  queryFn: async (): Promise<Component[]> => {
    if (!listed) return (listed = await call<ComponentList>("GET", "/components")).components;
    // In parts, so that many changes at once, as after a large table, never hold the page up.
    const first = await call<ComponentList>("GET", `/components?since=${listed.asOf}`);
    const changed = [...first.components];
    for (let next = first.next; next;) {
      const part = await call<ComponentList>("GET", `/components?since=${listed.asOf}&after=${next}`);
      changed.push(...part.components);
      next = part.next;
    }
    if (changed.length === 0) return (listed = { ...listed, asOf: first.asOf }).components;
    const byId = new Map(listed.components.map((c) => [c.id, c]));
    for (const c of changed) byId.set(c.id, c);
    const order = (c: Component) => `${c.kind}\u0000${c.name}\u0000${c.code}`;
    const keyed = [...byId.values()].map((c) => ({ c, key: order(c) }));
    listed = {
      components: keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0)).map((k) => k.c),
      asOf: first.asOf,
    };
    return listed.components;
  },
});
export const roomsQuery = queryOptions({ queryKey: ["rooms"], queryFn: () => call<Rooms>("GET", "/rooms") });
export const ordersQuery = queryOptions({ queryKey: ["orders"], queryFn: () => call<Order[]>("GET", "/orders") });
export const stocktakesQuery = queryOptions({
  queryKey: ["stocktakes"],
  queryFn: () => call<Stocktake[]>("GET", "/stocktakes"),
});
export const shelfQuery = queryOptions({
  queryKey: ["shelf"],
  queryFn: () => call<ShelfJar[]>("GET", "/stocktakes/shelf"),
});
export const componentQuery = (id: string) =>
  queryOptions({ queryKey: ["component", id], queryFn: () => call<ComponentDetail>("GET", `/components/${id}`) });

/** Stock or components changed: everything that shows a count or a cost is read again. */
export function stockChanged() {
  return Promise.all(
    ["components", "component", "box", "boxes", "orders", "shelf", "stocktakes"].map((key) =>
      queryClient.invalidateQueries({ queryKey: [key] }),
    ),
  );
}
