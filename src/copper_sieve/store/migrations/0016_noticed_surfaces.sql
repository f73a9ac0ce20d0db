-- Files in Intake that show one surface under several lights, as they were noticed.

-- arrivals : of which files, in order; sha256s : their bytes when they were looked at
-- state : looking (nobody has found the lights yet), found, refused, declined (they are different
-- things, says the user) or taken (into a set)
-- shots : what was found, as a set keeps it; error : why nothing could be
create table noticed_surface (
  id bigint generated always as identity primary key,
  project_id bigint not null references project on delete cascade,
  batch text not null,
  arrivals bigint[] not null,
  sha256s text[] not null,
  name text not null check (name <> ''),
  state text not null default 'looking'
    check (state in ('looking', 'found', 'refused', 'declined', 'taken')),
  shots jsonb,
  error text,
  created_at timestamptz not null default now()
);
create index noticed_surface_of_project on noticed_surface (project_id, state);
