/**
 * The process that reads what others made. It knows neither the database nor any secret, keeps one table at a time, and
 * answers one question after another over the channel to its parent.
 */
import { openArchive } from "../archive/index.ts";
import type { Opened, Whole } from "../archive/index.ts";
import { askCarrier, askShop } from "./ask.ts";
import { judgeTable, readTable, tablePart } from "./table.ts";

const reading = {
  ready: () => true,
  openArchive,
  /** Whether an archive can be taken in, and how much is in it: without all that it holds. */
  lookInto(zip: Uint8Array): Pick<Whole, "summary"> | Exclude<Opened, Whole> {
    const found = openArchive(zip);
    return "unfit" in found ? found : { summary: found.summary };
  },
  readTable,
  judgeTable,
  tablePart,
  askCarrier,
  askShop,
};
export type Reading = typeof reading;
export type ReadingName = keyof Reading;
export type Answer = { ok: true; value: unknown } | { ok: false; name: string; message: string };

async function answer(message: { name: ReadingName; args: never[] }): Promise<Answer> {
  try {
    const read = reading[message.name] as (...args: never[]) => unknown;
    return { ok: true, value: await read(...message.args) };
  } catch (error) {
    const { name, message: said } = error as Error;
    return { ok: false, name, message: said };
  }
}

if (process.send) {
  process.on("message", (message) => void answer(message as never).then((found) => process.send!(found)));
  process.on("disconnect", () => process.exit(0));
}
