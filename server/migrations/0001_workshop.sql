-- Up Migration

create table workshop (
  id int primary key default 1 check (id = 1),
  name text not null,
  currency char(3) not null
);
insert into workshop (name, currency) values ('My workshop', 'GBP');

-- A write that is sent twice happens once: its key, what it said and what it was answered.
create table requests (
  key uuid primary key,
  body_hash text not null,
  answer jsonb not null,
  answered_at timestamptz not null default now()
);

create table components (
  id uuid primary key,
  code text not null,
  name text not null,
  kind text not null,
  shape text,
  colour text not null,
  finish text not null,
  base_unit text not null check (base_unit in ('piece', 'mm', 'g')),
  along_mm numeric,
  across_mm numeric,
  hole_mm numeric,
  link_mm numeric,
  per_gram numeric,
  version int not null default 1
);
create unique index components_code on components (lower(code));

create table offers (
  id uuid primary key default gen_random_uuid(),
  component_id uuid not null references components,
  pack text not null,
  quantity numeric not null check (quantity > 0),
  price numeric(13, 4) not null check (price >= 0)
);
create index offers_component on offers (component_id);

create table places (
  id uuid primary key default gen_random_uuid(),
  code text not null unique,
  name text not null
);
insert into places (code, name) values ('SHELF', 'The shelf');

-- The ledger: entries of movements, appended only. Balances are kept beside it in the same transaction.
create table entries (
  id bigint generated always as identity primary key,
  kind text not null check (kind in ('received', 'counted')),
  happened_at timestamptz not null default now(),
  note text not null default '',
  request_key uuid not null unique
);

create table movements (
  id bigint generated always as identity primary key,
  entry_id bigint not null references entries,
  component_id uuid not null references components,
  place_id uuid not null references places,
  quantity numeric not null,
  -- What a count found; the quantity is then its difference from the book.
  counted numeric,
  balance numeric not null check (balance >= 0)
);
create index movements_component on movements (component_id, id);

create table balances (
  component_id uuid not null references components,
  place_id uuid not null references places,
  quantity numeric not null check (quantity >= 0),
  primary key (component_id, place_id)
);

create function ledger_is_append_only() returns trigger language plpgsql as $$
begin
  raise exception 'the stock ledger is append-only: reverse an entry by another one';
end $$;
create trigger entries_append_only before update or delete or truncate on entries
  for each statement execute function ledger_is_append_only();
create trigger movements_append_only before update or delete or truncate on movements
  for each statement execute function ledger_is_append_only();

create table designs (
  id uuid primary key,
  newest int not null
);

create table design_revisions (
  design_id uuid not null references designs,
  no int not null,
  body jsonb not null,
  reason text not null default '',
  saved_at timestamptz not null default now(),
  primary key (design_id, no)
);

create table boxes (
  id uuid primary key,
  month date not null check (extract(day from month) = 1),
  theme text not null,
  version int not null default 1
);

create table box_lines (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  design_id uuid not null,
  revision int not null,
  times int not null check (times > 0),
  size text,
  option text,
  foreign key (design_id, revision) references design_revisions (design_id, no)
);
create index box_lines_box on box_lines (box_id);

-- Choices on two axes: 1 the colourways, 2 a second choice beside them.
create table box_choices (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  axis smallint not null check (axis in (1, 2)),
  position int not null,
  name text not null
);
create index box_choices_box on box_choices (box_id);

create table box_variants (
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  first uuid not null references box_choices on delete cascade,
  second uuid references box_choices on delete cascade,
  boxes int not null check (boxes >= 0),
  unique nulls not distinct (box_id, first, second)
);

create table box_roles (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  name text not null,
  kind text not null,
  follows text not null check (follows in ('first', 'second', 'both', 'none'))
);
create index box_roles_box on box_roles (box_id);

create table box_bindings (
  line_id uuid not null references box_lines on delete cascade,
  role text not null,
  box_role_id uuid not null references box_roles on delete cascade,
  primary key (line_id, role)
);

create table box_picks (
  box_role_id uuid not null references box_roles on delete cascade,
  first uuid references box_choices on delete cascade,
  second uuid references box_choices on delete cascade,
  component_id uuid not null references components,
  unique nulls not distinct (box_role_id, first, second)
);
