import type { ComponentDetail } from "@jar-count/core/contract";
import { useState } from "react";
import { call, Refused } from "../../api/client.ts";
import { componentQuery, queryClient, stockChanged } from "../../api/queries.ts";
import { useSettings } from "../../app/settings.ts";

export interface StockFault {
  detail: string;
  pointer: string;
  /** What the jar holds, where that is why. */
  holds: number | null;
}

/**
 * Sends what happened to stock. The request key stays the same until it got through, so that a second press of the
 * button or a lost answer never makes it happen twice.
 */
export function useStock(id: string) {
  const person = useSettings((s) => s.person);
  const [key, setKey] = useState(() => crypto.randomUUID());
  const [busy, setBusy] = useState(false);
  const [fault, setFault] = useState<StockFault | null>(null);
  const send = async (path: string, body: object): Promise<ComponentDetail | null> => {
    setBusy(true);
    setFault(null);
    try {
      const answer = await call<ComponentDetail>("POST", path, { requestKey: key, person, ...body });
      setKey(crypto.randomUUID());
      if (answer.component) queryClient.setQueryData(componentQuery(id).queryKey, answer);
      await stockChanged();
      return answer;
    } catch (error) {
      const refused = error instanceof Refused ? error.body : null;
      const first = refused?.errors?.[0];
      setFault({
        detail: first?.detail ?? (error as Error).message,
        pointer: first?.pointer ?? "",
        holds: (refused?.current as { holds?: number } | undefined)?.holds ?? null,
      });
      // What was refused is not what will be sent next.
      if (refused) setKey(crypto.randomUUID());
      return null;
    } finally {
      setBusy(false);
    }
  };
  return { send, busy, fault, clear: () => setFault(null) };
}
