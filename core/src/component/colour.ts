import { converter, modeOklch, modeRgb, type Oklch, useMode } from "culori/fn";

useMode(modeRgb);
useMode(modeOklch);
const toOklch = converter("oklch");

export const COLOUR_WORDS = [
  "white",
  "grey",
  "black",
  "brown",
  "red",
  "pink",
  "orange",
  "yellow",
  "green",
  "teal",
  "blue",
  "purple",
] as const;
export type ColourWord = (typeof COLOUR_WORDS)[number];

const known = new Map<string, ColourWord>();

/** The plain word for a colour (#rrggbb), by its place in OKLCH; where the words part is common sense, no source. */
export function colourWord(hex: string): ColourWord {
  let word = known.get(hex);
  if (!word) known.set(hex, (word = worded(toOklch(hex))));
  return word;
}

function worded(colour: Oklch | undefined): ColourWord {
  const { l = 0, c = 0, h = 0 } = colour ?? {};
  if (l < 0.22) return "black";
  if (c < 0.028) return l > 0.88 ? "white" : "grey";
  if (h < 12 || h >= 345) return l > 0.62 ? "pink" : "red";
  if (h < 42) return l > 0.72 ? "pink" : l < 0.42 ? "brown" : "red";
  if (h < 78) return l < 0.58 || c < 0.07 ? "brown" : "orange";
  if (h < 112) return l < 0.5 || (c < 0.06 && l < 0.8) ? "brown" : "yellow";
  if (h < 165) return "green";
  if (h < 215) return "teal";
  if (h < 285) return "blue";
  return "purple";
}
