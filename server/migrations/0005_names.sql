-- Up Migration

-- The square of a standard uncertainty is a variance, and is called so.
alter table movements rename u2_after to variance_after;
alter table balances rename u2 to variance;
alter table component_totals rename u2 to variance;
alter table stocktake_lines rename book_u2 to book_variance;
