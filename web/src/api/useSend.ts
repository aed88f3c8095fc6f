import type { ErrorBody, RouteAnswer, RouteCall, RouteName } from "@jar-count/core/contract";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { call, Refused } from "./client.ts";
import { refusalOf } from "./refusal.ts";

/** What is sent in its place where somebody saved first: made of what is there now; null where that needs a person. */
type OnStale<N extends RouteName> = (current: unknown, requestKey: string) => RouteCall<N> | null;

type Build<N extends RouteName> = RouteCall<N> | ((requestKey: string) => RouteCall<N>);

export interface Sending<N extends RouteName> {
  /** Sends, and returns what came back, or null where it was refused or nothing came. */
  send: (build: Build<N>) => Promise<RouteAnswer<N> | null>;
  busy: boolean;
  refusal: ErrorBody | null;
  clear: () => void;
}

/**
 * Sends writes of one route. The request key that a call is built with stays the same until the write got through, so
 * that neither a second press of a button nor a lost answer makes it happen twice.
 * @param after what is to be done with an answer before the write counts as over
 */
export function useSend<N extends RouteName>(
  name: N,
  after?: (answer: RouteAnswer<N>) => unknown,
  onStale?: OnStale<N>,
): Sending<N> {
  const [key, setKey] = useState(() => crypto.randomUUID());
  const renew = () => setKey(crypto.randomUUID());
  const mutation = useMutation({
    mutationFn: async (first: RouteCall<N>) => {
      const send = call as (name: N, asked: RouteCall<N>) => Promise<RouteAnswer<N>>;
      let answer: RouteAnswer<N>;
      for (let asked = first; ;) {
        try {
          answer = await send(name, asked);
          break;
        } catch (error) {
          const stale = error instanceof Refused && error.code === "stale";
          const next = stale ? onStale?.(error.body.current, crypto.randomUUID()) : null;
          if (!next) throw error;
          asked = next;
        }
      }
      renew();
      await after?.(answer);
      return answer;
    },
    // What was refused is not what will be sent next; what got no answer is.
    onError: (error) => error instanceof Refused && renew(),
  });
  return {
    send: (build) => mutation.mutateAsync(typeof build === "function" ? build(key) : build).catch(() => null),
    busy: mutation.isPending,
    refusal: refusalOf(mutation.error),
    clear: mutation.reset,
  };
}
