/** Colours by the names that people give them. Stands alone: pictures need it from the first page on. */

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

/** A colour with a share of black (0) or white (255) in it. */
const mixed = (hex: string, other: number, share: number) =>
  `#${[1, 3, 5]
    .map((i) => Math.round(parseInt(hex.slice(i, i + 2), 16) * (1 - share) + other * share))
    .map((n) => n.toString(16).padStart(2, "0"))
    .join("")}`;

/** The colour that a name says: `dark red`, `smoke`; null where it says none. Of several the first that is no metal. */
export function colourSaid(name: string): string | null {
  const found = [...name.toLowerCase().matchAll(CALLED_WORD)];
  const chosen = found.filter(([, , word]) => !BESIDE.has(word!))[0] ?? found[0];
  if (!chosen) return null;
  const hex = CALLED[chosen[2]!]!;
  return chosen[1] === undefined ? hex : /dark|deep/.test(chosen[1]) ? mixed(hex, 0, 0.4) : mixed(hex, 255, 0.45);
}
