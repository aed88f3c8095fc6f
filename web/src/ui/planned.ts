/** What boxes that are not committed would take: told apart from what is spoken for. */
import type { AheadComponent, BoxSummary } from "@jar-count/core/contract";
import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import { aheadQuery, boxesQuery } from "../api/queries.ts";

/** A component's steps that planned boxes make. */
const plannedSteps = (of: AheadComponent, boxes: ReadonlyMap<string, BoxSummary>) =>
  of.steps.filter((s) => s.kind === "box" && boxes.get(s.id)?.state === "planned");

/** How much planned boxes take of each component, in its base unit; and how much of one, box by box. */
export function usePlanned() {
  const ahead = useQuery(aheadQuery).data;
  const boxes = useQuery(boxesQuery).data;
  return useMemo(() => {
    const known = new Map((boxes ?? []).map((b) => [b.id, b]));
    const steps = new Map((ahead?.components ?? []).map((of) => [of.component, plannedSteps(of, known)]));
    return {
      of: (component: string) => (steps.get(component) ?? []).reduce((sum, s) => sum - s.quantity, 0),
      by: (component: string) =>
        (steps.get(component) ?? []).map((s) => ({ box: known.get(s.id)!, on: s.on, quantity: -s.quantity })),
    };
  }, [ahead, boxes]);
}
