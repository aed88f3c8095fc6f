import { applyChanges, changesOf, EMPTY_BOX } from "@jar-count/core/box";
import { type Box, type BoxChanges, type BoxDetail, BoxInput, type SavedBox } from "@jar-count/core/contract";
import { notFound, readAs, Refusal, stale } from "../refusal/index.ts";
import { deleteBox, findBox, lockBox, writeBox } from "../store/boxes.ts";
import { findComponents } from "../store/components.ts";
import { type Database, inTransaction, type Session } from "../store/database.ts";
import { pinnedDesigns } from "../store/designs.ts";
import { takeRecord } from "../store/ids.ts";
import { doOnce } from "../store/requests.ts";
import { findRun, lockRun } from "../store/runs.ts";
import { findWorkshop } from "../store/workshop.ts";

/** All that counting and costing a box needs. */
export async function readBox(db: Session, id: string): Promise<BoxDetail> {
  const box = await findBox(db, id);
  if (!box) throw notFound("This box");
  const designs = await pinnedDesigns(db, id);
  const chosen = new Set([...box.picks, ...box.contents].map((p) => p.component));
  const components = await findComponents(db, [...chosen]);
  const { spares } = await findWorkshop(db);
  return { box, designs, components, spares };
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
      await writeBox(session, id, after, changesOf(before, after));
      return { version: version + 1, totals: totalsOf(after) };
    }),
  );
}

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
    await deleteBox(session, id);
  });
}
