-- Targets that people made: copies of the built-in ones, changed; for every project.

create table target (
  id text primary key check (id <> ''),
  version integer not null default 1,
  definition json not null,
  updated_at timestamptz not null default now()
);
