import type {
  BoxBill,
  BoxDetail,
  Claim,
  KeptRun,
  OpenBox,
  Pool,
  Run,
  RunState,
  SpokenBy,
  Supply,
} from "@jar-count/core/contract";
import { addCuts } from "@jar-count/core/cut";
import { exact, timesToCover } from "@jar-count/core/units";
import type { Session } from "./database.ts";

/** The day by which a run `u` of a box `b` is packed: as said, else the 20th of the month before. */
export const PACK_BY = `to_char(coalesce(u.pack_by, (b.month - interval '1 month')::date + 19), 'YYYY-MM-DD')`;

/** A run without what it lacks: that follows from what there is. */
export type RunHead = Omit<Run, "lacking">;

export async function findRun(db: Session, boxId: string): Promise<RunHead | undefined> {
  const { rows } = await db.query<RunHead>(
    `select u.id, u.state, ${PACK_BY} as "packBy", case when u.state <> 'planned' then (
       select json_build_object('no', f.no, 'at', exact_time(f.made_at), 'person', p.name)
       from run_bills f left join people p on p.id = f.person_id where f.run_id = u.id order by f.no desc limit 1) end
       as bill,
       (select count(*)::int from packed_boxes k where k.run_id = u.id) as packed, coalesce(u.boxes, 0) as boxes,
       exact_time(u.stopped_at) as "stoppedAt", case when u.state = 'planned' then
         (select count(distinct component_id)::int from run_needs n where n.run_id = u.id) else 0 end as ahead
     from runs u join boxes b on b.id = u.box_id where b.id = $1`,
    [boxId],
  );
  return rows[0];
}

/** Locks a run for the rest of the transaction. */
export async function lockRun(db: Session, boxId: string): Promise<void> {
  await db.query(`select from runs where box_id = $1 for update`, [boxId]);
}

export async function setState(db: Session, runId: string, state: RunState): Promise<void> {
  await db.query(`update runs set state = $2 where id = $1`, [runId, state]);
}

/** The bill that a run was committed with last. */
export async function findBill(db: Session, runId: string): Promise<BoxBill | undefined> {
  const { rows } = await db.query<{ body: BoxBill }>(
    `select body from run_bills where run_id = $1 order by no desc limit 1`,
    [runId],
  );
  return rows[0]?.body;
}

/** Freezes a bill under the run's next number. */
export async function addBill(
  db: Session,
  runId: string,
  bill: BoxBill,
  by: { no?: number; at?: string; person?: string | null | undefined },
): Promise<void> {
  await db.query(`update runs set boxes = $2 where id = $1`, [
    runId,
    bill.variants.reduce((sum, v) => sum + v.boxes, 0),
  ]);
  await db.query(
    `insert into run_bills (run_id, no, body, made_at, person_id)
     select $1, coalesce($2, 1 + coalesce((select max(no) from run_bills where run_id = $1), 0)), $3,
       coalesce($4::timestamptz, now()), $5`,
    [runId, by.no ?? null, JSON.stringify(bill), by.at ?? null, by.person ?? null],
  );
}

/** A need of a run, by its id. */
export type NeedRow = KeptRun["needs"][number];

export async function addNeeds(db: Session, runId: string, needs: readonly NeedRow[]): Promise<void> {
  await db.query(
    `insert into run_needs (id, run_id, variant_id, component_id, cut_mm, quantity, spare)
     select x.id, $1, x.variant, x.component, x."cutMm", x.quantity, x.spare
     from jsonb_to_recordset($2) as x(id uuid, variant uuid, component uuid, "cutMm" numeric,
       quantity numeric, spare numeric)`,
    [runId, JSON.stringify(needs)],
  );
}

/** Takes a run's needs out, with all that they speak for. */
export async function deleteNeeds(db: Session, runId: string): Promise<void> {
  await db.query(`delete from reservations where need_id in (select id from run_needs where run_id = $1)`, [runId]);
  await db.query(`delete from run_needs where run_id = $1`, [runId]);
}

/** What a run needs by now, and what of it is used, or something else was put in the place of. */
export async function needsOfRun(
  db: Session,
  runId: string,
): Promise<
  { id: string; variant: string | null; component: string; cutMm: number | null; used: number; swapped: number }[]
> {
  const { rows } = await db.query<Awaited<ReturnType<typeof needsOfRun>>[number]>(
    `select id, variant_id as variant, component_id as component, cut_mm::float8 as "cutMm", used::float8,
       swapped::float8 from run_needs where run_id = $1 order by id`,
    [runId],
  );
  return rows;
}

/** The components that a run needs. */
export async function componentsOfRun(db: Session, runId: string): Promise<string[]> {
  const { rows } = await db.query<{ id: string }>(
    `select distinct component_id as id from run_needs where run_id = $1`,
    [runId],
  );
  return rows.map((r) => r.id);
}

/** Covers needs of a run, each from stock or from an order's line, in the words under which the jars show it. */
export async function coverNeeds(
  db: Session,
  purpose: string,
  person: string | null,
  covered: readonly {
    need: string;
    component: string;
    cutMm: number | null;
    quantity: number;
    orderLine: string | null;
  }[],
): Promise<void> {
  await db.query(
    `insert into reservations (component_id, purpose, quantity, cut_mm, person_id, need_id, order_line_id)
     select x.component, $1, x.quantity, x."cutMm", $2, x.need, x."orderLine"
     from jsonb_to_recordset($3) as x(need uuid, component uuid, "cutMm" numeric, quantity numeric, "orderLine" uuid)`,
    [purpose, person, JSON.stringify(covered)],
  );
}

/** Boxes that still take something: neither sent nor stopped. */
export async function listOpenBoxes(db: Session): Promise<OpenBox[]> {
  const { rows } = await db.query<OpenBox>(
    `select b.id, b.theme, to_char(b.month, 'YYYY-MM') as month, u.state, ${PACK_BY} as "packBy"
     from runs u join boxes b on b.id = u.box_id
     where u.state <> 'sent' and u.stopped_at is null order by 5, 3, 1`,
  );
  return rows;
}

/**
 * What committed boxes still take, of all components or some: what their reservations hold, and what of their needs
 * stands open. Of planned boxes only what orders, or the shelf, hold for them ahead of their committing.
 */
export async function listClaims(db: Session, components: readonly string[] | null): Promise<Claim[]> {
  // Two plain reads, put together here: a database that knows nothing of these tables yet joins them badly.
  const { rows: needs } = await db.query<NeedOfBox>({
    name: "needs of committed boxes",
    text: `select n.id, u.box_id as box, n.component_id as component, n.cut_mm::float8 as "cutMm",
       case when u.state = 'planned' then 0 else n.quantity end::float8 as quantity,
       (n.used + n.swapped)::float8 as used
     from run_needs n join runs u on u.id = n.run_id
     where u.state <> 'sent' and u.stopped_at is null
       and ($1::uuid[] is null or n.component_id in (select unnest($1::uuid[])))`,
    values: [components],
  });
  const { rows: held } = await db.query<{ need: string; line: string | null; quantity: number }>({
    name: "what covers needs",
    text: `select need_id as need, order_line_id as line, quantity::float8 from reservations
     where need_id is not null and released_at is null
       and ($1::uuid[] is null or component_id in (select unnest($1::uuid[])))`,
    values: [components],
  });
  const open = new Map(needs.map((n) => [n.id, { ...n, left: n.quantity }]));
  const claims = new Map<string, Claim>();
  const add = ({ box, component, cutMm }: NeedOfBox, from: Claim["from"], quantity: number) => {
    const key = `${box} ${component} ${from}`;
    const claim = claims.get(key) ?? { box, component, from, quantity: 0, cuts: [] };
    claims.set(key, claim);
    claim.quantity = exact(claim.quantity + quantity * (cutMm ?? 1));
    if (cutMm !== null) claim.cuts = addCuts(claim.cuts, [{ mm: cutMm, count: quantity }]);
  };
  for (const { need, line, quantity } of held) {
    const of = open.get(need);
    if (!of) continue;
    of.left = exact(of.left - quantity);
    add(of, line ?? "stock", quantity);
  }
  for (const of of open.values()) {
    if (of.used > 0) add(of, "used", of.used);
    const rest = exact(of.left - of.used);
    if (rest > 0) add(of, null, rest);
  }
  return [...claims.values()];
}

/** A need of a committed box. */
interface NeedOfBox {
  id: string;
  box: string;
  component: string;
  cutMm: number | null;
  quantity: number;
  /** Of which so much is in boxes that are packed. */
  used: number;
}

/** What of the orders is still to come, of all components or some. */
export async function listSupplies(db: Session, components: readonly string[] | null): Promise<Supply[]> {
  const { rows } = await db.query<Supply>({
    name: "supplies",
    text: `select l.id as line, l.order_id as "order", l.component_id as component, to_char(l.due, 'YYYY-MM-DD') as due,
       (l.quantity - l.received)::float8 as quantity,
       case when c.base_unit = 'mm' then coalesce(l.piece_mm, l.quantity / l.packs)::float8 end as "pieceMm"
     from order_lines l join components c on c.id = l.component_id
     where l.received < l.quantity and ($1::uuid[] is null or l.component_id in (select unnest($1::uuid[])))
     order by l.due nulls last, l.id`,
    values: [components],
  });
  return rows;
}

/** What there is of all components or some, and which of it is taken by hand. */
export async function listPools(db: Session, components: readonly string[] | null): Promise<Pool[]> {
  const { rows } = await db.query<Pool>({
    name: "pools",
    text: `with aside as (
       select component_id, sum(quantity * coalesce(cut_mm, 1)) as amount,
         json_agg(json_build_object('mm', cut_mm::float8, 'count', quantity::float8) order by cut_mm desc)
           filter (where cut_mm is not null) as cuts
       from reservations where released_at is null and need_id is null
         and ($1::uuid[] is null or component_id in (select unnest($1::uuid[]))) group by 1
     ), pieces as (
       select b.component_id, json_agg(json_build_object('mm', b.stretch_mm::float8, 'count', b.count::float8)
         order by b.stretch_mm) as list
       from (select b.component_id, b.stretch_mm, sum(b.quantity) as count from balances b
         join places p on p.id = b.place_id where not p.held and b.stretch_mm > 0 and b.quantity > 0
           and ($1::uuid[] is null or b.component_id in (select unnest($1::uuid[]))) group by 1, 2) b group by 1
     )
     select t.component_id as component, t.on_hand::float8 as "onHand",
       (t.held + coalesce(a.amount, 0))::float8 as aside, coalesce(p.list, '[]') as pieces,
       coalesce(a.cuts, '[]') as "asideCuts"
     from component_totals t left join aside a using (component_id) left join pieces p using (component_id)
     where $1::uuid[] is null or t.component_id in (select unnest($1::uuid[]))`,
    values: [components],
  });
  return rows;
}

/** Which of some components are kept by length. */
export async function linearOnes(db: Session): Promise<Set<string>> {
  const { rows } = await db.query<{ id: string }>(`select id from components where base_unit = 'mm'`);
  return new Set(rows.map((r) => r.id));
}

/** Which committed boxes speak for a component, in stock or on an order. */
export async function listSpokenBy(db: Session, component: string): Promise<SpokenBy[]> {
  const { rows } = await db.query<SpokenBy>({
    name: "spoken by",
    text: `select b.id as box, b.theme, to_char(b.month, 'YYYY-MM') as month, ${PACK_BY} as "packBy",
       l.order_id as "order", sum(r.quantity * coalesce(r.cut_mm, 1))::float8 as quantity
     from reservations r join run_needs n on n.id = r.need_id join runs u on u.id = n.run_id
       join boxes b on b.id = u.box_id left join order_lines l on l.id = r.order_line_id
     where r.component_id = $1 and r.released_at is null
     group by b.id, u.pack_by, l.order_id order by ${PACK_BY}, b.month, b.id, l.order_id nulls first`,
    values: [component],
  });
  return rows;
}

/** A reservation on an order's line. */
export interface LineReservation {
  id: string;
  need: string;
  quantity: number;
  cutMm: number | null;
}

/** What boxes speak for on a line, who is packed first first; locked with the totals. */
export async function reservationsOnLine(db: Session, line: string): Promise<LineReservation[]> {
  const { rows } = await db.query<LineReservation>(
    `select r.id, r.need_id as need, r.quantity::float8, r.cut_mm::float8 as "cutMm"
     from reservations r join run_needs n on n.id = r.need_id join runs u on u.id = n.run_id
       join boxes b on b.id = u.box_id
     where r.order_line_id = $1 and r.released_at is null order by ${PACK_BY}, b.month, b.id, r.cut_mm desc, r.id`,
    [line],
  );
  return rows;
}

/** So much of a reservation is in stock from here on; the rest stays on the order's line. */
export async function moveToStock(db: Session, r: LineReservation, quantity: number): Promise<void> {
  if (quantity >= r.quantity) {
    await db.query(`update reservations set order_line_id = null where id = $1`, [r.id]);
    return;
  }
  await db.query(`update reservations set quantity = quantity - $2 where id = $1`, [r.id, quantity]);
  await db.query(
    `insert into reservations (component_id, purpose, quantity, cut_mm, person_id, need_id)
     select component_id, purpose, $2, cut_mm, person_id, need_id from reservations where id = $1`,
    [r.id, quantity],
  );
}

/** So much of a reservation speaks for nothing any more; all of it goes. */
export async function giveUp(db: Session, r: LineReservation, quantity: number): Promise<void> {
  if (quantity >= r.quantity) await db.query(`delete from reservations where id = $1`, [r.id]);
  else await db.query(`update reservations set quantity = quantity - $2 where id = $1`, [r.id, quantity]);
}

/**
 * What planned boxes speak for on a line gives way by so much, in the base unit; who is packed last goes first.
 * @returns how much did
 */
export async function letGoPlanned(db: Session, line: string, amount: number): Promise<number> {
  const { rows } = await db.query<{ id: string; need: string; quantity: number; each: number }>(
    `select r.id, r.need_id as need, r.quantity::float8, coalesce(r.cut_mm, 1)::float8 as each
     from reservations r join run_needs n on n.id = r.need_id join runs u on u.id = n.run_id
       join boxes b on b.id = u.box_id
     where r.order_line_id = $1 and r.released_at is null and u.state = 'planned'
     order by ${PACK_BY} desc, b.month desc, b.id desc, r.id`,
    [line],
  );
  let open = amount;
  for (const { id, need, quantity, each } of rows) {
    if (open <= 0) break;
    const n = Math.min(quantity, each === 1 ? open : timesToCover(open, each));
    if (n >= quantity) {
      await db.query(`delete from reservations where id = $1`, [id]);
      await db.query(
        `delete from run_needs n where id = $1
        and not exists (select from reservations r where r.need_id = n.id)`,
        [need],
      );
    } else await db.query(`update reservations set quantity = quantity - $2 where id = $1`, [id, n]);
    open = exact(open - n * each);
  }
  return exact(amount - open);
}

/** Order lines that bring what a run speaks for. */
export async function linesOfRun(
  db: Session,
  runId: string,
): Promise<{ component: string; order: string; due: string | null }[]> {
  const { rows } = await db.query(
    `select distinct l.component_id as component, l.order_id as "order", to_char(l.due, 'YYYY-MM-DD') as due
     from reservations r join run_needs n on n.id = r.need_id join order_lines l on l.id = r.order_line_id
     where n.run_id = $1 and r.released_at is null order by 3 nulls last, 2`,
    [runId],
  );
  return rows;
}

/** What says that a plan changed: its own saves and the workshop's rules, by box; and anything of any component. */
export interface PlanTags {
  boxes: Map<string, string>;
  components: string;
}

/**
 * By which costs what a box takes is decided beside its components' own: by none, by what was paid last of those that
 * nobody offers, or by averages, which any move of stock may change.
 */
export type ByCost = "none" | "last" | "average";

/** What stands for the costs that decide, of totals `t` in a group. */
const COSTS = (byCost: string) => `case ${byCost}
  when 'average' then coalesce(sum(t.changed::text::bigint), 0)::text
  when 'last' then coalesce(sum(t.last_cost) filter (where not exists
    (select from offers o where o.component_id = t.component_id)), 0)::text
  else '' end`;

export async function tagsOfPlans(db: Session, byCost: ByCost): Promise<PlanTags> {
  const { rows } = await db.query<{ id: string | null; tag: string }>({
    name: "tags of plans",
    text: `select b.id, w.made || '.' || b.stamp || '.' || b.version || '.' || w.version as tag
       from boxes b join runs u on u.box_id = b.id, workshop w where u.state = 'planned'
     union all
     select null, (select coalesce(sum(version), 0) from components) || '.' ||
       (select ${COSTS("$1")} from component_totals t)`,
    values: [byCost],
  });
  const boxes = new Map(rows.flatMap((r) => (r.id === null ? [] : [[r.id, r.tag] as const])));
  return { boxes, components: rows.find((r) => r.id === null)!.tag };
}

/** What says that a component changed that a box takes: for those of the boxes that may have. */
export async function tagsOfComponents(
  db: Session,
  boxes: readonly string[],
  byCost: ByCost,
): Promise<Map<string, string>> {
  const { rows } = await db.query<{ id: string; tag: string }>({
    name: "tags of the components of plans",
    text: `with used as (
       select distinct r.box_id, p.component_id from box_picks p join box_roles r on r.id = p.box_role_id
         where r.box_id = any($1)
       union select box_id, component_id from box_contents where box_id = any($1)
     )
     select used.box_id as id, sum(c.version) || '.' || ${COSTS("$2")} as tag
     from used join components c on c.id = used.component_id join component_totals t on t.component_id = c.id
     group by 1`,
    values: [boxes, byCost],
  });
  return new Map(rows.map((r) => [r.id, r.tag]));
}

/** The rules by which a box's bill was frozen, once it is being packed; until then the workshop's hold. */
export async function findFrozenRules(
  db: Session,
  box: string,
): Promise<Pick<BoxDetail, "spares" | "ruler"> | undefined> {
  const { rows } = await db.query<Pick<BoxDetail, "spares" | "ruler">>(
    `select f.body -> 'rules' as spares, f.body ->> 'ruler' as ruler
     from runs u join run_bills f on f.run_id = u.id
     where u.box_id = $1 and u.state in ('packing', 'sent') order by f.no desc limit 1`,
    [box],
  );
  return rows[0];
}

/** Runs that are packed, in part or whole, the newest month first: each with its frozen bill. */
export async function listPackedRuns(
  db: Session,
): Promise<{ run: string; box: string; month: string; theme: string; state: RunState; bill: BoxBill }[]> {
  const { rows } = await db.query<Awaited<ReturnType<typeof listPackedRuns>>[number]>(
    `select u.id as run, b.id as box, to_char(b.month, 'YYYY-MM') as month, b.theme, u.state,
       (select f.body from run_bills f where f.run_id = u.id order by f.no desc limit 1) as bill
     from runs u join boxes b on b.id = u.box_id
     where exists (select from packed_boxes k where k.run_id = u.id) order by b.month desc, b.id`,
  );
  return rows;
}

/** Every run as an archive holds it. */
export async function exportRuns(db: Session): Promise<KeptRun[]> {
  const { rows } = await db.query<KeptRun>(
    `select u.id, u.box_id as box, u.state,
       (select coalesce(json_agg(json_build_object('no', f.no, 'at', exact_time(f.made_at), 'person', f.person_id,
          'bill', f.body) order by f.no), '[]') from run_bills f where f.run_id = u.id) as bills,
       (select coalesce(json_agg(json_build_object('id', n.id, 'variant', n.variant_id, 'component',
          n.component_id, 'cutMm', n.cut_mm::float8, 'quantity', n.quantity::float8, 'spare', n.spare::float8)
          order by n.id), '[]') from run_needs n where n.run_id = u.id) as needs,
       (select coalesce(json_agg(json_build_object('variant', k.variant_id, 'no', k.no, 'at', exact_time(k.packed_at),
          'person', k.person_id) order by k.variant_id, k.no), '[]')
          from packed_boxes k where k.run_id = u.id) as packed,
       exact_time(u.stopped_at) as stopped, case when u.closed_at is not null then
         json_build_object('at', exact_time(u.closed_at), 'person', u.closed_by) end as closed
     from runs u where exists (select from run_bills f where f.run_id = u.id)
       or exists (select from run_needs n where n.run_id = u.id) order by u.box_id`,
  );
  return rows;
}

/** Writes a run of a box that is there already, as an archive holds it. */
export async function putRun(db: Session, run: KeptRun): Promise<void> {
  const { rows } = await db.query<{ id: string }>(
    `update runs set state = $2, stopped_at = $3, closed_at = $4, closed_by = $5, id = coalesce($6, id)
     where box_id = $1 returning id`,
    [run.box, run.state, run.stopped ?? null, run.closed?.at ?? null, run.closed?.person ?? null, run.id ?? null],
  );
  const { id } = rows[0]!;
  for (const { bill, ...by } of run.bills) await addBill(db, id, bill, by);
  await addNeeds(db, id, run.needs);
  await db.query(
    `insert into packed_boxes (run_id, variant_id, no, packed_at, person_id)
     select $1, x.variant, x.no, x.at, x.person
     from jsonb_to_recordset($2) as x(variant uuid, no int, at timestamptz, person uuid)`,
    [id, JSON.stringify(run.packed)],
  );
}
