-- What a chosen component does wrong by the checks of fit, and somebody let stand: with the box's choice, and gone
-- with it. Findings of a design alone are kept in its revision.
create table box_overrules (
  id uuid primary key,
  box_id uuid not null references boxes on delete cascade,
  position int not null,
  line uuid not null references box_lines on delete cascade,
  first uuid not null references box_choices on delete cascade,
  second uuid references box_choices on delete cascade,
  -- The component that was chosen then: another one is judged anew.
  component uuid not null references components,
  rule text not null,
  part text,
  role text not null,
  size text,
  need double precision not null,
  have double precision not null,
  note text not null,
  who text not null,
  said_on text not null
);
create index box_overrules_box on box_overrules (box_id);
create index box_overrules_line on box_overrules (line);
create index box_overrules_first on box_overrules (first);
create index box_overrules_second on box_overrules (second);
create index box_overrules_component on box_overrules (component);
