import { useMemo } from "react";
import { useSearchParams } from "react-router";
import { useBox } from "../boxStore.ts";

/** The names of a box's variants, in their order. */
export function useVariantNames(): string[] {
  const { colourways, seconds, variants } = useBox((w) => w.box);
  return useMemo(() => {
    const names = new Map([...colourways, ...seconds].map((c) => [c.id, c.name]));
    return variants.map(({ first, second }) =>
      [first, second].flatMap((id) => (id === null ? [] : [names.get(id) ?? ""])).join(", "),
    );
  }, [colourways, seconds, variants]);
}

/** Which variant is looked at: in the address, by its colourway and second choice. */
export function useVariant(): [at: number, look: (at: number) => void] {
  const [params, setParams] = useSearchParams();
  const variants = useBox((w) => w.box.variants);
  const asked = params.get("colourway");
  const second = params.get("second");
  const found = variants.findIndex((v) => v.first === asked && (second === null || v.second === second));
  const look = (at: number) =>
    setParams(
      (before) => {
        before.set("colourway", variants[at]!.first);
        if (variants[at]!.second === null) before.delete("second");
        else before.set("second", variants[at]!.second!);
        return before;
      },
      { replace: true },
    );
  return [Math.max(0, found), look];
}
