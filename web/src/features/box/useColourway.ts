import { useSearchParams } from "react-router";
import { useBox } from "./boxStore.ts";

/** The colourway that is looked at: in the address, so that it can be shared and stays through a reload. */
export function useColourway(): [string | null, (id: string | null) => void] {
  const [params, setParams] = useSearchParams();
  const asked = params.get("colourway");
  const isThere = useBox(({ box }) => box.colourways.some((w) => w.id === asked));
  const setColourway = (id: string | null) =>
    setParams(
      (before) => {
        if (id === null) before.delete("colourway");
        else before.set("colourway", id);
        return before;
      },
      { replace: true },
    );
  return [isThere ? asked : null, setColourway];
}
