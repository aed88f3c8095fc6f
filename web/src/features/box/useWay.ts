import { useSearchParams } from "react-router";
import { useBox } from "./boxStore.ts";

/** The colourway that is looked at: in the address, so that it can be shared and stays through a reload. */
export function useWay(): [string | null, (id: string | null) => void] {
  const [params, setParams] = useSearchParams();
  const asked = params.get("way");
  const isThere = useBox(({ box }) => box.colourways.some((w) => w.id === asked));
  const setWay = (id: string | null) =>
    setParams(
      (before) => {
        if (id === null) before.delete("way");
        else before.set("way", id);
        return before;
      },
      { replace: true },
    );
  return [isThere ? asked : null, setWay];
}
