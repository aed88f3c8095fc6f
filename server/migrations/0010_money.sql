-- Up Migration

-- What costs and prices go by: one row of the workshop, with a version of its own.
create table money (
  one boolean primary key default true check (one),
  version int not null default 0,
  -- An hour of work, and what else a box costs.
  wage numeric not null default 0 check (wage >= 0),
  overhead numeric not null default 0 check (overhead >= 0),
  basis text not null default 'average' check (basis in ('average', 'last', 'replacement')),
  ending text not null default '',
  retail_factor numeric check (retail_factor >= 1),
  zone text not null default '',
  service text not null default '',
  -- Where the carrier and the shop are reached; empty: the simulated ones.
  carrier text not null default '',
  shop text not null default '',
  claims numeric not null default 0.01 check (claims >= 0 and claims < 1),
  taken_apart numeric not null default 0.5 check (taken_apart >= 0 and taken_apart < 1),
  sells_at numeric not null default 0.5 check (sells_at >= 0 and sells_at < 1),
  -- What posting cost when the carrier said so last.
  bands jsonb,
  bands_at timestamptz,
  check ((bands is null) = (bands_at is null))
);
insert into money default values;

-- How long one of a step of the work takes, s. None: as the trade does (core/src/contract/money.ts).
create table rates (
  step text primary key,
  position int not null,
  seconds numeric not null check (seconds >= 0),
  spread numeric not null check (spread >= 0),
  n int not null check (n >= 0),
  made_from text not null check (made_from in ('default', 'measured'))
);

-- What was made in the shop is asked for with every cost, among all that ever happened.
create index entries_made on entries (id) where kind = 'made';

-- Where boxes are sold: fees are on the price paid, tax in it.
create table channels (
  id uuid primary key,
  position int not null,
  name text not null,
  fee_rate numeric not null check (fee_rate >= 0 and fee_rate < 1),
  fee_fixed numeric not null check (fee_fixed >= 0),
  tax_rate numeric not null check (tax_rate >= 0),
  discounts jsonb not null default '[]',
  gift jsonb
);

create table box_prices (
  box_id uuid not null references boxes on delete cascade,
  channel_id uuid not null references channels on delete cascade,
  position int not null,
  single numeric not null check (single >= 0),
  subscription numeric check (subscription >= 0),
  primary key (box_id, channel_id)
);

-- What somebody tried on a box, kept under a name.
create table what_ifs (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  name text not null,
  changes jsonb not null
);
create index what_ifs_box on what_ifs (box_id);

-- A line of a buyer's order, or what came back of it. The same source, order and line is the same.
create table sales (
  source text not null,
  order_no text not null,
  line_no text not null,
  kind text not null check (kind in ('sale', 'return')),
  day date not null,
  month date not null,
  theme text not null,
  colourway text not null,
  second text not null,
  quantity int not null check (quantity > 0),
  paid numeric check (paid >= 0),
  offered int check (offered >= 0),
  box_id uuid references boxes on delete set null,
  -- Of box_variants, which may be taken out of the plan since.
  variant_id uuid,
  taken_at timestamptz not null default now(),
  primary key (source, order_no, line_no)
);
create index sales_box on sales (box_id);
create index sales_month on sales (month, lower(theme));
