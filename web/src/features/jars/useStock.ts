import type { ComponentDetail, ErrorBody, StockEntry } from "@jar-count/core/contract";
import { componentQuery, queryClient, stockChanged } from "../../api/queries.ts";
import { useSend } from "../../api/useSend.ts";
import { useSettings } from "../../settings/index.ts";

type Without<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never;
/** What happened to a jar, as a form has it: who did it and the request key are put in when it is sent. */
export type JarEntry = Without<StockEntry, "requestKey" | "person">;

/** Takes over a jar as the server has it now, and makes stale what shows its counts. */
export async function jarChanged(detail: ComponentDetail): Promise<void> {
  queryClient.setQueryData(componentQuery(detail.component.id).queryKey, detail);
  await stockChanged();
}

/** Writes down what happened to a jar. */
export function useStock(id: string) {
  const person = useSettings((s) => s.person);
  const { send, ...state } = useSend("moveStock", jarChanged);
  const move = (entry: JarEntry) =>
    send((requestKey) => ({ params: { id }, body: { ...entry, requestKey, person } as StockEntry }));
  return { move, ...state };
}

/** Where in the form a refusal belongs. */
export const pointerOf = (refusal: ErrorBody | null) => refusal?.errors?.[0]?.pointer ?? "";
