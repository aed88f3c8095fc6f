-- Up Migration

-- By which marks cuts are measured, and where a day begins.
alter table workshop add ruler text not null default 'in' check (ruler in ('in', 'mm'));
alter table workshop add time_zone text not null default '';

-- The usual rules of spares doubled what is single. Who kept them as they were has the new ones; who changed them keeps
-- what they say.
update workshop set spares = null where spares = '[
  {"kinds":["packaging"],"forms":[],"sizes":[],"units":[],"closes":false,"from":null,"to":null,"costFrom":null,"costTo":null,"add":0,"part":0,"id":"packaging","name":"no packaging to spare"},
  {"kinds":[],"forms":["needle"],"sizes":[],"units":[],"closes":false,"from":null,"to":null,"costFrom":null,"costTo":null,"add":1,"part":0,"id":"needle","name":"a second needle"},
  {"kinds":[],"forms":[],"sizes":[],"units":["piece"],"closes":true,"from":null,"to":null,"costFrom":null,"costTo":null,"add":2,"part":0,"id":"closing","name":"two more of what closes a size"},
  {"kinds":["bead"],"forms":[],"sizes":[],"units":["g"],"closes":false,"from":null,"to":null,"costFrom":null,"costTo":null,"add":0,"part":0.1,"id":"grams","name":"a tenth over by weight"},
  {"kinds":[],"forms":["crimp tube","crimp bead","crimp cover"],"sizes":[],"units":[],"closes":false,"from":null,"to":null,"costFrom":null,"costTo":null,"add":2,"part":0,"id":"crimps","name":"two more crimps and covers"},
  {"kinds":["bead","focal","finding"],"forms":[],"sizes":[],"units":["piece"],"closes":false,"from":null,"to":10,"costFrom":null,"costTo":null,"add":1,"part":0,"id":"ten","name":"one more of anything counted up to ten"}
]'::jsonb;
