import {
  type Component,
  type ComponentList,
  type DesignSummary,
  type RouteAnswer,
  type RouteArguments,
  type RouteName,
  segmentsOf,
} from "@jar-count/core/contract";
import { QueryClient, queryOptions } from "@tanstack/react-query";
import { call, isAway, onAway, Unreachable } from "./client.ts";

export const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      retry: (failures, error) => error instanceof Unreachable && failures < 3,
      networkMode: "always",
    },
    mutations: { networkMode: "always" },
  },
});

// What was asked in vain is asked again when the server is back.
onAway(() => void (isAway() || queryClient.invalidateQueries()));

/** What a route reads, kept under the parts of its path: what changes `boxes` makes `boxes/…` stale as well. */
export const query = <N extends RouteName>(name: N, ...asked: RouteArguments<N>) =>
  queryOptions<RouteAnswer<N>>({
    queryKey: segmentsOf(name, asked[0]?.params),
    queryFn: () => call(name, ...asked),
  });

export const workshopQuery = query("readWorkshop");
export const moneyQuery = query("readMoney");
/** Asked of the carrier each time a box is opened anew; what it said holds meanwhile. */
export const postageQuery = { ...query("readPostage"), staleTime: 300_000 };
export const measuredQuery = query("readMeasured");
export const knownSalesQuery = query("knownSales");
export const soldMonthsQuery = query("readSoldMonths");
export const lookBackQuery = query("readLookBack");
export const roomsQuery = query("readRooms");
export const healthQuery = query("health");
export const careQuery = query("readCare");
export const boxesQuery = query("listBoxes");
export const boxQuery = (id: string) => query("readBox", { params: { id } });
/** What boxes share changes with any of them: it is read anew each time it is looked at. */
const fresh = { staleTime: 0 } as const;
export const sharesQuery = (id: string) => ({ ...query("readShares", { params: { id } }), ...fresh });
export const runQuery = (id: string) => ({ ...query("readRun", { params: { id } }), ...fresh });
export const frozenQuery = (id: string) => query("readFrozenBill", { params: { id } });
export const commitQuery = (id: string) => ({ ...query("planCommit", { params: { id } }), ...fresh, gcTime: 0 });
export const packingQuery = (id: string) => ({ ...query("readPacking", { params: { id } }), ...fresh });
export const buyQuery = (boxes: readonly string[] | null, until: string | null) => {
  const asked = { ...(boxes ? { boxes: boxes.join(",") } : {}), ...(until ? { until } : {}) };
  const { queryKey, ...rest } = query("readBuyList", { query: asked });
  return { ...rest, ...fresh, queryKey: [...queryKey, boxes?.join(",") ?? "", until ?? ""] };
};
export const aheadQuery = { ...query("readAhead"), ...fresh };
export const designsQuery = query("listDesigns");
export const designQuery = (id: string) =>
  queryOptions({
    ...query("readDesign", { params: { id } }),
    // The list of designs holds it already: it opens at once, and is read again where the list is not fresh.
    initialData: () => queryClient.getQueryData<DesignSummary[]>(designsQuery.queryKey)?.find((d) => d.id === id),
    initialDataUpdatedAt: () => queryClient.getQueryState(designsQuery.queryKey)?.dataUpdatedAt,
  });
export const revisionsQuery = (id: string) => query("listRevisions", { params: { id } });
export const trialsQuery = (id: string) => query("listTrials", { params: { id } });
export const ordersQuery = query("listOrders");
export const stocktakesQuery = query("listStocktakes");
export const stocktakeQuery = (id: string) => query("readStocktake", { params: { id } });
export const shelfQuery = query("listShelf");
export const componentQuery = (id: string) => query("readComponent", { params: { id } });

let listed: ComponentList | null = null;

/** Every component. Once they are here, only those that changed since are asked for. */
export const componentsQuery = queryOptions({
  queryKey: [...segmentsOf("listComponents"), "all"],
  // What did not change stays the same object already: comparing thousands of them deeply would hold the page up.
  structuralSharing: false,
  queryFn: async (): Promise<Component[]> => {
    if (!listed) return (listed = await call("listComponents")).components;
    // In parts, so that many changes at once, as after a large table, never hold the page up.
    const first = await call("listComponents", { query: { since: listed.asOf } });
    if (first.workshop !== listed.workshop) return (listed = await call("listComponents")).components;
    const changed = [...first.components];
    for (let next = first.next; next;) {
      const part = await call("listComponents", { query: { since: listed.asOf, after: next } });
      changed.push(...part.components);
      next = part.next;
    }
    if (changed.length === 0) return (listed = { ...listed, asOf: first.asOf }).components;
    const byId = new Map(listed.components.map((c) => [c.id, c]));
    for (const c of changed) byId.set(c.id, c);
    const order = (c: Component) => `${c.kind}\u0000${c.name}\u0000${c.code}`;
    const keyed = [...byId.values()].map((c) => ({ c, key: order(c) }));
    listed = {
      workshop: first.workshop,
      components: keyed.sort((a, b) => (a.key < b.key ? -1 : a.key > b.key ? 1 : 0)).map((k) => k.c),
      asOf: first.asOf,
    };
    return listed.components;
  },
});

/** Makes what is read under a path stale, and all that stands below it. */
export const makeStale = (
  ...names: (
    "ahead" | "boxes" | "buy" | "designs" | "components" | "orders" | "stocktakes" | "rooms" | "money" | "sales"
  )[]
) => Promise.all(names.map((name) => queryClient.invalidateQueries({ queryKey: [name] })));

/** Stock or components changed: everything that shows a count or a cost is read again. */
export const stockChanged = () => makeStale("components", "boxes", "ahead", "buy", "orders", "stocktakes");

/**
 * A box was saved: what others get of the same jars is read again. What they leave for it stays, unless it takes
 * something that it did not take before.
 */
export const boxSaved = (saved: string, takesOther: boolean) =>
  queryClient.invalidateQueries({
    predicate: ({ queryKey: [first, id, what] }) =>
      first === "ahead" ||
      first === "buy" ||
      (first === "boxes" &&
        (id === undefined || what === "run" || (what === "shares" && (id !== saved || takesOther)))),
  });
