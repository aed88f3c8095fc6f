-- Up Migration

-- From here on the books keep themselves: what stands where, what there is in all, what is set aside, held back and on
-- the way follow, by triggers, from movements, reservations, places and order lines. The role that the server runs as
-- may read them and can't write them (server/src/store/roles.ts).

-- A moment to the microsecond (RFC 3339, UTC), without zeros behind it: what an archive carries.
create function exact_time(at timestamptz) returns text language sql immutable as $$
  select to_char(at at time zone 'utc', 'YYYY-MM-DD"T"HH24:MI:SS')
    || rtrim(rtrim(to_char(at at time zone 'utc', '.US'), '0'), '.') || 'Z'
$$;

-- How much of the base unit a quantity is: pieces of a length count by their length.
create function amount_of(quantity numeric, stretch_mm numeric) returns numeric language sql immutable as $$
  select quantity * case when stretch_mm > 0 then stretch_mm else 1 end
$$;

-- No sum of money is too large to be written down.
alter table movements alter column value type numeric, alter column cost type numeric;
alter table component_totals alter column value type numeric, alter column last_cost type numeric;

-- A movement may name the order line that it is a delivery of: what was received of the line follows from that.
alter table order_lines add constraint order_lines_component_id unique (id, component_id);
alter table order_lines add received_before numeric not null default 0 check (received_before >= 0);
update order_lines set received_before = received;
alter table movements add order_line_id uuid;
alter table movements add foreign key (order_line_id, component_id) references order_lines (id, component_id);
create index movements_order_line on movements (order_line_id) where order_line_id is not null;

-- What was emptied but kept a rest of worth by rounding gives it up, by an entry of its own.
with rests as (
  select component_id, sum(value) as value from movements group by 1
  having sum(amount_of(quantity, stretch_mm)) = 0 and sum(value) <> 0
), written as (
  insert into entries (kind, note, request_key)
  select 'counted', 'Nothing is left of it: neither is its worth', gen_random_uuid() where exists (select from rests)
  returning id
)
insert into movements (entry_id, component_id, place_id, lot, stretch_mm, quantity, balance, value, variance_after)
  select written.id, r.component_id, last.place_id, last.lot, last.stretch_mm, 0, 0, -r.value, last.variance_after
  from written, rests r, lateral (select * from movements m where m.component_id = r.component_id
    order by m.id desc limit 1) last;

-- The books once more from the ledger, whatever wrote them before.
delete from balances;
insert into balances (component_id, place_id, lot, stretch_mm, quantity, variance)
  select component_id, place_id, lot, stretch_mm, sum(quantity), (array_agg(variance_after order by id desc))[1]
  from movements group by 1, 2, 3, 4 having not (stretch_mm > 0 and sum(quantity) = 0);
update component_totals t set on_hand = s.on_hand, value = s.value, moved = true,
    variance = (select coalesce(sum(b.variance * amount_of(1, b.stretch_mm) ^ 2), 0) from balances b
      where b.component_id = t.component_id)
  from (select component_id, sum(amount_of(quantity, stretch_mm)) as on_hand, sum(value) as value
    from movements group by 1) s
  where s.component_id = t.component_id;

-- Locks components' totals for the rest of the transaction, always in the same order: the first lock of every write
-- that touches stock. The server's role may not lock what it can't write.
create function lock_totals(ids uuid[]) returns void language sql security definer set search_path = public, pg_temp as
$$ select from component_totals where component_id = any(ids) order by component_id for update $$;

create function books_of_movements() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
declare
  wrong text;
begin
  perform lock_totals(array(select distinct component_id from added));
  select component_id into wrong from (
    select m.component_id, m.balance,
      t.on_hand + sum(amount_of(m.quantity, m.stretch_mm)) over (partition by m.component_id order by m.id) as is_then
    from added m join component_totals t using (component_id)
  ) x where x.balance <> x.is_then limit 1;
  if wrong is not null then
    raise exception 'a movement of % says another balance than there is after it', wrong
      using errcode = 'check_violation';
  end if;

  -- The first change must not be seen as a new balance below zero, so what is there is brought along first.
  with change as (
    select component_id, place_id, lot, stretch_mm, sum(quantity) as quantity,
      (array_agg(variance_after order by id desc))[1] as variance
    from added group by 1, 2, 3, 4
  ), known as (
    update balances b set quantity = b.quantity + c.quantity, variance = c.variance from change c
    where (b.component_id, b.place_id, b.lot, b.stretch_mm) = (c.component_id, c.place_id, c.lot, c.stretch_mm)
    returning b.component_id, b.place_id, b.lot, b.stretch_mm
  )
  insert into balances (component_id, place_id, lot, stretch_mm, quantity, variance)
    select * from change c where not exists (select from known k
      where (k.component_id, k.place_id, k.lot, k.stretch_mm) = (c.component_id, c.place_id, c.lot, c.stretch_mm));
  -- A piece of a length that is used up leaves nothing to remember; an emptied jar stays, with its doubt.
  delete from balances where stretch_mm > 0 and quantity = 0 and component_id in (select component_id from added);

  update component_totals t set
    on_hand = t.on_hand + c.amount, value = t.value + c.value, last_cost = coalesce(c.last_cost, t.last_cost),
    moved = true, variance = b.variance, held = b.held
  from (
    select component_id, sum(amount_of(quantity, stretch_mm)) as amount, sum(value) as value,
      (array_agg(round(cost / amount_of(quantity, stretch_mm), 8) order by id desc)
        filter (where cost is not null and quantity > 0))[1] as last_cost
    from added group by 1
  ) c, lateral (
    select coalesce(sum(b.variance * amount_of(1, b.stretch_mm) ^ 2), 0) as variance,
      coalesce(sum(amount_of(b.quantity, b.stretch_mm)) filter (where p.held), 0) as held
    from balances b join places p on p.id = b.place_id where b.component_id = c.component_id
  ) b
  where t.component_id = c.component_id;

  update order_lines l set received = l.received + c.amount
  from (select order_line_id, sum(amount_of(quantity, stretch_mm)) as amount from added
    where order_line_id is not null group by 1) c
  where l.id = c.order_line_id;
  return null;
end $$;
create trigger movements_books after insert on movements referencing new table as added
  for each statement execute function books_of_movements();

-- What was received of a line of an order written new is what came before the ledger named lines; then it follows.
create function received_follows() returns trigger language plpgsql as $$
begin
  new.received := new.received_before;
  return new;
end $$;
create trigger order_lines_received before insert on order_lines for each row execute function received_follows();

create function books_of_orders() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
declare
  touched uuid[];
begin
  if tg_op = 'INSERT' then touched := array(select component_id from after_it);
  elsif tg_op = 'DELETE' then touched := array(select component_id from before_it);
  else touched := array(select component_id from after_it union select component_id from before_it);
  end if;
  if touched = '{}' then return null; end if;
  perform lock_totals(touched);
  update component_totals t set on_the_way = (select coalesce(sum(greatest(l.quantity - l.received, 0)), 0)
    from order_lines l where l.component_id = t.component_id) where t.component_id = any(touched);
  return null;
end $$;
create trigger order_lines_added after insert on order_lines referencing new table as after_it
  for each statement execute function books_of_orders();
create trigger order_lines_changed after update on order_lines referencing old table as before_it new table as after_it
  for each statement execute function books_of_orders();
create trigger order_lines_gone after delete on order_lines referencing old table as before_it
  for each statement execute function books_of_orders();

create function books_of_reservations() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
declare
  touched uuid[] := array(select component_id from after_it);
begin
  if touched = '{}' then return null; end if;
  perform lock_totals(touched);
  update component_totals t set spoken_for = (select coalesce(sum(r.quantity * coalesce(r.cut_mm, 1)), 0)
    from reservations r where r.component_id = t.component_id and r.released_at is null)
    where t.component_id = any(touched);
  return null;
end $$;
create trigger reservations_made after insert on reservations referencing new table as after_it
  for each statement execute function books_of_reservations();
create trigger reservations_changed after update on reservations referencing new table as after_it
  for each statement execute function books_of_reservations();

-- What a place holds may be held back from here on, or free again.
create function books_of_places() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
declare
  touched uuid[] := array(select distinct b.component_id from after_it a join before_it f using (id)
    join balances b on b.place_id = a.id where a.held <> f.held);
begin
  if touched = '{}' then return null; end if;
  perform lock_totals(touched);
  update component_totals t set held = (select coalesce(sum(amount_of(b.quantity, b.stretch_mm)), 0) from balances b
    join places p on p.id = b.place_id where b.component_id = t.component_id and p.held)
    where t.component_id = any(touched);
  return null;
end $$;
create trigger places_changed after update on places referencing old table as before_it new table as after_it
  for each statement execute function books_of_places();

-- A component has its totals and its nameless lot from the beginning, and keeps its unit once anything moved.
create function books_of_components() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  if tg_op = 'INSERT' then
    insert into component_totals (component_id) values (new.id);
    insert into lots (component_id, name) values (new.id, '');
    return null;
  end if;
  -- Also says that the component changed, to those who read only what did.
  update component_totals set component_id = component_id where component_id = new.id;
  if new.base_unit <> old.base_unit
      and (select moved from component_totals where component_id = new.id) then
    raise exception 'stock has moved in %', old.base_unit
      using errcode = 'check_violation', constraint = 'base_unit_fixed';
  end if;
  return null;
end $$;
create trigger components_books after insert or update on components
  for each row execute function books_of_components();

-- What a walk posted is posted once.
create function posted_once() returns trigger language plpgsql as $$
begin
  raise exception 'this jar was posted already' using errcode = 'check_violation', constraint = 'posted_once';
end $$;
create trigger stocktake_lines_posted before update on stocktake_lines
  for each row when (old.posted) execute function posted_once();

-- Records that several people edit have a version: nobody overwrites what they did not see.
alter table workshop add version int not null default 1;
alter table workshop add rooms_version int not null default 1;
alter table trials add version int not null default 1;
-- A box that was taken out and made again under its id is another one.
alter table boxes add stamp uuid not null default gen_random_uuid();

-- Written and read to see whether the database takes anything.
create table heartbeat (
  id int primary key default 1 check (id = 1),
  at timestamptz not null default now()
);
insert into heartbeat default values;

-- What the job process did last: the books held against the ledger, and that it is there at all.
create table care (
  what text primary key,
  at timestamptz not null default now(),
  detail jsonb not null
);
create table backups (
  file text primary key,
  made_at timestamptz not null,
  reason text not null,
  bytes bigint not null,
  sha256 text not null,
  -- When it was brought into a scratch database and was the same there; else what went wrong.
  proved_at timestamptz,
  fault text
);
-- Archives that wait to be put in the place of everything: the job process does it, since the ledger can't be emptied
-- by the server's role.
create table restores (
  id uuid primary key,
  asked_at timestamptz not null default now(),
  zip bytea,
  state text not null default 'waiting' check (state in ('waiting', 'done', 'failed')),
  detail jsonb
);

-- Long answers are not kept any more: whoever sends a write again is answered from what is there then.
update requests set answer = 'null' where pg_column_size(answer) > 1000;

-- Puts work for the job process into its queue, by name.
create function ask_job(name text, payload json default '{}') returns void language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  if name not in ('back-up', 'restore', 'check-books') then raise exception 'there is no job called %', name; end if;
  perform graphile_worker.add_job(name, payload, job_key := name || coalesce(payload ->> 'id', ''));
end $$;
