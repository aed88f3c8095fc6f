import { packByOf } from "../ahead/index.ts";
import type { Bill } from "../bom/index.ts";
import { unitCost } from "../component/index.ts";
import { addCuts, type Stretch } from "../cut/index.ts";
import { cautionsOf, methodsOf } from "../method/index.ts";
import { exact } from "../units/index.ts";
import {
  atHandOf,
  type BilledComponent,
  BilledComponent as BilledComponentContract,
  type BilledDesign,
  type BoxBill,
  type BoxDetail,
  type Caution,
  type Design,
} from "../contract/index.ts";

const FIELDS = Object.keys(BilledComponentContract.shape) as (keyof BilledComponent)[];

/**
 * A box's bill with all that its lists are made from: names, measures, cut pieces, rules and unit costs of this moment.
 * It can be frozen: nothing that changes later changes it.
 */
export function boxBill({ box, designs, spares, ruler }: BoxDetail, bill: Bill): BoxBill {
  const names = new Map([...box.colourways, ...box.seconds].map((c) => [c.id, c.name]));
  return {
    theme: box.theme,
    month: box.month,
    packBy: packByOf(box),
    bagging: box.bagging,
    variants: bill.variants.map(({ first, second, boxes, needs, gaps }, i) => ({
      id: box.variants[i]?.id ?? null,
      first,
      second,
      name: [first, second].flatMap((id) => (id === null ? [] : [names.get(id) ?? ""])).join(", "),
      boxes,
      lines: needs.map(({ component, perBox, piecesPerBox, spare, rule, run, pieces, bags, from, beside }) => ({
        component: component.id,
        perBox,
        piecesPerBox,
        spare,
        rule,
        run,
        pieces,
        bags,
        from: from.map(({ line, key, taken }) => ({ line, key, taken })),
        packs: beside.flatMap(({ pack, packs, perBox }) => (pack === null ? [] : [{ pack, packs, perBox }])),
      })),
      gaps: gaps.map(({ boxRole, perBox, unit }) => ({ name: boxRole.name, perBox, unit })),
    })),
    components: bill.totals.map(({ component }) => {
      const known = component as unknown as Record<string, unknown>;
      const fields = FIELDS.filter((f) => known[f] != null).map((f) => [f, known[f]]);
      return { ...Object.fromEntries(fields), unitCost: unitCost(component) } as BilledComponent;
    }),
    designs: box.lines.flatMap(({ id: line, designId, revision, times, size, option }): BilledDesign[] => {
      const design = designs.find((d) => d.designId === designId && d.revision === revision)?.design;
      if (!design) return [];
      const said = (list: typeof design.sizes | typeof design.options, one: string | null) =>
        (list ?? []).filter((s) => one === null || s.key === one).map((s) => s.label ?? s.key);
      return [
        {
          line,
          designId,
          revision,
          name: design.name,
          kind: design.about?.kind ?? null,
          times,
          sizes: said(design.sizes, size),
          options: said(design.options, option),
          atHand: atHandOf(design),
          ...cautioned(design),
          key: design.key.map(({ key, name, kind }) => ({ key, name, kind })),
        },
      ];
    }),
    rules: spares,
    ruler,
  };
}

/** What a bill takes of each component in all, as {@link Sharing} asks for it. */
export function totalsOfBill(bill: BoxBill) {
  const totals = new Map<string, { component: BilledComponent; run: number; cuts: Stretch[] }>();
  const components = new Map(bill.components.map((c) => [c.id, c]));
  for (const { lines, boxes } of bill.variants) {
    for (const { component, run, pieces } of lines) {
      const total = totals.get(component) ?? { component: components.get(component)!, run: 0, cuts: [] };
      total.run = exact(total.run + run);
      total.cuts = addCuts(total.cuts, pieces, boxes);
      totals.set(component, total);
    }
  }
  return [...totals.values()];
}

/** Cautions that how a design's parts are made brings with it; nothing is said of a design without any. */
function cautioned(design: Design): { cautions?: Caution[] } {
  const cautions = [...new Set(design.parts.flatMap((part) => methodsOf(design, part).flatMap(cautionsOf)))];
  return cautions.length > 0 ? { cautions } : {};
}
