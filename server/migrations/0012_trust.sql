-- Up Migration

-- Two codes are the same by one rule, the program's (`codeKey` in core): a database's own small letters are others'.
alter table components add code_key text;
update components set code_key = translate(lower(normalize(code, NFKC)), 'ς', 'σ');
update components c set code_key = code_key || ' ' || id
  where exists (select from components o where o.code_key = c.code_key and o.id < c.id);
alter table components alter code_key set not null;
drop index components_code;
create unique index components_code on components (code_key);
-- Who writes by hand, without the program, is given the nearest to it.
create function code_key_by_hand() returns trigger language plpgsql as $$
begin
  new.code_key := coalesce(new.code_key, translate(lower(normalize(new.code, NFKC)), 'ς', 'σ'));
  return new;
end $$;
create trigger components_code_key before insert on components for each row execute function code_key_by_hand();

-- Two places may swap their codes.
alter table places drop constraint places_code_key;
alter table places add constraint places_code unique (code) deferrable initially deferred;

-- What each field of the ledger may be, as the contract has it: what is entered is at most a thousand million, what is
-- derived from it has room.
alter table movements add constraint movements_in_range check (
  abs(quantity) <= 100000000000 and coalesce(counted, 0) <= 100000000000 and balance <= 100000000000
  and stretch_mm <= 100000000 and stretch_mm = trunc(stretch_mm, 4) and quantity = trunc(quantity, 4)
  and u <= 1000000000 and abs(value) <= 10000000000000000000000 and coalesce(cost, 0) between 0 and 10000000000000000000000)
  not valid;
alter table component_totals add constraint component_totals_in_range check (
  on_hand <= 100000000000 and value between 0 and 10000000000000000000000
  and coalesce(last_cost, 0) <= 10000000000000000000000) not valid;
alter table order_lines add constraint order_lines_in_range check (
  quantity <= 1000000000 and price <= 999999999.9999 and coalesce(piece_mm, 0) <= 100000000
  and quantity = trunc(quantity, 4)) not valid;
alter table reservations add constraint reservations_in_range check (
  quantity <= 100000000000 and quantity = trunc(quantity, 4) and coalesce(cut_mm, 0) <= 100000000) not valid;

-- Lengths are whole ten-thousandths of a millimetre.
update run_needs set cut_mm = round(cut_mm, 4) where cut_mm <> round(cut_mm, 4);
update reservations set cut_mm = round(cut_mm, 4) where cut_mm <> round(cut_mm, 4);
alter table run_needs add constraint run_needs_in_range check (
  quantity <= 100000000000 and coalesce(cut_mm, 0) = trunc(coalesce(cut_mm, 0), 4)) not valid;

-- What stood in pieces of a length though it has none, or in none though it has, stands as it should by an entry of its
-- own; there is as much of it as before.
with wrong as (
  select b.*, t.on_hand, amount_of(b.quantity, b.stretch_mm) as amount,
    row_number() over (order by b.component_id, b.place_id, b.lot, b.stretch_mm) as nr
  from balances b join components c on c.id = b.component_id join component_totals t on t.component_id = b.component_id
  where b.quantity > 0 and (c.base_unit = 'mm') <> (b.stretch_mm > 0)
    and (c.base_unit = 'mm' or amount_of(b.quantity, b.stretch_mm) = trunc(amount_of(b.quantity, b.stretch_mm)))
), written as (
  insert into entries (kind, note, request_key)
  select 'moved', 'Kept as its unit says from here on', gen_random_uuid() where exists (select from wrong)
  returning id
)
insert into movements (entry_id, component_id, place_id, lot, stretch_mm, quantity, balance, value, variance_after)
  select written.id, w.component_id, w.place_id, w.lot, x.stretch, x.quantity, w.on_hand - x.gone, 0, 0
  from written, wrong w, lateral (values
    (1, w.stretch_mm, -w.quantity, w.amount),
    (2, case when w.stretch_mm > 0 then 0 else w.amount end, case when w.stretch_mm > 0 then w.amount else 1 end, 0)
  ) as x(half, stretch, quantity, gone) order by w.nr, x.half;

-- What stands somewhere fits its component: only what is kept by length lies in pieces of a length, pieces are whole,
-- grams whole thousandths. Judged when everything of a write is there.
create function balance_fits() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if exists (select from balances b join components c on c.id = b.component_id
      where b.component_id = new.component_id and b.place_id = new.place_id and b.lot = new.lot
        and b.stretch_mm = new.stretch_mm and b.quantity <> 0 and ((c.base_unit = 'mm') <> (b.stretch_mm > 0)
          or c.base_unit <> 'g' and b.quantity <> trunc(b.quantity) or b.quantity <> trunc(b.quantity, 3))) then
    raise exception 'a balance of % does not fit its unit', new.component_id
      using errcode = 'check_violation', constraint = 'balance_fits';
  end if;
  return null;
end $$;
create constraint trigger balances_fit after insert or update on balances
  deferrable initially deferred for each row execute function balance_fits();

-- A unit stands once anything is written in it.
create or replace function books_of_components() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  if tg_op = 'INSERT' then
    insert into component_totals (component_id) values (new.id);
    insert into lots (component_id, name) values (new.id, '');
    return null;
  end if;
  -- Also says that the component changed, to those who read only what did.
  update component_totals set component_id = component_id where component_id = new.id;
  if new.base_unit <> old.base_unit and exists (select from written_in_unit(new.id)) then
    raise exception 'something is written in %', old.base_unit
      using errcode = 'check_violation', constraint = 'base_unit_fixed';
  end if;
  return null;
end $$;
-- What is written in a component's unit, in words; nothing where the unit may still change.
create function written_in_unit(component uuid) returns setof text language sql stable security definer
set search_path = public, pg_temp as $$
  select what from (values
    (1, 'stock has moved', (select moved from component_totals where component_id = component)),
    (2, 'it is on an order', exists (select from order_lines where component_id = component)),
    (3, 'some of it is reserved', exists (select from reservations where component_id = component)),
    (4, 'a committed box needs it', exists (select from run_needs where component_id = component)),
    (5, 'it was counted on a stocktake', exists (select from stocktake_lines where component_id = component)),
    (6, 'it lies beside the designs of a box', exists (select from box_contents where component_id = component))
  ) x(nr, what, holds) where holds order by nr
$$;

-- The home currency stands from the first order, delivery, sale or commitment: what is written is written in it.
create function money_is_written() returns boolean language sql stable security definer
set search_path = public, pg_temp as $$
  select exists (select from orders) or exists (select from movements where cost is not null)
    or exists (select from sales) or exists (select from run_bills)
$$;
create function currency_stands() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  if new.currency <> old.currency and money_is_written() then
    raise exception 'money is written in %', old.currency
      using errcode = 'check_violation', constraint = 'currency_fixed';
  end if;
  return null;
end $$;
create trigger workshop_currency after update on workshop for each row execute function currency_stands();

-- What was sold keeps the box and the variant that it names.
update sales s set variant_id = null where variant_id is not null
  and not exists (select from box_variants v where v.id = s.variant_id and v.box_id = s.box_id);
alter table sales drop constraint sales_box_id_fkey;
alter table sales add constraint sales_of_box foreign key (box_id) references boxes deferrable initially deferred;
alter table sales add constraint sales_of_variant foreign key (variant_id) references box_variants
  deferrable initially deferred;
create index sales_variant on sales (variant_id) where variant_id is not null;

-- While an archive is put in the place of everything, whoever puts it there holds this lock, and nobody else writes:
-- they are told at once, and so never stand in its way. In one place, for whatever may write.
create function restoring_lock() returns bigint language sql immutable as $$ select 7201511005 $$;
create function not_while_restoring() returns trigger language plpgsql set search_path = public, pg_temp as $$
begin
  if not pg_try_advisory_xact_lock_shared(restoring_lock()) then
    raise exception 'an archive is being put in the place of everything' using errcode = 'JC001';
  end if;
  return null;
end $$;
do $$
declare
  name text;
begin
  for name in select tablename from pg_tables where schemaname = 'public'
      and tablename not in ('migrations', 'heartbeat', 'care', 'backups', 'restores') loop
    execute format('create trigger aa_not_while_restoring before insert or update or delete on %I
      for each statement execute function not_while_restoring()', name);
  end loop;
end $$;
