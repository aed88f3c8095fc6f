import { type Archive, type Band, type MoneyInput, type MoneyTerms, TRADE_RATES } from "@jar-count/core/contract";
import type { Session } from "./database.ts";

/** An amount as decimal text with two places at least. */
const amount = (column: string) => `round(${column}, greatest(2, scale(trim_scale(${column}))))::text`;

/** All that costs and prices go by. */
export async function findMoney(db: Session): Promise<MoneyTerms> {
  const { rows } = await db.query<MoneyTerms>(
    `select m.version, ${amount("m.wage")} as wage, ${amount("m.overhead")} as overhead, m.basis, m.ending,
       m.retail_factor::float8 as "retailFactor", m.zone, m.service, m.carrier, m.shop, m.claims::float8 as claims,
       m.taken_apart::float8 as "takenApart", m.sells_at::float8 as "sellsAt",
       (select coalesce(json_agg(json_build_object('step', r.step, 'seconds', r.seconds::float8, 'spread',
          r.spread::float8, 'n', r.n, 'from', r.made_from) order by r.position), '[]') from rates r) as rates,
       (select coalesce(json_agg(json_build_object('id', c.id, 'name', c.name, 'feeRate', c.fee_rate::float8,
          'feeFixed', ${amount("c.fee_fixed")}, 'taxRate', c.tax_rate::float8, 'discounts', c.discounts, 'gift', c.gift)
          order by c.position), '[]') from channels c) as channels,
       (select coalesce(json_object_agg(x.component_id, x.seconds), '{}') from (
          select k.component_id, (sum(e.minutes) * 60 / sum(k.quantity))::float8 as seconds
          from entries e join lateral (select m.component_id, sum(m.quantity) as quantity from movements m
            where m.entry_id = e.id and m.quantity > 0 group by 1) k on true
          where e.kind = 'made' and e.minutes > 0 group by 1) x) as made
     from money m`,
  );
  const found = rows[0]!;
  return { ...found, rates: found.rates.length > 0 ? found.rates : TRADE_RATES.map((r) => ({ ...r })) };
}

/** Writes it whole. A channel that is taken out takes its prices with it. */
export async function putMoney(db: Session, money: MoneyInput): Promise<void> {
  await db.query(
    `update money set version = version + 1, wage = $1, overhead = $2, basis = $3, ending = $4, retail_factor = $5,
       zone = $6, service = $7, carrier = $8, shop = $9, claims = $10, taken_apart = $11, sells_at = $12`,
    [
      money.wage,
      money.overhead,
      money.basis,
      money.ending,
      money.retailFactor ?? null,
      money.zone,
      money.service,
      money.carrier,
      money.shop,
      money.claims,
      money.takenApart,
      money.sellsAt,
    ],
  );
  const placed = (list: readonly object[]) => JSON.stringify(list.map((item, position) => ({ ...item, position })));
  await db.query(`delete from rates`);
  await db.query(
    `insert into rates (step, position, seconds, spread, n, made_from)
     select x.step, x.position, x.seconds, x.spread, x.n, x."from" from jsonb_to_recordset($1) as x(step text,
       position int, seconds numeric, spread numeric, n int, "from" text)`,
    [placed(money.rates)],
  );
  await db.query(`delete from channels where id <> all($1)`, [money.channels.map((c) => c.id)]);
  await db.query(
    `insert into channels (id, position, name, fee_rate, fee_fixed, tax_rate, discounts, gift)
     select x.id, x.position, x.name, x."feeRate", x."feeFixed", x."taxRate", x.discounts, nullif(x.gift, 'null')
     from jsonb_to_recordset($1) as x(id uuid, position int, name text, "feeRate" numeric, "feeFixed" numeric,
       "taxRate" numeric, discounts jsonb, gift jsonb)
     on conflict (id) do update set position = excluded.position, name = excluded.name, fee_rate = excluded.fee_rate,
       fee_fixed = excluded.fee_fixed, tax_rate = excluded.tax_rate, discounts = excluded.discounts,
       gift = excluded.gift`,
    [placed(money.channels)],
  );
}

/** What the carrier said last; null where it never did. */
export async function findBands(db: Session): Promise<{ asOf: string; bands: Band[] } | null> {
  const { rows } = await db.query<{ asOf: string; bands: Band[] }>(
    `select exact_time(bands_at) as "asOf", bands from money where bands is not null`,
  );
  return rows[0] ?? null;
}

export async function putBands(db: Session, { asOf, bands }: { asOf: string; bands: readonly Band[] }): Promise<void> {
  await db.query(`update money set bands = $1, bands_at = $2`, [JSON.stringify(bands), asOf]);
}

/** It as an archive holds it. */
export async function exportMoney(db: Session): Promise<Archive["money"]> {
  const { version, made: _made, ...money } = await findMoney(db);
  return { ...money, saved: Math.max(1, version), postage: await findBands(db) };
}
