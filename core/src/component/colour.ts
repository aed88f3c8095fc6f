import {
  converter,
  differenceCiede2000,
  formatHex,
  modeLab65,
  modeOklch,
  modeRgb,
  type Oklch,
  useMode,
} from "culori/fn";

useMode(modeRgb);
useMode(modeOklch);
useMode(modeLab65);
const toOklch = converter("oklch");
const ciede2000 = differenceCiede2000();

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

const toLab = converter("lab65");
const labs = new Map<string, ReturnType<typeof toLab>>();
/** A colour in CIELAB, worked out once: thousands of components share a few hundred colours. */
function labOf(hex: string) {
  let lab = labs.get(hex);
  if (!lab) labs.set(hex, (lab = toLab(hex)));
  return lab!;
}

/**
 * How far a colour is from the nearest of others, ΔE by CIEDE2000; Infinity where there are none. Of many, only the two
 * that are nearest by plain distance in CIELAB are compared by the formula, which costs a hundred times as much.
 */
export function nearestColour(colour: string, others: readonly string[]): number {
  const { l, a, b } = labOf(colour);
  let [first, second, d1, d2] = ["", "", Infinity, Infinity];
  for (const other of others) {
    const lab = labOf(other);
    const d = (lab.l - l) ** 2 + (lab.a - a) ** 2 + (lab.b - b) ** 2;
    if (d < d1) [second, d2, first, d1] = [first, d1, other, d];
    else if (d < d2) [second, d2] = [other, d];
  }
  return Math.min(Infinity, ...[first, second].filter(Boolean).map((hex) => colourDifference(colour, hex)));
}

/** How far two colours (#rrggbb) are apart to the eye: ΔE by CIEDE2000 (ISO/CIE 11664-6), of the colour library. */
export const colourDifference = (a: string, b: string): number => ciede2000(labOf(a), labOf(b));

/** Colours as they are called at the bench, in the tint that glass has rather than paint: common sense, no source. */
const CALLED: Readonly<Record<string, string>> = {
  white: "#f1efe9",
  cream: "#efe4c6",
  ivory: "#ece3cd",
  pearl: "#e8e2d6",
  clear: "#dfe6e6",
  crystal: "#dfe6e6",
  grey: "#8c9093",
  gray: "#8c9093",
  smoke: "#6d7073",
  slate: "#56626b",
  charcoal: "#3c3f42",
  black: "#242426",
  jet: "#1d1d20",
  brown: "#70482f",
  chestnut: "#6b3a26",
  wood: "#94683f",
  wooden: "#94683f",
  tan: "#b98f62",
  sand: "#cdb68c",
  beige: "#d3c4a5",
  honey: "#d99a2b",
  amber: "#cf8420",
  rust: "#a4502c",
  terracotta: "#b5603f",
  red: "#b3262f",
  ruby: "#9a1b35",
  garnet: "#6f1d2b",
  madder: "#a13d36",
  coral: "#e0735c",
  salmon: "#e39a86",
  pink: "#dd8fa6",
  rose: "#c9757f",
  magenta: "#a8326f",
  fuchsia: "#b13a78",
  orange: "#dd7a24",
  peach: "#ecb18b",
  yellow: "#e3c13c",
  lemon: "#ecd862",
  mustard: "#c59a2c",
  olive: "#737a36",
  lime: "#9fbf45",
  green: "#3f8152",
  moss: "#5f7442",
  sage: "#93a58a",
  jade: "#5f9f83",
  emerald: "#1f7a57",
  mint: "#a9d4bd",
  verdigris: "#5fa294",
  teal: "#2b7a7d",
  turquoise: "#3fa9a8",
  aqua: "#8accce",
  blue: "#3560a6",
  sky: "#8db8dc",
  navy: "#263358",
  cobalt: "#27479c",
  indigo: "#37406f",
  denim: "#4c658c",
  lavender: "#a79ac8",
  lilac: "#b9a3cb",
  purple: "#6b4187",
  violet: "#6a4a9c",
  plum: "#693858",
  amethyst: "#7e5ba6",
  silver: "#c3c4c6",
  steel: "#aeb2b5",
  platinum: "#cfd0cf",
  gold: "#c9a24a",
  brass: "#b9954e",
  bronze: "#8a683f",
  copper: "#b46f47",
  gunmetal: "#4b4f55",
};
/** Said beside a colour: metals, and what the thing is made of. */
const BESIDE = new Set([
  "silver",
  "gold",
  "bronze",
  "brass",
  "copper",
  "steel",
  "gunmetal",
  "pearl",
  "crystal",
  "clear",
]);
const CALLED_WORD = new RegExp(`\\b(dark|deep|pale|light)?\\s*(${Object.keys(CALLED).join("|")})\\b`, "g");

/** The colour that a name says: `dark red`, `smoke`; null where it says none. Of several the first that is no metal. */
export function colourSaid(name: string): string | null {
  const found = [...name.toLowerCase().matchAll(CALLED_WORD)];
  const chosen = found.filter(([, , word]) => !BESIDE.has(word!))[0] ?? found[0];
  if (!chosen) return null;
  const hex = CALLED[chosen[2]!]!;
  const by = chosen[1] === undefined ? 0 : /dark|deep/.test(chosen[1]) ? -0.14 : 0.13;
  if (by === 0) return hex;
  const colour = toOklch(hex)!;
  return formatHex({ ...colour, l: Math.max(0.12, Math.min(0.96, colour.l + by)) });
}
