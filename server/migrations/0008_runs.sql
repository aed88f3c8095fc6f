-- Up Migration

-- How much is put in to spare, as a list of rules; null: as the trade usually does (core/src/contract/spare.ts).
alter table workshop add spares jsonb;

alter table boxes add bagging text not null default 'together' check (bagging in ('together', 'project'));
alter table box_roles add once_a_box boolean not null default false;
alter table box_roles add spare numeric check (spare >= 0);

-- What lies in a box beside its designs: so many of a component, or of whole packs of it.
create table box_contents (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  component_id uuid not null references components,
  first uuid references box_choices on delete cascade,
  quantity numeric not null check (quantity > 0),
  pack text,
  pack_amount numeric check (pack_amount > 0),
  spare numeric check (spare >= 0),
  check ((pack is null) = (pack_amount is null))
);
create index box_contents_box on box_contents (box_id);
create index box_contents_component on box_contents (component_id);

-- A run of a box: one for now. `pack_by` null: the 20th of the month before.
create table runs (
  id uuid primary key default gen_random_uuid(),
  box_id uuid not null unique references boxes on delete cascade,
  state text not null default 'planned' check (state in ('planned', 'committed', 'packing', 'sent')),
  pack_by date
);
insert into runs (box_id) select id from boxes;

-- The bills that a run was committed with, numbered; the last one holds.
create table run_bills (
  run_id uuid not null references runs on delete cascade,
  no int not null check (no > 0),
  -- As it was written: nobody looks for anything inside it.
  body json not null,
  made_at timestamptz not null default now(),
  person_id uuid references people,
  primary key (run_id, no)
);
create function bill_is_frozen() returns trigger language plpgsql as $$
begin
  raise exception 'a frozen bill is never changed: freeze another one';
end $$;
create trigger run_bills_frozen before update on run_bills for each row execute function bill_is_frozen();

-- What a committed run needs, by variant: an amount in the base unit, or pieces of cut_mm.
create table run_needs (
  id uuid primary key,
  run_id uuid not null references runs on delete cascade,
  -- Of box_variants, which may be taken out of the plan while the run still needs it.
  variant_id uuid not null,
  component_id uuid not null references components,
  cut_mm numeric check (cut_mm > 0),
  quantity numeric not null check (quantity > 0),
  spare numeric not null check (spare >= 0)
);
create index run_needs_run on run_needs (run_id);
create index run_needs_component on run_needs (component_id);

-- A reservation may cover a run's need, from stock or from a line of an order that is still to come.
alter table reservations add need_id uuid references run_needs on delete cascade;
alter table reservations add order_line_id uuid;
alter table reservations add foreign key (order_line_id, component_id) references order_lines (id, component_id);
create index reservations_need on reservations (need_id) where need_id is not null;
create index reservations_order_line on reservations (order_line_id) where order_line_id is not null;

-- How long each piece of a line of stringing is; null: as long as a pack.
alter table order_lines add piece_mm numeric check (piece_mm > 0);
-- What boxes speak for on it, by the reservations: never more than is still to come.
alter table order_lines add spoken_for numeric not null default 0;
alter table order_lines add constraint order_lines_spoken_for
  check (spoken_for >= 0 and spoken_for <= greatest(quantity - received, 0));

-- Offers keep their identity when a component is saved.
create index if not exists offers_component_position on offers (component_id, position);

-- Only what is taken of stock is spoken for in the jar; what is taken of an order, on its line.
create or replace function books_of_reservations() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
declare
  touched uuid[];
  lines uuid[];
begin
  if tg_op = 'INSERT' then
    select array_agg(distinct component_id), array_agg(distinct order_line_id) filter (where order_line_id is not null)
      into touched, lines from after_it;
  elsif tg_op = 'DELETE' then
    select array_agg(distinct component_id), array_agg(distinct order_line_id) filter (where order_line_id is not null)
      into touched, lines from before_it;
  else
    select array_agg(distinct component_id), array_agg(distinct order_line_id) filter (where order_line_id is not null)
      into touched, lines from (select * from after_it union all select * from before_it) x;
  end if;
  if touched is null then return null; end if;
  perform lock_totals(touched);
  update component_totals t set spoken_for = (select coalesce(sum(r.quantity * coalesce(r.cut_mm, 1)), 0)
    from reservations r where r.component_id = t.component_id and r.released_at is null and r.order_line_id is null)
    where t.component_id = any(touched);
  update order_lines l set spoken_for = (select coalesce(sum(r.quantity * coalesce(r.cut_mm, 1)), 0)
    from reservations r where r.order_line_id = l.id and r.released_at is null)
    where l.id = any(lines);
  return null;
end $$;
create trigger reservations_gone after delete on reservations referencing old table as before_it
  for each statement execute function books_of_reservations();
drop trigger reservations_changed on reservations;
create trigger reservations_changed after update on reservations
  referencing old table as before_it new table as after_it
  for each statement execute function books_of_reservations();
