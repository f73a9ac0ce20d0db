-- Intake: files that came in and wait to be sorted into sets, and what is known of their origins.

create table source_card (
  id bigint generated always as identity primary key,
  name text not null unique check (name <> ''),
  definition json not null,
  updated_at timestamptz not null default now()
);

-- One file of one drop (batch). found: what it was recognized as; change: what the user said
-- otherwise; card: the source card that was applied to it, as it was then.
create table arrival (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  sha256 text not null references source,
  name text not null,
  inside text not null default '',
  batch text not null,
  state text not null default 'waiting'
    check (state in ('waiting', 'recognized', 'refused', 'accepted')),
  error text,
  found json,
  hint text not null default '',
  change json not null default '{}',
  card json,
  set_id bigint references texture_set on delete set null,
  created_at timestamptz not null default now()
);
create index arrival_of_project on arrival (project_id, id);
create index arrival_waiting on arrival (id) where state = 'waiting';

-- A file is kept before it is decoded; its thumbnail follows.
alter table source alter column thumbnail drop not null;
