import { BESIDE, TOGETHER } from "../bom/index.ts";
import { CAUTION_WORDS } from "../component/index.ts";
import {
  type BilledComponent,
  type BilledLine,
  type BilledVariant,
  type BoxBill,
  CAUTIONS,
  type Caution,
  ROLE_KINDS,
} from "../contract/index.ts";
import type { Stretch } from "../cut/index.ts";
import { type LengthUnit, plainNumber, sayCut, exact } from "../units/index.ts";

/** One line of a contents list: what lies in one bag of a box. */
export interface ContentsItem {
  component: BilledComponent;
  /** Pieces that the box needs, or cuts; grams where nothing can be counted. */
  counted: number;
  /** The same, to spare. */
  spare: number;
  /** Both together in the base unit. */
  amount: number;
  /** What is cut, spare cuts among them. */
  cuts: Stretch[];
  /** Whole packs, in place of a number. */
  packs: { pack: string; packs: number }[];
}

/** A design of the box, as its bead key card says it. */
export interface KeyCard {
  line: string;
  name: string;
  times: number;
  sizes: string[];
  options: string[];
  /** Each letter of its key that the box holds something for: pieces a box, or millimetres of what is cut. */
  keys: { key: string; role: string; component: BilledComponent; taken: number }[];
}

/** All that is told of what a box of one variant holds. */
export interface Contents {
  theme: string;
  month: string;
  variant: string;
  boxes: number;
  /** `of`: a line of the box, or what holds for all of them. */
  bags: { of: string; title: string; items: ContentsItem[] }[];
  /** What the maker needs and the box does not hold. */
  atHand: string[];
  cautions: Caution[];
  cards: KeyCard[];
  /** Roles that nothing was chosen for: such a list is not ready to go out. */
  gaps: string[];
}

/**
 * What one box of a variant holds, from its bill and nothing else: the one source of every list, card and text, so that
 * none of them can say anything else than what is in the bag.
 */
export function contentsOf(bill: BoxBill, variant: BilledVariant): Contents {
  const components = new Map(bill.components.map((c) => [c.id, c]));
  const bags = new Map<string, ContentsItem[]>();
  for (const line of variant.lines) {
    const component = components.get(line.component)!;
    for (const bag of line.bags) {
      const item = { component, ...itemOf(line, bag) };
      bags.set(bag.of, [...(bags.get(bag.of) ?? []), item]);
    }
  }
  const titles: [string, string][] = [
    [TOGETHER, bill.designs.length > 1 ? "For all designs" : (bill.designs[0]?.name ?? "In the box")],
    ...bill.designs.map((d): [string, string] => [d.line, d.name]),
    [BESIDE, "Beside the designs"],
  ];
  const held = new Set([
    ...variant.lines.flatMap((l) => components.get(l.component)!.cautions),
    ...bill.designs.flatMap((d) => d.cautions ?? []),
  ]);
  return {
    theme: bill.theme,
    month: bill.month,
    variant: variant.name,
    boxes: variant.boxes,
    bags: titles.flatMap(([of, title]) => {
      const items = bags.get(of);
      return items ? [{ of, title, items: items.sort(asRead) }] : [];
    }),
    atHand: [...new Set(bill.designs.flatMap((d) => d.atHand))],
    cautions: CAUTIONS.filter((c) => held.has(c)),
    cards: bill.designs.map((d) => ({
      line: d.line,
      name: d.name,
      times: d.times,
      sizes: d.sizes,
      options: d.options,
      keys: d.key.flatMap(({ key, name }) =>
        variant.lines.flatMap((l) => {
          const taken = l.from.reduce((sum, f) => (f.line === d.line && f.key === key ? sum + f.taken : sum), 0);
          return taken > 0 ? [{ key, role: name, component: components.get(l.component)!, taken }] : [];
        }),
      ),
    })),
    gaps: variant.gaps.map((g) => g.name),
  };
}

function itemOf(line: BilledLine, bag: BilledLine["bags"][number]) {
  return {
    counted: bag.counted,
    spare: bag.more,
    amount: exact(bag.perBox + bag.spare),
    cuts: bag.pieces,
    packs: bag.of === BESIDE && line.packs.length > 0 ? line.packs.map(({ pack, packs }) => ({ pack, packs })) : [],
  };
}

const asRead = (a: ContentsItem, b: ContentsItem) =>
  ROLE_KINDS.indexOf(a.component.kind) - ROLE_KINDS.indexOf(b.component.kind) ||
  a.component.name.localeCompare(b.component.name, "en");

/** How much of something a list says: pieces, grams, cuts in the reader's unit; spare pieces told apart or left out. */
export function sayHowMuch(item: ContentsItem, unit: LengthUnit, spares: boolean): string {
  const { component, counted, spare, amount, cuts, packs } = item;
  if (packs.length > 0) return packs.map((p) => `${p.packs} × ${p.pack}`).join(", ");
  if (component.baseUnit === "mm")
    return cuts.map((c) => `${c.count} × ${sayCut(c.mm, unit, component.linkMm)}`).join(", ");
  const grams = component.baseUnit === "g";
  const countable = !grams || component.perGram != null;
  const said = (n: number) => plainNumber(n, countable ? 0 : 2);
  const over = spares && spare > 0 ? ` and ${said(spare)}${countable ? "" : " g"} to spare` : "";
  if (!countable) return `${said(counted)} g${over}`;
  return `${said(counted)}${over}${grams ? ` (about ${plainNumber(amount, 1)} g)` : ""}`;
}

/** How much a key card says of a letter. */
export const sayTaken = ({ component, taken }: KeyCard["keys"][number], unit: LengthUnit): string =>
  component.baseUnit === "mm" ? sayCut(taken, unit, component.linkMm) : plainNumber(taken, 0);

/** What a design makes, and in which sizes and options. */
export function sayMakes({ name, times, sizes, options }: Omit<KeyCard, "line" | "keys">): string {
  const each = times > 1 ? `${name}, ${times} of it` : name;
  const said = [
    ...(sizes.length > 0 ? [`size ${orOf(sizes)}`] : []),
    ...(options.length > 0 ? [orOf(options)] : []),
  ].join("; ");
  return said === "" ? each : `${each} (${said})`;
}

const orOf = (list: readonly string[]) =>
  list.length < 2 ? list.join("") : `${list.slice(0, -1).join(", ")} or ${list.at(-1)!}`;

export const DEFER = "These are the usual cautions. Local rules and your own judgement come first.";
export const cautionWords = (cautions: readonly Caution[]): string[] => cautions.map((c) => CAUTION_WORDS[c]);

/** A contents list as plain text, to be put on a page elsewhere. */
export function contentsText(contents: Contents, { unit, spares }: { unit: LengthUnit; spares: boolean }): string {
  const part = (title: string, lines: readonly string[]) =>
    lines.length === 0 ? [] : ["", title, ...lines.map((l) => `- ${l}`)];
  return [
    `${contents.theme}${contents.variant === "" ? "" : `, ${contents.variant}`}`,
    ...part("It makes", contents.cards.map(sayMakes)),
    ...contents.bags.flatMap((bag) =>
      part(
        contents.bags.length === 1 ? "In the box" : `In the box: ${bag.title}`,
        bag.items.map((item) => `${item.component.name}: ${sayHowMuch(item, unit, spares)}`),
      ),
    ),
    ...part("Not in the box; have at hand", contents.atHand),
    ...part("Take care", contents.cautions.length === 0 ? [] : [...cautionWords(contents.cautions), DEFER]),
    "",
  ].join("\n");
}
