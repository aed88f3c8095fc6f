import { type MoneyInput, MoneyTerms } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { moneyInputOf as inputOf } from "../../../api/moneyInput.ts";
import { makeStale, moneyQuery, queryClient } from "../../../api/queries.ts";
import { useSend } from "../../../api/useSend.ts";

/**
 * Changes one thing of what the workshop counts costs by. Where somebody saved first, the same change is made to what
 * is there now.
 */
export function useSaveMoney() {
  const known = useQuery(moneyQuery).data;
  /** What is being changed, for as long as it is sent. */
  const change = useRef((money: MoneyInput) => money);
  const { send, busy, refusal } = useSend(
    "saveMoney",
    async (saved) => {
      queryClient.setQueryData(moneyQuery.queryKey, saved);
      await makeStale("boxes");
    },
    (current, requestKey) => {
      const theirs = MoneyTerms.parse(current);
      return { body: { requestKey, version: theirs.version, money: change.current(inputOf(theirs)) } };
    },
  );
  return {
    busy,
    refusal,
    save: async (by: (money: MoneyInput) => MoneyInput) => {
      if (!known) return null;
      change.current = by;
      return send((requestKey) => ({ body: { requestKey, version: known.version, money: by(inputOf(known)) } }));
    },
  };
}
