/** What a box gets of what it shares with others, in words. */
import type { OpenBox } from "@jar-count/core/contract";
import type { ComponentTotal } from "@jar-count/core/bom";
import { useSayQuantity } from "../../ui/marks.tsx";
import { monthName } from "../../ui/month.ts";

/** A box that shares jars, in one word or two: its month and theme. */
export const nameOfBox = (boxes: readonly OpenBox[] | undefined, id: string) => {
  const box = boxes?.find((b) => b.id === id);
  return box ? `${monthName(box.month)}, ${box.theme}` : "A box that is not open any more";
};

export const isFirm = (state: OpenBox["state"]) => state !== "planned";

/** Says why something is short: “300 of it needed, but Apiary takes 260 of the 500.” */
export function useSayShortage(boxes: readonly OpenBox[] | undefined) {
  const say = useSayQuantity();
  return ({ component, run, left, because }: ComponentTotal): string => {
    const unit = component.baseUnit;
    if (because.length === 0) return `${say(run, unit)} needed, ${say(left, unit)} there.`;
    const all = because.reduce((sum, b) => sum + b.quantity, left);
    const takes = because.slice(0, 3).map((b) => `${nameOfBox(boxes, b.box)} takes ${say(b.quantity, unit)}`);
    const more = because.length > 3 ? ` and ${because.length - 3} more boxes the rest` : "";
    return `${say(run, unit)} needed, but ${takes.join(", ")}${more} of the ${say(all, unit)}.`;
  };
}
