-- Up Migration

-- By which marks cuts are measured, and where a day begins.
alter table workshop add ruler text not null default 'in' check (ruler in ('in', 'mm'));
alter table workshop add time_zone text not null default '';
