-- Up Migration

-- Put away: kept, but out of the way.
alter table designs add archived boolean not null default false;

-- The bench log: each trial make of a design, what it really took.
create table trials (
  id uuid primary key,
  design_id uuid not null,
  revision int not null,
  person_id uuid references people,
  made_on date not null,
  body jsonb not null,
  written_at timestamptz not null default now(),
  foreign key (design_id, revision) references design_revisions (design_id, no)
);
create index trials_design on trials (design_id);
