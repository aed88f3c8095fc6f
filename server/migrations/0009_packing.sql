-- Up Migration

-- A planned box may speak for what was ordered for it, ahead of its committing: a need of no variant.
alter table run_needs alter column variant_id drop not null;

-- What boxes that are packed have used of a need, and what was put in its place, by the movements that name it.
alter table run_needs add used numeric not null default 0;
alter table run_needs add swapped numeric not null default 0;
alter table run_needs add constraint run_needs_used check (used >= 0 and swapped >= 0 and used + swapped <= quantity);

-- How many boxes a run's bill is for; when packing was stopped before all were packed; when it went out.
alter table runs add boxes int;
alter table runs add stopped_at timestamptz;
alter table runs add closed_at timestamptz;
alter table runs add closed_by uuid references people;
update runs u set boxes = (select sum((v ->> 'boxes')::int)
  from run_bills f, json_array_elements(f.body -> 'variants') v
  where f.run_id = u.id and f.no = (select max(no) from run_bills where run_id = u.id));

-- Boxes that are packed, by their numbers within a variant: one is packed once, whoever says so twice.
create table packed_boxes (
  run_id uuid not null references runs on delete cascade,
  variant_id uuid not null,
  no int not null check (no > 0),
  packed_at timestamptz not null,
  person_id uuid references people,
  primary key (run_id, variant_id, no)
);

-- An entry may be of a run, and a movement of one of its needs. Runs and needs may be gone since; the ledger stays.
alter table entries add run_id uuid;
alter table movements add need_id uuid;
create index entries_run on entries (run_id) where run_id is not null;
create index movements_need on movements (need_id) where need_id is not null;

-- How much of a need movements stand for, in its own measure: base units, or pieces of its length.
create function used_of(need uuid, own boolean) returns numeric language sql stable as $$
  select coalesce(-sum(amount_of(m.quantity, m.stretch_mm)) / coalesce(max(n.cut_mm), 1), 0)
  from run_needs n join movements m on m.need_id = n.id
  where n.id = need and (m.component_id = n.component_id) = own
$$;

create function used_follows() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  update run_needs n set used = used_of(n.id, true), swapped = used_of(n.id, false)
    where n.id in (select need_id from added where need_id is not null);
  return null;
end $$;
create trigger movements_used after insert on movements referencing new table as added
  for each statement execute function used_follows();

-- A need that is written anew, from an archive say, begins with what the ledger holds of it.
create function used_before() returns trigger language plpgsql security definer
set search_path = public, pg_temp as $$
begin
  select coalesce(-sum(amount_of(m.quantity, m.stretch_mm)) filter (where m.component_id = new.component_id), 0),
    coalesce(-sum(amount_of(m.quantity, m.stretch_mm)) filter (where m.component_id <> new.component_id), 0)
    into new.used, new.swapped from movements m where m.need_id = new.id;
  new.used := new.used / coalesce(new.cut_mm, 1);
  new.swapped := new.swapped / coalesce(new.cut_mm, 1);
  return new;
end $$;
create trigger run_needs_used before insert on run_needs for each row execute function used_before();
