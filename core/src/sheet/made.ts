import type { Part, SentenceRow } from "../contract/index.ts";
import { type Counting, ofSize } from "../count/index.ts";
import { type ChosenMethod, lengthOf, linesOf, minutesOf, type PartLine, toolsOf } from "../method/index.ts";
import { listed, mm, sentence } from "./sentences.ts";

/** How the ends, links and knots of a part are made, a row each: how, what each takes, and with which tools. */
export function madeOf({ design, answer }: Counting, part: Part): SentenceRow[] {
  return linesOf(design, part).map(({ of, lines }) => {
    const { definition, method } = of;
    const values = definition.choices.map(
      ({ id, values: may }) => may.find((v) => v.id === of.values[id])?.name ?? may[0]!.name,
    );
    const numbers = definition.numbers.flatMap(({ id, name }) => {
      const n = of.numbers[id] ?? 0;
      return n > 0 ? [`${name}: ${mm(n)}.`] : [];
    });
    // As the part has it now, edited lines too; and what was there already.
    const own = <T extends PartLine>(list: readonly T[] | null | undefined) =>
      (list ?? []).filter((line) => line.by === definition.id && (line.forEach ?? null) === of.each);
    const many = (count: Parameters<typeof ofSize>[0]) => ofSize(count, answer.size) ?? 0;
    const takes = [
      ...own(part.uses).map((use) => [use.key, many(use.count), null] as const),
      ...own(part.cuts).map((cut) => [cut.key, many(cut.count), ofSize(cut.mm, answer.size)] as const),
      ...lines
        .filter((line) => line.what === "join" || line.state === "there already")
        .map((line) => [line.key, line.count, line.mm] as const),
    ].filter(([, n]) => n > 0);
    const tail = tailOf(of, design.key);
    const tools = toolsOf(of);
    const { waiting } = minutesOf(of);
    return {
      label: method.at,
      text: [
        sentence([definition.name, ...values].join(", ")),
        sentence(definition.about),
        ...numbers,
        ...(takes.length > 0
          ? [`Takes ${listed(takes.map(([key, n, long]) => `${n} ${key}${long === null ? "" : ` of ${mm(long)}`}`))}.`]
          : []),
        ...(tail > 0 && part.stringing != null
          ? [`Leave ${mm(tail)} of ${part.stringing}${of.places === 2 ? " at each" : ""} for it.`]
          : []),
        ...(tools.length > 0 ? [`With ${listed(tools)}.`] : []),
        ...(waiting > 0 ? [`Then it rests for ${waiting} min.`] : []),
      ].join(" "),
    };
  });
}

/** What an end must have to be worked with, mm. */
const tailOf = (of: ChosenMethod, key: Counting["design"]["key"]) =>
  lengthOf(of.definition.needs.tail, of, (k, m) => key.find((e) => e.key === k)?.[m] ?? null, true) ?? 0;
