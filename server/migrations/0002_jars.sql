-- Up Migration

-- Tells this workshop's lists from another's, so that nothing fetched from one is taken for the other's.
alter table workshop add made uuid not null default gen_random_uuid();
-- Where others reach this workshop: printed on labels as an address.
alter table workshop add public_address text not null default '';

create table people (
  id uuid primary key,
  position int not null,
  name text not null
);
create table suppliers (
  id uuid primary key,
  position int not null,
  name text not null,
  lead_days int check (lead_days between 0 and 730)
);

alter table components rename column shape to form;
-- Everything that not every kind of component has, by the contract's names.
alter table components add attrs jsonb not null default '{}';
alter table components add reorder_at numeric check (reorder_at >= 0);
create index components_code_order on components (kind, name, code);

alter table offers add position int not null default 0;
alter table offers add supplier_id uuid references suppliers;
alter table offers rename column quantity to amount;
alter table offers add unit text not null default 'piece' check (unit in ('piece', 'mm', 'g'));
update offers o set unit = c.base_unit from components c where c.id = o.component_id;
alter table offers add steps jsonb not null default '[]';
alter table offers add minimum int not null default 1 check (minimum > 0);
alter table offers add lead_days int check (lead_days between 0 and 730);

alter table places add position int not null default 0;
alter table places add held boolean not null default false;

-- A jar: a component at a place, with what it weighs empty.
create table jars (
  component_id uuid not null references components,
  place_id uuid not null references places,
  tare_g numeric check (tare_g >= 0),
  primary key (component_id, place_id)
);

-- A lot (dye lot, delivery) of a component, with what was learnt of one piece by weighing.
create table lots (
  component_id uuid not null references components,
  name text not null,
  mass_g numeric check (mass_g > 0),
  mass_u numeric,
  mass_sd numeric,
  mass_pieces int,
  primary key (component_id, name)
);
insert into lots (component_id, name) select id, '' from components;

alter table entries drop constraint entries_kind_check;
alter table entries add constraint entries_kind_check check (kind in (
  'received', 'returned', 'put back', 'swapped in', 'counted', 'used', 'tried', 'broken', 'given', 'swapped out', 'sent back',
  'cut', 'moved', 'held back', 'made', 'reversed'));
alter table entries add person_id uuid references people;
alter table entries add reverses bigint unique references entries;
alter table entries add minutes numeric check (minutes >= 0);

alter table movements disable trigger movements_append_only;
alter table movements add lot text not null default '';
-- For what is kept by length: how long each piece is, and the quantity is in pieces. 0 for everything else.
alter table movements add stretch_mm numeric not null default 0 check (stretch_mm >= 0);
alter table movements add u numeric not null default 0 check (u >= 0);
alter table movements add u2_after numeric not null default 0 check (u2_after >= 0);
alter table movements add value numeric(20, 8) not null default 0;
alter table movements add cost numeric(20, 8);
alter table movements add entered text not null default '';
alter table movements enable trigger movements_append_only;
alter table movements add foreign key (component_id, lot) references lots;
create index movements_entry on movements (entry_id);

-- What stands where, kept beside the ledger in the same transaction; never below zero.
drop table balances;
create table balances (
  component_id uuid not null references components,
  place_id uuid not null references places,
  lot text not null,
  stretch_mm numeric not null,
  quantity numeric not null check (quantity >= 0),
  u2 numeric not null check (u2 >= 0),
  primary key (component_id, place_id, lot, stretch_mm),
  foreign key (component_id, lot) references lots
);

-- A component in all, in its base unit.
create table component_totals (
  component_id uuid primary key references components,
  on_hand numeric not null default 0 check (on_hand >= 0),
  u2 numeric not null default 0,
  value numeric(20, 8) not null default 0,
  last_cost numeric(20, 8),
  held numeric not null default 0,
  spoken_for numeric not null default 0,
  on_the_way numeric not null default 0,
  moved boolean not null default false,
  -- The transaction that changed the component or its stock last: who has read up to here need only read what is newer.
  changed xid8 not null default pg_current_xact_id()
);
create index component_totals_changed on component_totals (changed);
create function mark_changed() returns trigger language plpgsql as $$
begin
  new.changed := pg_current_xact_id();
  return new;
end $$;
create trigger component_totals_changed before update on component_totals for each row execute function mark_changed();
insert into component_totals (component_id) select id from components;

-- What was kept by length as one sum becomes one piece of that length, by an entry of its own.
with sums as (
  select m.component_id, m.place_id, sum(m.quantity) as mm from movements m join components c on c.id = m.component_id
  where c.base_unit = 'mm' group by 1, 2 having sum(m.quantity) > 0
), written as (
  insert into entries (kind, note, request_key) select 'moved', 'Kept in pieces of a length from here on', gen_random_uuid() where exists (select from sums) returning id
)
insert into movements (entry_id, component_id, place_id, stretch_mm, quantity, balance)
  select written.id, s.component_id, s.place_id, x.stretch, x.quantity, s.mm
  from written, sums s, lateral (values (0, -s.mm), (s.mm, 1)) as x(stretch, quantity);
insert into balances (component_id, place_id, lot, stretch_mm, quantity, u2)
  select component_id, place_id, lot, stretch_mm, sum(quantity), 0 from movements group by 1, 2, 3, 4;
update component_totals t set on_hand = s.on_hand, moved = true
  from (select component_id, sum(quantity * case when stretch_mm > 0 then stretch_mm else 1 end) as on_hand from movements group by 1) s
  where s.component_id = t.component_id;

create table reservations (
  id uuid primary key default gen_random_uuid(),
  component_id uuid not null references components,
  purpose text not null,
  -- In the base unit; pieces of cut_mm where that is given.
  quantity numeric not null check (quantity > 0),
  cut_mm numeric check (cut_mm > 0),
  person_id uuid references people,
  made_at timestamptz not null default now(),
  released_at timestamptz
);
create index reservations_open on reservations (component_id) where released_at is null;

create table orders (
  id uuid primary key,
  supplier_id uuid not null references suppliers,
  number text not null,
  placed_on date not null,
  currency char(3) not null,
  rate numeric(14, 8) not null check (rate > 0),
  note text not null default '',
  version int not null default 1
);
create table order_lines (
  id uuid primary key,
  order_id uuid not null references orders on delete cascade,
  position int not null,
  component_id uuid not null references components,
  pack text not null,
  packs int not null check (packs > 0),
  quantity numeric not null check (quantity > 0),
  price numeric(13, 4) not null check (price >= 0),
  due date,
  received numeric not null default 0 check (received >= 0)
);
create index order_lines_order on order_lines (order_id);
create index order_lines_component on order_lines (component_id);

create table stocktakes (
  id uuid primary key,
  started_at timestamptz not null default now(),
  version int not null default 1
);
create table stocktake_lines (
  stocktake_id uuid not null references stocktakes on delete cascade,
  component_id uuid not null references components,
  place_id uuid not null references places,
  lot text not null,
  stretch_mm numeric not null,
  how text not null check (how in ('counted', 'weighed', 'skipped')),
  counted numeric not null check (counted >= 0),
  u numeric not null check (u >= 0),
  entered text not null,
  book numeric not null,
  book_u2 numeric not null,
  posted boolean not null default false,
  counted_at timestamptz not null default now(),
  primary key (stocktake_id, component_id, place_id, lot, stretch_mm)
);
