import { applyChanges, changesOf, EMPTY_BOX } from "@jar-count/core/box";
import { type Box, type BoxChanges, type BoxDetail, BoxInput, type SavedBox } from "@jar-count/core/contract";
import { notFound, readAs, Refusal, stale } from "../refusal/index.ts";
import { deleteBox, findBox, lockBox, writeBox } from "../store/boxes.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { pinnedDesigns } from "../store/designs.ts";
import { takeRecord } from "../store/ids.ts";
import { soldOf } from "../store/sales.ts";
import { doOnce } from "../store/requests.ts";
import { findFrozenRules, findRun, lockRun } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";

/** All that counting and costing a box needs. */
export async function readBox(db: Session, id: string): Promise<BoxDetail> {
  const box = await findBox(db, id);
  if (!box) throw notFound("This box");
  const designs = await pinnedDesigns(db, id);
  const chosen = new Set([...box.picks, ...box.contents].map((p) => p.component));
  const components = await findComponents(db, [...chosen]);
  // What is being packed, or was sent, is told by the rules that its bill was frozen with.
  const { spares, ruler } = (await findFrozenRules(db, id)) ?? (await findWorkshop(db));
  return { box, designs, components, spares, ruler };
}

interface Save {
  requestKey?: string | null | undefined;
  version: number;
}

/** Makes a box (version 0), or saves it whole. */
export const saveBox = (db: Database, id: string, { requestKey, version, box }: Save & { box: BoxInput }) =>
  save(db, id, { requestKey, version }, box, () => box);

/** Changes what is named in a box; the result is checked whole before anything is written. */
export const changeBox = (db: Database, id: string, { requestKey, version, changes }: Save & { changes: BoxChanges }) =>
  save(db, id, { requestKey, version }, changes, (before) => {
    if (version === 0) throw notFound("This box");
    return readAs(BoxInput, applyChanges(before, changes));
  });

function save(
  db: Database,
  id: string,
  { requestKey, version }: Save,
  body: unknown,
  next: (before: BoxInput) => BoxInput,
): Promise<SavedBox> {
  return inTransaction(db, (session) =>
    doOnce(session, requestKey, { id, version, body }, async () => {
      await takeRecord(session, "box", id);
      const known = (await lockBox(session, id)) ?? 0;
      const found = known > 0 ? await findBox(session, id) : undefined;
      if (known !== version) throw stale("This box", found);
      const before = found ? withoutId(found) : EMPTY_BOX;
      const after = next(before);
      const changes = changesOf(before, after);
      if (found) await mustStay(session, id, before, after, changes);
      await writeBox(session, id, after, changes);
      return { version: version + 1, totals: totalsOf(after) };
    }),
  );
}

/** What of a box may still change when it is sent: what it is sold at, and what is tried on it. */
const AFTER_SENT: readonly string[] = ["prices", "whatIfs"] satisfies (keyof BoxChanges)[];

/** @throws Refusal where a sent box would be another one, or something goes that was sold */
async function mustStay(session: Session, id: string, before: BoxInput, after: BoxInput, changes: BoxChanges) {
  await lockRun(session, id);
  const run = await findRun(session, id);
  if (run?.state === "sent" && Object.keys(changes).some((what) => !AFTER_SENT.includes(what))) {
    throw new Refusal(
      "is-committed",
      "This box is sent: it stays as it went out. Only its prices may still change. Make a new box for what is next.",
    );
  }
  const keyOf = (v: BoxInput["variants"][number]) => `${v.first} ${v.second ?? ""}`;
  const stay = new Set(after.variants.map(keyOf));
  const gone = before.variants.filter((v) => !stay.has(keyOf(v)));
  if (gone.length === 0) return;
  const sold = await soldOf(session, id);
  const refused = gone.flatMap((v) => sold.filter((s) => s.variant === v.id));
  if (refused.length === 0) return;
  const nameOf = (choice: string | null) =>
    [...before.colourways, ...before.seconds].find((c) => c.id === choice)?.name ?? "";
  const errors = refused.map(({ variant, orders, many }) => {
    const v = gone.find((g) => g.id === variant)!;
    const name = [nameOf(v.first), nameOf(v.second)].filter(Boolean).join(", ");
    return { pointer: "/box/variants", detail: `${name}: ${sayOrders(orders, many)}. Keep it, with 0 boxes.` };
  });
  throw new Refusal("is-sold", errors[0]!.detail, { errors });
}

/** Who bought something: the first few orders by their numbers. */
const sayOrders = (orders: readonly string[], many: number) =>
  `${many === 1 ? "one line was" : `${many.toLocaleString("en")} lines were`} sold of it (order ` +
  `${orders.slice(0, 3).join(", ")}${orders.length > 3 ? " …" : ""})`;

const withoutId = ({ id: _id, version: _version, ...box }: Box): BoxInput => box;

const totalsOf = (box: BoxInput): SavedBox["totals"] => ({
  designs: box.lines.length,
  variants: box.variants.length,
  boxes: box.variants.reduce((sum, v) => sum + v.boxes, 0),
});

/** Takes a box out, if nobody changed it since. */
export function takeOutBox(db: Database, id: string, version: number): Promise<void> {
  return inTransaction(db, async (session) => {
    const known = await lockBox(session, id);
    if (known === undefined) throw notFound("This box");
    if (known !== version) throw stale("This box", await findBox(session, id));
    await lockRun(session, id);
    const run = await findRun(session, id);
    if (run && run.state !== "planned") {
      throw new Refusal(
        "is-committed",
        run.state === "committed"
          ? "This box is committed and speaks for stock. Take it back first; then it can be taken out."
          : "This box is packed or sent already: it stays.",
      );
    }
    const sold = await soldOf(session, id);
    if (sold.length > 0) {
      const orders = sold.flatMap((s) => s.orders);
      const many = sold.reduce((sum, s) => sum + s.many, 0);
      throw new Refusal(
        "is-sold",
        `This box stays: ${sayOrders(orders, many)}. Set its boxes to 0 where none are made.`,
      );
    }
    await deleteBox(session, id);
  });
}
