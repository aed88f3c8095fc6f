-- Up Migration

-- How numbers and dates are written; empty: as each browser does.
alter table workshop add locale text not null default '';
