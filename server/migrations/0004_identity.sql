-- Up Migration

-- A variant keeps its row when its box is saved, and has an id that others may point at.
alter table box_variants add id uuid not null default gen_random_uuid() primary key;

-- What a choice or a component is used by is asked for every box on the shelf.
create index box_picks_first on box_picks (first);
create index box_picks_second on box_picks (second);
create index box_picks_component on box_picks (component_id);
create index box_lines_design on box_lines (design_id);
create index box_bindings_role on box_bindings (box_role_id);

create index requests_answered_at on requests (answered_at);
