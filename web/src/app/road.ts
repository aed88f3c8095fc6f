import type { BoxSummary, DesignSummary } from "@jar-count/core/contract";

interface Step {
  words: string;
  done: boolean;
  to: string;
}

/** The road to the first counted box, step by step; what is done already is ticked. */
export function roadOf(designs: readonly DesignSummary[], boxes: readonly BoxSummary[]): Step[] {
  const last = boxes.at(-1);
  const box = (stage: string) => (last ? `/months/${last.id}/${stage}` : "/months/new");
  return [
    { words: "a design", done: designs.length > 0, to: "/designs/new" },
    { words: "a month", done: boxes.length > 0, to: "/months/new" },
    { words: "the design in its box", done: boxes.some((b) => b.designs > 0), to: box("designs") },
    {
      words: "a colourway and how many boxes",
      done: boxes.some((b) => b.colourways.length > 0 && b.boxes > 0),
      to: box("colours"),
    },
    {
      words: "beads chosen",
      done: boxes.some((b) => b.boxes > 0 && b.colourways.some((c) => c.stripe.length > 0)),
      to: box("colours"),
    },
  ];
}
